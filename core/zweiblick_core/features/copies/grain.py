"""The grain of a plane, and how far that of two places agrees.

Two copies share their noise, two similar bricks do not: the agreement 1 - var(A - B) / (var A + var B)
is near 0 for natural repetition and near 1 for a copy (a form of the correlation test of Fridrich,
Soukal and Lukas 2003 on the noise residual of Lukas, Fridrich and Goljan 2006).
"""

from __future__ import annotations

import cv2
import numpy as np

#: Patches whose high-passed deviation is below this hold nothing that could tell a copy, levels of
#: 255.
EMPTY = 0.45


def high_pass(luma: np.ndarray, usual: float | None = None) -> np.ndarray:
    """What is finer than about 3 px, evened out; float32.

    A rail or a board's edge is the same all along itself: left as strong as it is, it would make
    any two patches of it agree. So the
    plane is divided by its own local strength, above what the quieter half of the picture has.

    Args:
        usual: that strength, levels, where `luma` is a small part of the picture.
    """
    return high_passed(luma, usual)[0]


def high_passed(luma: np.ndarray, usual: float | None = None) -> tuple[np.ndarray, float]:
    """`high_pass`, and how strong what is finer than about 3 px is in the quieter half of the
    picture, levels.
    """
    fine = cv2.subtract(luma, cv2.GaussianBlur(luma, (0, 0), 1.3))
    strength = cv2.sqrt(cv2.GaussianBlur(cv2.multiply(fine, fine), (0, 0), 3.0))
    usual = max(float(np.median(strength[::4, ::4])), 0.3) if usual is None else usual
    # In place: these planes are large.
    even = cv2.divide(usual, np.maximum(strength, usual, out=strength), dst=strength)
    return cv2.multiply(fine, even, dst=fine), usual


def mid_band(luma: np.ndarray, step: int = 2) -> np.ndarray:
    """Structure between about 3 and 16 px at half resolution, or between about 6 and 16 px at a
    quarter of it; float32.
    """
    less = cv2.resize(
        luma,
        (max(1, luma.shape[1] // step), max(1, luma.shape[0] // step)),
        interpolation=cv2.INTER_AREA,
    )
    return cv2.GaussianBlur(less, (0, 0), 0.8 if step == 2 else 0.5) - cv2.GaussianBlur(
        less, (0, 0), 12.0 / step
    )


def agreement(first: np.ndarray, second: np.ndarray) -> float:
    """1 - var(A - B) / (var A + var B); 0 if either is empty."""
    power = variance(first) + variance(second)
    return 1.0 - variance(cv2.subtract(first, second)) / power if power > 2 * EMPTY**2 else 0.0


def variance(plane: np.ndarray) -> float:
    """What `np.var` gives for float32 (height, width) or (n,), in one pass."""
    return float(cv2.meanStdDev(plane)[1][0, 0]) ** 2


def steepness(luma: np.ndarray) -> np.ndarray:
    """How much structure a pixel lies in: the gradient after a Gaussian that takes the grain away,
    the largest of its neighbours'; float32.
    """
    calm = cv2.GaussianBlur(luma, (0, 0), 1.2)
    steep: np.ndarray = cv2.dilate(
        cv2.magnitude(cv2.Sobel(calm, cv2.CV_32F, 1, 0), cv2.Sobel(calm, cv2.CV_32F, 0, 1)),
        np.ones((3, 3), np.uint8),
    )
    return steep


def plain_agreement(
    first: np.ndarray, second: np.ndarray, steep: np.ndarray, inside: np.ndarray | None = None
) -> tuple[float, float]:
    """The agreement of two patches over the two fifths of their pixels with the least structure,
    and the lesser deviation there.

    Args:
        inside: bool, the pixels that are compared, where not all are.
    """
    if inside is not None:
        first, second, steep = first[inside], second[inside], steep[inside]
    rank = int(0.4 * (steep.size - 1))
    flat = steep <= np.partition(steep.ravel(), rank)[rank]
    a, b = first[flat], second[flat]
    own, other = variance(a), variance(b)
    return (1.0 - variance(a - b) / (own + other) if own + other > 1e-6 else 0.0), float(
        np.sqrt(min(own, other))
    )
