"""How one outline differs from another, and what that says."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

import cv2
import numpy as np

from .changed import GROWN
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

    def words(self) -> str:
        """In words, of the outline that was worked."""
        beyond = f"up to {self.looser_px:.0f} px beyond the outline"
        inside = f"up to {self.tighter_px:.0f} px inside it"
        return {
            "the same": "along the outline",
            "looser": beyond,
            "tighter": inside,
            "elsewhere in part": f"{beyond}, {inside}",
        }[self.word]

    def to_dict(self) -> dict[str, Any]:
        """Plain values, for JSON."""
        return asdict(self)


#: How far beyond a region what was changed still belongs to its work, in pixels.
_REACH = 64
#: What covers less of a region than this was not its work.
_WORKED = 0.2
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


def worked_outline(
    changed: Sequence[Region],
    wanted: Region,
    others: Sequence[Region],
    frame: tuple[int, int],
    lossy: bool = False,
) -> OutlineDifference | None:
    """How the area that an attempt worked for a region lies to the region's outline: it explains
    what is found at its rim. None where the region was hardly worked.

    Args:
        changed: what the attempt changed, as `proposed` gives it.
        others: the picture's other regions: what was changed there belongs to them.
        frame: (height, width) that all lie in.
        lossy: whether what differs little cannot be distinguished from compression or resampling: then a
            rim that looks untouched may be a faithful fill, and only what reaches beyond is reported.
    """
    window = Window([wanted], frame, _REACH)
    mine = window.mask(wanted)
    away = cv2.distanceTransform((~mine).view(np.uint8), cv2.DIST_L2, 5)
    theirs = np.zeros(window.shape, bool)
    for other in others:
        theirs |= window.clipped(other)
    near = away <= _REACH
    if theirs.any():
        # What lies nearer to another region is that one's work.
        near &= away <= cv2.distanceTransform((~theirs).view(np.uint8), cv2.DIST_L2, 5)
        near |= mine
    worked = np.zeros(window.shape, bool)
    for area in changed:
        worked |= window.clipped(area)
    # What is enclosed belongs to it: a fill may equal the original between the rungs of a ladder.
    rings, _ = cv2.findContours(worked.view(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    worked = cv2.drawContours(np.zeros(window.shape, np.uint8), rings, -1, 1, -1).view(bool) & near
    # Specks that do not reach into the region are compression's, or another's.
    _, labels = cv2.connectedComponents(worked.view(np.uint8), connectivity=8)
    inside = np.unique(labels[mine & worked])
    worked = np.isin(labels, inside[inside > 0])
    if (worked & mine).sum() < _WORKED * mine.sum():
        return None
    reach = np.ones((2 * GROWN + 1, 2 * GROWN + 1), np.uint8)
    found = window.area(cv2.erode(worked.view(np.uint8), reach, borderValue=1).view(bool), "")
    if found is None:
        return None
    difference = outline_difference(found, wanted, frame)
    if not lossy:
        return difference
    if difference.looser_share < _FEW:
        return None
    return replace(difference, word="looser", tighter_px=0.0, tighter_share=0.0)


def given_outline(
    given: Sequence[Region],
    wanted: Region,
    others: Sequence[Region],
    frame: tuple[int, int],
) -> OutlineDifference | None:
    """How the outline that an attempt is said to have been made with lies to a region's. None where
    it has no part in the region.

    Args:
        given: its parts.
        others: the picture's other regions: what lies nearer to them belongs to them.
        frame: (height, width) that all lie in.
    """
    window = Window([wanted, *given], frame, 2)
    mine = window.mask(wanted)
    made = np.zeros(window.shape, bool)
    for area in given:
        made |= window.clipped(area)
    if others:
        theirs = np.zeros(window.shape, bool)
        for other in others:
            theirs |= window.clipped(other)
        away = lambda mask: cv2.distanceTransform((~mask).view(np.uint8), cv2.DIST_L2, 5)
        made &= mine | (away(mine) <= away(theirs)) if theirs.any() else True
    if not (made & mine).any():
        return None
    whole = window.area(made, wanted.id)
    assert whole is not None
    return outline_difference(whole, wanted, frame)
