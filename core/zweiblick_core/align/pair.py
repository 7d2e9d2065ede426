"""Both pictures in one frame.

A pair is judged in the frame that has fewer pixels: the result's own pixels are never resampled
unless it was enlarged, since resampling itself changes grain and sharpness.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from ..io import Picture
from ..regions.masks import Region
from .alignment import Alignment, warped_region


@dataclass(frozen=True)
class Pair:
    """Both pictures in one frame.

    Attributes:
        original, result: of one size; 8 or 16 bit as they came.
        back: 2x3, from this frame to the original's; None where they are the same.
        scale: pixels of this frame for one of the original.
        valid: bool (height, width) where both show something; None: everywhere.
        resampled: whether either was resampled, so that no pixel can be expected to be exactly
            equal.
    """

    original: Picture
    result: Picture
    back: np.ndarray | None = None
    scale: float = 1.0
    valid: np.ndarray | None = None
    resampled: bool = False

    def to_original(self, points: np.ndarray) -> np.ndarray:
        """(n, 2) positions (corners of pixels, not their centres) of this frame in the original's."""
        if self.back is None:
            return points
        return (np.asarray(points, float) - 0.5) @ self.back[:, :2].T + self.back[:, 2] + 0.5

    def region(self, region: Region) -> Region | None:
        """A region of the original in this frame; None if it lies outside."""
        if self.back is None:
            return region
        return warped_region(
            region,
            cv2.invertAffineTransform(self.back),
            self.original.pixels.shape[:2],
            self.valid,
        )


def _warped(
    picture: Picture, matrix: np.ndarray, size: tuple[int, int], shrink: float
) -> np.ndarray:
    """Resample by matrix (from the wanted frame to the picture's). Reduced by area first, so that
    nothing aliases.
    """
    pixels = picture.pixels
    if shrink < 0.75:
        before = pixels.shape
        pixels = cv2.resize(
            pixels,
            (max(1, round(before[1] * shrink)), max(1, round(before[0] * shrink))),
            interpolation=cv2.INTER_AREA,
        )
        fx, fy = pixels.shape[1] / before[1], pixels.shape[0] / before[0]
        matrix = matrix.copy()
        matrix[0] = [matrix[0, 0] * fx, matrix[0, 1] * fx, (matrix[0, 2] + 0.5) * fx - 0.5]
        matrix[1] = [matrix[1, 0] * fy, matrix[1, 1] * fy, (matrix[1, 2] + 0.5) * fy - 0.5]
    return cv2.warpAffine(
        pixels,
        matrix,
        size,
        flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )


def brought_together(original: Picture, result: Picture, alignment: Alignment) -> Pair:
    """Both pictures in the frame that has fewer pixels for the same scene.

    Raises:
        ValueError: the alignment is `unmatched`.
    """
    if alignment.kind == "unmatched":
        raise ValueError("pictures that cannot be matched have no common frame")
    if alignment.kind == "same":
        return Pair(original, result)
    forward = np.array(alignment.matrix)
    backward = cv2.invertAffineTransform(forward)
    if alignment.scale <= 1.02:
        size = (result.width, result.height)
        whole = np.allclose(forward[:, :2], np.eye(2)) and np.allclose(
            forward[:, 2], np.round(forward[:, 2])
        )
        inside = cv2.warpAffine(
            np.ones(original.pixels.shape[:2], np.uint8),
            backward,
            size,
            flags=cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_CONSTANT,
        )
        pixels = (
            cv2.warpAffine(
                original.pixels,
                backward,
                size,
                flags=cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP,
                borderMode=cv2.BORDER_REPLICATE,
            )
            if whole
            else _warped(original, backward, size, alignment.scale)
        )
        return Pair(
            replace(original, pixels=pixels),
            result,
            backward,
            alignment.scale,
            None if inside.all() else inside > 0,
            not whole,
        )
    size = (original.width, original.height)
    inside = cv2.warpAffine(
        np.ones(result.pixels.shape[:2], np.uint8),
        forward,
        size,
        flags=cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_CONSTANT,
    )
    return Pair(
        original,
        replace(result, pixels=_warped(result, forward, size, 1 / alignment.scale)),
        None,
        1.0,
        None if inside.all() else inside > 0,
        True,
    )
