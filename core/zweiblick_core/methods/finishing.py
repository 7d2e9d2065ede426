"""Passes over what was filled: the surroundings' tone, and the original put back outside."""

from __future__ import annotations

import cv2
import numpy as np

from ..errors import Refused
from .membrane import carried_inward

#: What a rim is compared over, to either side of an outline, pixels.
_RIM = 6


def with_tone(picture: np.ndarray, mask: np.ndarray) -> np.ndarray:
    """A fill brought to its surroundings' tone: how the colours just inside the outline differ
    from those just outside is carried inward by a membrane and taken off. Only the mask changes.

    Args:
        picture: uint8 (height, width, 3); never altered.
        mask: bool (height, width).
    """
    if not mask.any():
        raise Refused("the mask marks nothing")
    smooth = cv2.blur(picture.astype(np.float32), (2 * _RIM + 1, 2 * _RIM + 1))
    inner = mask & ~cv2.erode(mask.view(np.uint8), np.ones((3, 3), np.uint8)).view(bool)
    weight = cv2.blur((~mask).astype(np.float32), (2 * _RIM + 1, 2 * _RIM + 1))
    around = cv2.blur(picture * (~mask)[..., None].astype(np.float32), (2 * _RIM + 1, 2 * _RIM + 1))
    filled = cv2.blur(picture * mask[..., None].astype(np.float32), (2 * _RIM + 1, 2 * _RIM + 1))
    here = inner & (weight > 0.1) & (weight < 0.9)
    if not here.any():
        return picture.copy()
    step = np.zeros_like(smooth)
    step[here] = around[here] / weight[here][:, None] - filled[here] / (1 - weight[here])[:, None]
    rows, columns = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    crop = (slice(rows[0], rows[-1] + 1), slice(columns[0], columns[-1] + 1))
    carried = carried_inward(step[crop], ~here[crop])
    out = picture.astype(np.float32)
    out[crop][mask[crop]] += carried[mask[crop]]
    made: np.ndarray = np.clip(out, 0, 255).round().astype(np.uint8)
    made[~mask] = picture[~mask]
    return made


def original_outside(
    original: np.ndarray, result: np.ndarray, regions: np.ndarray, margin: int = 8
) -> np.ndarray:
    """A result with the original put back everywhere outside its regions: what was changed there
    was not asked for. Over a margin about the regions one goes over into the other.

    Args:
        original, result: uint8 or uint16 (height, width, 3) in the same frame.
        regions: bool (height, width), all regions together.
        margin: pixels; within it, beyond the regions, the result fades out.

    Returns:
        A new picture of the same depth: the result inside the regions to the bit, the original beyond the margin to
        the bit.

    Raises:
        Refused: the frames or depths differ.
    """
    if original.dtype != result.dtype:
        raise Refused("the original can only be put back in an attempt of its own depth")
    if original.shape != result.shape or regions.shape != original.shape[:2]:
        raise Refused("the original can only be put back in an attempt of its own frame")
    away = cv2.distanceTransform((~regions).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    share = np.clip(1 - away / (margin + 1), 0, 1)[..., None]
    mixed = original * (1 - share) + result * share
    made: np.ndarray = mixed.round().astype(result.dtype)
    made[regions] = result[regions]
    made[away > margin] = original[away > margin]
    return made
