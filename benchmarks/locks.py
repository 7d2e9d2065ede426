"""How surely a lock tells an edit from a file that was only saved anew: false alarms over
re-encodings of the demo's pictures, and the smallest change of a place that is found.

.venv/bin/python benchmarks/locks.py
"""

from __future__ import annotations

import io
import sys
from itertools import product
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

REPO = Path(__file__).parent.parent
sys.path[:0] = [str(REPO), str(REPO / "core")]
from demo import scenario  # noqa: E402
from zweiblick_core.compare import same_pixels, same_when_saved_anew, saved_as  # noqa: E402
from zweiblick_core.compare.locks import Proof  # noqa: E402
from zweiblick_core.io import Picture, read  # noqa: E402
from zweiblick_core.regions import Region  # noqa: E402
from zweiblick_core.regions.masks import cropped  # noqa: E402

QUALITIES = (80, 84, 88, 92, 95, 98)
#: Sides of a square that is changed, pixels; by so many levels.
SIDES, LEVELS = (1, 2, 4, 8), (1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48)


def saved(pixels: np.ndarray, kind: str, **more: object) -> Picture:
    """Pixels saved and read again."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, kind, **more)  # type: ignore[arg-type]
    return read(out.getvalue())


def proven(before: Picture, after: Picture, locked: Region, sent: Region) -> Proof:
    """As a returned file is proven."""
    proof = same_pixels(before.pixels, after.pixels, locked, others=[sent])
    expected = None if proof.same else saved_as(before, after)
    if expected is None:
        return proof
    return same_when_saved_anew(expected, after.pixels, locked, others=[sent])


def main() -> None:
    ways = [("PNG", {}), ("TIFF", {})]
    ways += [
        ("JPEG", {"quality": quality, "subsampling": sampling, "progressive": progressive})
        for quality, sampling, progressive in product(QUALITIES, (0, 1, 2), (False, True))
    ]
    alarms = tried = 0
    smallest: dict[tuple[str, int], list[int]] = {}
    for picture in scenario.PICTURES_OF_JOB:
        it = scenario.scene(picture.slug)
        if len(it.regions) < 2:
            continue
        sent, locked = (cropped(mask, str(n)) for n, mask in enumerate(it.regions[:2], 1))
        before = saved(it.original, "PNG")
        worked = it.original.copy()
        worked[it.regions[0]] = it.truth[it.regions[0]]
        middle = np.unravel_index(
            cv2.distanceTransform(it.regions[1].view(np.uint8), cv2.DIST_L2, 5).argmax(),
            it.regions[1].shape,
        )
        for kind, more in ways:
            tried += 1
            alarms += not proven(before, saved(worked, kind, **more), locked, sent).same
        for kind, more in (("PNG", {}), *(("JPEG", {"quality": q}) for q in (80, 90, 98))):
            for side in SIDES:
                y, x = int(middle[0]) - side // 2, int(middle[1]) - side // 2
                for levels in LEVELS:
                    edited = worked.copy()
                    part = edited[y : y + side, x : x + side].astype(int)
                    sign = 1 if part.mean() < 128 else -1
                    edited[y : y + side, x : x + side] = np.clip(part + sign * levels, 0, 255)
                    if not proven(before, saved(edited, kind, **more), locked, sent).same:
                        name = f"{kind} {more.get('quality', '')}".strip()
                        smallest.setdefault((name, side), []).append(levels)
                        break
    print(f"false alarms: {alarms} of {tried} re-encodings")
    for (name, side), found in smallest.items():
        print(f"{name}: a square of {side} px is found from {min(found)} to {max(found)} levels on")


if __name__ == "__main__":
    main()
