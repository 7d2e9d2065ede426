"""Planes made from decoded pictures of any depth: luma, CIELAB, differences, reductions. By some
rows at a time, so that what lies between is never a whole plane.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..io import eight_bit

#: How many rows are worked on at once: a processor keeps them near it.
_ROWS = 64


def luma_of(rgb: np.ndarray) -> np.ndarray:
    """Rec. 601 luma, float32 0..255, of sRGB (n, m, 3) of any depth."""
    luma = np.empty(rgb.shape[:2], np.float32)
    for top in range(0, len(rgb), _ROWS):
        luma[top : top + _ROWS] = cv2.cvtColor(
            np.ascontiguousarray(eight_bit(rgb[top : top + _ROWS])), cv2.COLOR_RGB2GRAY
        )
    return luma


def lab_of(rgb: np.ndarray) -> np.ndarray:
    """CIELAB (D65), float32, L 0..100, of sRGB (n, m, 3) of any depth."""
    return luma_and_lab(rgb)[1]


def luma_and_lab(rgb: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """`luma_of` and `lab_of` at once."""
    luma, lab = np.empty(rgb.shape[:2], np.float32), np.empty(rgb.shape, np.float32)
    for top in range(0, len(rgb), _ROWS):
        here = np.ascontiguousarray(eight_bit(rgb[top : top + _ROWS]))
        luma[top : top + _ROWS] = cv2.cvtColor(here, cv2.COLOR_RGB2GRAY)
        lab[top : top + _ROWS] = cv2.cvtColor(here * np.float32(1 / 255), cv2.COLOR_RGB2LAB)
    return luma, lab


def reduced_of(rgb: np.ndarray, part: int) -> np.ndarray:
    """Means of whole blocks of `part` px a side, float32 0..255 (n // part, m // part, 3), of sRGB
    (n, m, 3) of any depth.
    """
    rows, columns = rgb.shape[0] // part, rgb.shape[1] // part
    small = np.empty((rows, columns, 3), np.float32)
    some = max(1, _ROWS // part)
    for top in range(0, rows, some):
        here = eight_bit(rgb[top * part : min(rows, top + some) * part, : columns * part])
        small[top : top + some] = cv2.resize(
            here, (columns, len(here) // part), interpolation=cv2.INTER_AREA
        )
    return small


def apart_of(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """The largest difference of the three colours of two pictures (n, m, 3) of any depth, float32
    (n, m), levels of 255.
    """
    apart = np.empty(first.shape[:2], np.float32)
    exact = first.dtype == second.dtype == np.uint8
    for top in range(0, len(first), _ROWS):
        one, other = first[top : top + _ROWS], second[top : top + _ROWS]
        red, green, blue = cv2.split(
            cv2.absdiff(one, other) if exact else cv2.absdiff(eight_bit(one), eight_bit(other))
        )
        apart[top : top + _ROWS] = cv2.max(cv2.max(red, green), blue)
    return apart
