"""A result, a mask or an original as the other's frame shows it."""

from __future__ import annotations

import cv2
import numpy as np

from ..errors import Refused
from ..io import Picture
from .alignment import Alignment


def resampled_onto(original: Picture, result: Picture, alignment: Alignment) -> np.ndarray:
    """The result's pixels resampled into the original's frame, for looking at both in place;
    mid-grey where it shows nothing.

    Returns:
        (height, width, 3) of the original's size, the result's dtype. The result's own array where
        nothing is to be done.
    """
    if alignment.kind in ("same", "unmatched"):
        return result.pixels
    grey = 119 if result.pixels.dtype == np.uint8 else 119 * 257
    return cv2.warpAffine(
        result.pixels,
        np.array(alignment.matrix),
        (original.width, original.height),
        flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(grey, grey, grey),
    )


def onto_original(mask: np.ndarray, alignment: Alignment, frame: tuple[int, int]) -> np.ndarray:
    """A mask, bool of the result's frame, in the original's frame (height, width); False where the
    result shows nothing.
    """
    warped = cv2.warpAffine(
        mask.astype(np.uint8) * 255,
        np.array(alignment.matrix),
        (frame[1], frame[0]),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
    )
    return np.asarray(warped > 127)


def original_in_frame(
    original: Picture, result: Picture, alignment: Alignment
) -> tuple[np.ndarray, np.ndarray]:
    """The original as the result's frame would show it.

    Returns:
        Its pixels, (height, width, 3) of the result's size and dtype, and bool (height, width)
        where the original shows anything. To the bit where both lie in one frame and depth.

    Raises:
        Refused: the two cannot be matched.
    """
    if alignment.kind == "unmatched":
        raise Refused(f"the original has no place in its frame: {alignment.reason}")
    pixels = original.pixels
    if pixels.dtype != result.pixels.dtype:
        deep = result.pixels.dtype == np.uint16
        pixels = pixels.astype(np.uint16) * 257 if deep else _to_eight(pixels)
    height, width = result.pixels.shape[:2]
    if alignment.kind == "same":
        return pixels, np.ones((height, width), bool)
    # Made smaller, it is averaged first: detail finer than the new pixels would come back as moire.
    if alignment.scale < 1:
        pixels = cv2.GaussianBlur(pixels, (0, 0), 0.5 * np.sqrt(1 / alignment.scale**2 - 1) + 1e-3)
    warp = lambda image, how: cv2.warpAffine(
        image, np.array(alignment.matrix), (width, height), flags=how
    )
    covered = warp(np.full(pixels.shape[:2], 255, np.uint8), cv2.INTER_LINEAR) == 255
    return warp(pixels, cv2.INTER_CUBIC), covered


def _to_eight(pixels: np.ndarray) -> np.ndarray:
    return np.asarray((pixels.astype(np.float32) / 257).round(), np.uint8)
