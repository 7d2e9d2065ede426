"""Texture that is worn by repeated passes: each takes from what the one before had made, and a
little of the finest detail is lost every time.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from itertools import pairwise
from typing import Any

import cv2
import numpy as np

from ..io import eight_bit
from ..regions import Region, grown
from ..regions.framing import Window
from ..regions.masks import cropped

#: What is finer than this is looked at, as the sigma of a Gaussian, pixels: the finest octave, which
#: interpolation and blending take first.
_SIGMA = 1.0
#: Passes that are needed before anything can be called worn.
_PASSES = 2
#: The least share of its contrast that the finest detail must have lost over all passes.
_LOSS = 0.15
#: So many places of the region's own shape tell how little detail is natural.
_PLACES = 24
#: Pixels left out along the outline: what is there is half surroundings.
_RIM = 3


@dataclass(frozen=True)
class Wear:
    """How the finest detail of a region fared over its passes.

    Attributes:
        contrast: of each generation that was worked anew, the oldest first: the median contrast of
            detail inside over the same around.
        low: the 5th percentile of the same at places of that shape that nobody worked; 1 where
            there is no room for any.
        worn: whether each pass lost some, all of them together at least 15 %, and the last lies
            below what is natural.
    """

    contrast: tuple[float, ...]
    low: float
    worn: bool

    @property
    def passes(self) -> int:
        """How often the region was worked."""
        return len(self.contrast)

    def words(self) -> str:
        """Why to rebuild it; empty where it is not worn."""
        if not self.worn:
            return ""
        said = ", ".join(f"{value:.2f}" for value in self.contrast)
        return (
            f"its finest detail went down over {self.passes} passes: {said} of its surroundings',"
            f" natural here from {self.low:.2f}"
        )

    def to_dict(self) -> dict[str, Any]:
        """As JSON holds it."""
        return {**asdict(self), "contrast": list(self.contrast), "words": self.words()}


def wear(
    generations: Sequence[np.ndarray], area: Region, others: Sequence[Region] = ()
) -> Wear | None:
    """Follow a region through the attempts that were made from one another.

    Args:
        generations: their pixels, uint8 or uint16 (height, width, 3), the oldest first, all in one
            frame; those in which the region's pixels did not change are no passes.
        area: the region, in that frame.
        others: what else was worked; no place is taken from there.

    Returns:
        None where the region was worked less than twice, or is too small to tell.
    """
    # Nothing farther away is looked at: a picture may be much larger than the region.
    window = Window([area], generations[-1].shape[:2], 2 * _reach(area))
    part = np.s_[
        window.top : window.top + window.shape[0], window.left : window.left + window.shape[1]
    ]
    generations = [pixels[part] for pixels in generations]
    frame = window.shape
    here = cropped(window.mask(area), area.id)
    inner = grown(here, -_RIM, frame)
    if inner is None or int(inner.mask.sum()) < 400:
        return None
    mask = inner.full(frame)
    passes = [generations[0]]
    for pixels in generations[1:]:
        if (pixels[mask] != passes[-1][mask]).any():
            passes.append(pixels)
    if len(passes) < _PASSES:
        return None
    untouched = _around(here, frame)
    for other in others:
        untouched &= ~window.clipped(other)
    if int(untouched.sum()) < 400:
        return None
    details = [_detail(pixels) for pixels in passes]
    contrast = [_median(detail[mask]) / max(1e-3, _median(detail[untouched])) for detail in details]
    low = _natural(details[-1], inner, untouched)
    lost = all(later < earlier for earlier, later in pairwise(contrast))
    worn = lost and contrast[-1] <= (1 - _LOSS) * contrast[0] and contrast[-1] < low
    return Wear(tuple(round(value, 3) for value in contrast), round(low, 3), worn)


def _reach(area: Region) -> int:
    """How far about a region its surroundings are looked at: as far as it is wide, pixels."""
    return max(24, *area.bbox[2:])


def _around(area: Region, frame: tuple[int, int]) -> np.ndarray:
    """What lies about a region; bool."""
    wide, rim = grown(area, _reach(area), frame), grown(area, 2 * _RIM, frame)
    assert wide is not None and rim is not None
    found: np.ndarray = wide.full(frame) & ~rim.full(frame)
    return found


def _detail(pixels: np.ndarray) -> np.ndarray:
    """The contrast of what is finer than `_SIGMA`, levels of 255, without sign."""
    grey = eight_bit(pixels) @ np.array([0.299, 0.587, 0.114], np.float32)
    return np.asarray(np.abs(grey - cv2.GaussianBlur(grey, (0, 0), _SIGMA)))


def _median(values: np.ndarray) -> float:
    return float(np.median(values))


def _natural(detail: np.ndarray, inner: Region, untouched: np.ndarray) -> float:
    """The 5th percentile of the contrast at places of the region's shape round about it."""
    x, y, w, h = inner.bbox
    around = max(1e-3, _median(detail[untouched]))
    found = []
    for angle in np.linspace(0, 2 * np.pi, _PLACES, endpoint=False):
        left = round(x + 1.2 * w * np.cos(angle))
        top = round(y + 1.2 * h * np.sin(angle))
        if left < 0 or top < 0 or left + w > detail.shape[1] or top + h > detail.shape[0]:
            continue
        here = inner.mask & untouched[top : top + h, left : left + w]
        if here.sum() > 0.5 * inner.mask.sum():
            found.append(_median(detail[top : top + h, left : left + w][here]) / around)
    return float(np.percentile(np.array(found), 5)) if len(found) >= 4 else 1.0
