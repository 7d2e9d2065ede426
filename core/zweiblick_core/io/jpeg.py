"""What quality a JPEG was saved at."""

from __future__ import annotations

import numpy as np


def jpeg_quality(tables: dict[int, list[int]]) -> int | None:
    """Quality 1..100 whose scaled luminance table (ITU-T T.81, annex K, as scaled by libjpeg) comes
    nearest.

    Args:
        tables: quantisation tables by number, 64 integers each.
    """
    if not tables:
        return None
    table = np.sort(np.asarray(tables[min(tables)], dtype=float))
    base = np.sort(
        np.array(
            [
                16,
                11,
                10,
                16,
                24,
                40,
                51,
                61,
                12,
                12,
                14,
                19,
                26,
                58,
                60,
                55,
                14,
                13,
                16,
                24,
                40,
                57,
                69,
                56,
                14,
                17,
                22,
                29,
                51,
                87,
                80,
                62,
                18,
                22,
                37,
                56,
                68,
                109,
                103,
                77,
                24,
                35,
                55,
                64,
                81,
                104,
                113,
                92,
                49,
                64,
                78,
                87,
                103,
                121,
                120,
                101,
                72,
                92,
                95,
                98,
                112,
                100,
                103,
                99,
            ],
            dtype=float,
        )
    )
    qualities = np.arange(1, 101)
    scale = np.where(qualities < 50, 5000 / qualities, 200 - 2 * qualities)
    candidates = np.clip(np.floor((base[None, :] * scale[:, None] + 50) / 100), 1, 255)
    return int(qualities[np.argmin(np.abs(candidates - table[None, :]).sum(1))])
