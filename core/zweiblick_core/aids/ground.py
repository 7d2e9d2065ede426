"""What is the same for both sides of a comparison, measured once on the original."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..scene.noise import measure_grain


@dataclass(frozen=True)
class Ground:
    """`mean`: red, green, blue, levels of 255; `grain`: noise deviation in the flattest places,
    levels of 255, at least a quarter.
    """

    mean: tuple[float, float, float]
    grain: float


def measure_ground(pixels: np.ndarray) -> Ground:
    """The ground of an original, uint8 (height, width, 3)."""
    luma = cv2.cvtColor(np.ascontiguousarray(pixels), cv2.COLOR_RGB2GRAY)
    red, green, blue = cv2.mean(np.ascontiguousarray(pixels))[:3]
    return Ground(
        (round(red, 3), round(green, 3), round(blue, 3)),
        round(max(0.25, measure_grain(luma).sigma), 3),
    )
