"""What a result changed against the original."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np

from ..io import Picture
from ..scene.planes import apart_of, luma_of
from .masks import JOIN, Region, from_mask

if TYPE_CHECKING:
    from ..align import Alignment


#: How far a proposal reaches beyond what changed, in pixels: the soft edge of a fill.
GROWN = 2


def changed_area(
    luma: np.ndarray, apart: np.ndarray, lossy: bool, within: np.ndarray | None = None
) -> np.ndarray:
    """The pixels that a removal changed, as distinct from those that only re-encoding moved.

    A lossless result is compared almost exactly. Behind lossy compression the error is normalised
    by the local activity
    (compression errs more where there is more detail) and thresholded with hysteresis, so that weak
    places count only
    where they touch strong ones (Canny 1986 for the hysteresis).

    Args:
        luma: of the original, float32 (height, width), 0..255.
        apart: the largest difference of the three colours of original and result, float32 (height,
            width), levels of 255.
        lossy: whether either went through lossy compression after the removal.
        within: bool (height, width), where changes are expected; what lies outside teaches what
            unchanged looks like. None: the median
            does.

    Returns:
        bool (height, width).
    """
    if not lossy:
        changed = (apart > 0.75).astype(np.uint8)
        # Pixels inside a fill that happen to be equal belong to it.
        return cv2.morphologyEx(changed, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8)).astype(bool)
    activity = cv2.blur(cv2.absdiff(luma, cv2.blur(luma, (5, 5))), (9, 9))
    level = cv2.divide(cv2.GaussianBlur(apart, (0, 0), 1.5), 1.2 + np.float32(0.5) * activity)
    outside = level[~within] if within is not None and (~within).sum() > 400 else level.ravel()
    outside = outside[:: max(1, len(outside) // 200_000)]
    usual = (
        float(np.quantile(outside, 0.995)) if within is not None else float(np.median(level) * 3)
    )
    low, high = max(1.1, usual), max(2.4, 2.2 * usual)
    weak = (level > low).astype(np.uint8)
    count, labels = cv2.connectedComponents(weak, connectivity=8)
    strong = np.zeros(count, bool)
    strong[labels[level > high]] = True
    strong[0] = False
    return cv2.morphologyEx(
        strong[labels].astype(np.uint8), cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8)
    ).astype(bool)


def proposed(
    original: Picture, result: Picture, alignment: Alignment | None = None
) -> list[Region]:
    """Regions proposed from what changed, grown by a pixel or two, in the original's frame; empty
    if the two cannot be matched or nothing changed.

    Args:
        alignment: how the result lies to the original, if that is known; None: they are registered.
    """
    # Imported here: bringing into register needs regions itself.
    from ..align import brought_together, register
    from ..scene.grading import grading_of

    if alignment is None:
        alignment = register(original, result)
    if alignment.kind == "unmatched":
        return []
    pair = brought_together(original, result, alignment)
    grading = grading_of(pair.original, pair.result, pair.valid)
    before = grading.applied(pair.original) if grading else pair.original
    lossy = result.format == "jpeg" or pair.resampled or grading is not None
    changed = changed_area(
        luma_of(before.pixels), apart_of(before.pixels, pair.result.pixels), lossy
    )
    if pair.valid is not None:
        changed &= cv2.erode(pair.valid.view(np.uint8), np.ones((9, 9), np.uint8)).astype(bool)
    if pair.back is not None:
        changed = cv2.warpAffine(
            changed.view(np.uint8),
            pair.back,
            (original.width, original.height),
            flags=cv2.INTER_NEAREST,
        ).astype(bool)
    grown = cv2.dilate(
        cv2.morphologyEx(changed.view(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)),
        np.ones((2 * GROWN + 1, 2 * GROWN + 1), np.uint8),
    )
    return [region for region in from_mask(grown.astype(bool)) if region.mask.sum() >= JOIN * JOIN]
