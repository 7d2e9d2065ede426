"""How one outline differs from another, and what that says."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import cv2
import numpy as np

from .framing import Window
from .masks import Region


@dataclass(frozen=True)
class OutlineDifference:
    """How an area lies to the one it should be.

    Attributes:
        looser_px: how far the outer of its outline lies beyond the other: the 90th percentile of
            the distance over those pixels of its boundary that lie outside; 0 if none does.
        tighter_px: the same where its boundary lies inside.
        looser_share: the share of its boundary that lies outside, 0..1; `tighter_share` inside.
        iou: intersection over union, 0..1.
        word: "the same", "looser", "tighter" or "elsewhere in part".
    """

    looser_px: float
    tighter_px: float
    looser_share: float
    tighter_share: float
    iou: float
    word: str

    def to_dict(self) -> dict[str, Any]:
        """Plain values, for JSON."""
        return asdict(self)


#: A boundary that strays by less is the same one: a pixel of anti-aliasing to either side.
_SAME_PX = 1.5
#: A share of the boundary below this is chance.
_FEW = 0.1


def _boundary(mask: np.ndarray) -> np.ndarray:
    inner = cv2.erode(
        mask.view(np.uint8),
        np.ones((3, 3), np.uint8),
        borderType=cv2.BORDER_CONSTANT,
        borderValue=1,
    )
    return mask & ~inner.view(bool)


def outline_difference(area: Region, wanted: Region, frame: tuple[int, int]) -> OutlineDifference:
    """How an area lies to the one that was wanted.

    Args:
        frame: (height, width) that both lie in.
    """
    window = Window([area, wanted], frame, 2)
    one, other = window.mask(area), window.mask(wanted)
    outside = cv2.distanceTransform((~other).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    inside = cv2.distanceTransform(other.view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    edge = _boundary(one)
    # Boundary pixels of the same outline are the other's boundary pixels: 0 outside, 1 inside.
    away = (outside - np.maximum(0, inside - 1))[edge]
    total = max(1, len(away))
    looser, tighter = away[away > _SAME_PX], -away[away < -_SAME_PX]
    shares = len(looser) / total, len(tighter) / total
    far = lambda some: float(np.percentile(some, 90)) if len(some) else 0.0
    iou = float((one & other).sum() / max(1, int((one | other).sum())))
    word = (
        "elsewhere in part"
        if min(shares) >= _FEW
        else "looser"
        if shares[0] >= _FEW
        else "tighter"
        if shares[1] >= _FEW
        else "the same"
    )
    return OutlineDifference(
        round(far(looser), 1),
        round(far(tighter), 1),
        round(shares[0], 3),
        round(shares[1], 3),
        round(iou, 4),
        word,
    )
