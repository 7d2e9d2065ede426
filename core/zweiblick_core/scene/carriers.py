"""What carries the picture: compression and grain. Every null depends on them, so they are
estimated once a check.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass

import numpy as np

from ..io import Picture
from .compression import Compression, measure_compression
from .noise import Grain, measure_grain


@dataclass(frozen=True)
class Carriers:
    """What carries a picture and every flaw in it: how either was compressed, and its grain."""

    original_compression: Compression
    original_grain: Grain
    result_compression: Compression
    result_grain: Grain

    def facts(self) -> dict[str, object]:
        """As the report states them."""
        return {
            "original": {
                "compression": asdict(self.original_compression),
                "grain": asdict(self.original_grain),
            },
            "result": {
                "compression": asdict(self.result_compression),
                "grain": asdict(self.result_grain),
            },
        }


def measure_carriers(
    original: Picture, result: Picture, original_luma: np.ndarray, result_luma: np.ndarray
) -> Carriers:
    """Both pictures' carriers. The lumas are float or uint8 (height, width), 0..255."""
    return Carriers(
        measure_compression(original, original_luma),
        measure_grain(original_luma),
        measure_compression(result, result_luma),
        measure_grain(result_luma),
    )
