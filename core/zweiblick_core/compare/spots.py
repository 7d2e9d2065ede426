"""What stands at one spot of a picture, as a person reads it: colour, and how noisy it is there."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from skimage.color import deltaE_ciede2000, rgb2lab

#: Half the side of the square whose noise is stated, pixels.
AROUND = 7


@dataclass(frozen=True)
class Spot:
    """`srgb`: three values 0..255; `lab`: CIELAB (D65), L* 0..100; `noise`: deviation of the finest
    detail around it, levels of 255.
    """

    srgb: tuple[float, float, float]
    lab: tuple[float, float, float]
    noise: float


def spot(patch: np.ndarray, x: int, y: int) -> Spot:
    """Read one pixel of a patch.

    Args:
        patch: uint8 (height, width, 3), sRGB; what lies within `AROUND` of the pixel should be in
            it, and may be missing at a picture's edge.
        x, y: the pixel, within the patch.

    Raises:
        ValueError: outside the patch.

    Noise is that of Immerkaer 1996: the mean of the finest Laplacian's amount, which a slope leaves
        at zero.
    """
    height, width = patch.shape[:2]
    if not (0 <= x < width and 0 <= y < height):
        raise ValueError(f"({x}, {y}) lies outside a patch of {width}x{height}")
    red, green, blue = (float(value) for value in patch[y, x])
    # Straight from sRGB, OpenCV looks colours up in a coarse table, up to .4 beside what is read
    # elsewhere.
    lab = rgb2lab(patch[y : y + 1, x : x + 1])[0, 0]
    near = patch[max(0, y - AROUND) : y + AROUND + 1, max(0, x - AROUND) : x + AROUND + 1]
    luma = cv2.cvtColor(np.ascontiguousarray(near, np.float32), cv2.COLOR_RGB2GRAY)
    noise = 0.0
    if min(luma.shape) >= 3:
        kernel = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
        noise = float(
            np.abs(cv2.filter2D(luma, -1, kernel)[1:-1, 1:-1]).mean() * np.sqrt(np.pi / 2) / 6
        )
    return Spot(
        (red, green, blue),
        (round(float(lab[0]), 2), round(float(lab[1]), 2), round(float(lab[2]), 2)),
        round(noise, 2),
    )


def apart(first: Spot, second: Spot) -> float:
    """Their colour difference, CIEDE2000 (CIE 142-2001)."""
    return round(float(deltaE_ciede2000(np.array(first.lab), np.array(second.lab))), 2)
