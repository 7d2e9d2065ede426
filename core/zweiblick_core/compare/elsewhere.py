"""Proof that a result differs from what it was made from nowhere but where it was to be worked."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from scipy import ndimage

from ..io import Picture
from ..regions import Region, grown
from .locks import Proof, in_blocks, saved_as

#: Work on a region may reach so far beyond the outline that was sent, pixels: a soft brush, a
#: feathered copy. Regions that were not sent have no such margin: locks prove them to the edge.
MARGIN = 24

#: Differing pixels closer than this are one place.
_JOINED = 12
_MOST_PLACES = 12


@dataclass(frozen=True)
class Place:
    """Where pixels differ.

    Attributes:
        bbox: (x, y, width, height) in the results' own frame, pixels.
        differing: how many pixels differ there.
        largest: the largest difference of one channel, in the pictures' own steps.
    """

    bbox: tuple[int, int, int, int]
    differing: int
    largest: int

    def to_dict(self) -> dict[str, Any]:
        """As JSON holds it."""
        return {
            "bbox": list(self.bbox),
            "differing": self.differing,
            "largest": self.largest,
        }


@dataclass(frozen=True)
class Elsewhere:
    """What lies outside everything that was to be worked.

    Attributes:
        proof: of all of it.
        places: where it differs, the most pixels first, at most twelve; empty where it is the same.
    """

    proof: Proof
    places: tuple[Place, ...] = ()


def same_elsewhere(
    first: Picture, second: Picture, worked: Iterable[Region], margin: int = MARGIN
) -> Elsewhere:
    """Compare two results wherever neither was to be worked.

    Where they are not equal to the bit, the second is compared with what saving the first anew, as
    the second was saved, makes of it (`saved_as`). There is no other tolerance.

    Args:
        first: what was sent.
        second: what came back, in the same frame.
        worked: what was to be worked, in that frame.
        margin: how far beyond it work may reach, pixels.

    Pictures of different size or depth are never the same: nothing is proven by what was converted.
    """
    before, after = first.pixels, second.pixels
    if before.shape != after.shape or before.dtype != after.dtype:
        return Elsewhere(Proof(False, 0, 0, 0))
    frame = (before.shape[0], before.shape[1])
    areas = [area for one in worked if (area := grown(one, margin, frame)) is not None]
    found = _compared(before, after, areas)
    if found.proof.same:
        return found
    expected = saved_as(first, second)
    if expected is None:
        return found
    # An edit within a block of a JPEG may change all of that block.
    anew = _compared(expected, after, [in_blocks(area) for area in areas], saved_anew=True)
    # Differences that compression explains are no places to look at.
    return anew if anew.proof.differing < found.proof.differing else found


def _compared(
    first: np.ndarray, second: np.ndarray, areas: list[Region], saved_anew: bool = False
) -> Elsewhere:
    apart = cv2.absdiff(first, second).max(axis=2)
    outside = np.ones(apart.shape, bool)
    for one in areas:
        mask, window = _clipped(one, apart.shape)
        outside[window][mask] = False
    apart[~outside] = 0
    compared = int(outside.sum())
    differing = int(np.count_nonzero(apart))
    proof = Proof(
        differing == 0, compared, differing, int(apart.max()), saved_anew and differing == 0
    )
    return Elsewhere(proof, _places(apart) if differing else ())


def _clipped(area: Region, frame: tuple[int, ...]) -> tuple[np.ndarray, tuple[slice, slice]]:
    """An area's mask and window, cut to the frame (height, width)."""
    x, y, w, h = area.bbox
    left, top, right, bottom = max(0, x), max(0, y), min(frame[1], x + w), min(frame[0], y + h)
    mask = area.mask[top - y : max(top, bottom) - y, left - x : max(left, right) - x]
    return mask, (slice(top, max(top, bottom)), slice(left, max(left, right)))


def _places(apart: np.ndarray) -> tuple[Place, ...]:
    differs = (apart > 0).view(np.uint8)
    joined = cv2.dilate(differs, np.ones((_JOINED + 1, _JOINED + 1), np.uint8))
    labels = cv2.connectedComponents(joined)[1]
    labels[differs == 0] = 0
    places = []
    for number, (rows, columns) in enumerate(ndimage.find_objects(labels), 1):
        here = apart[rows, columns][labels[rows, columns] == number]
        box = (columns.start, rows.start, columns.stop - columns.start, rows.stop - rows.start)
        places.append(Place(box, len(here), int(here.max())))
    return tuple(sorted(places, key=lambda place: -place.differing)[:_MOST_PLACES])
