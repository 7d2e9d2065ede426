"""Where the outline of a fill is placed over untouched ground of the same shot, as a control."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..null import Room
from .locked import Locked, median_over

#: Control placements that are sought.
CONTROLS = 16
#: A ring about an area has this width, pixels.
RING = 14
#: Of a thing that moves: candidates that are tried, frames that each is tried in, the share of frames
#: in which it must lie over untouched ground.
_TRIED, _FRAMES, _SHARE = 600, 12, 0.7


@dataclass(frozen=True)
class Placement:
    """The outline of frame `number + dt`, moved by (dx, dy) pixels of the window."""

    dx: int
    dy: int
    dt: int = 0


@dataclass(frozen=True)
class Placed:
    """A placement in one frame.

    Attributes:
        box: rows and columns of the window. inside, ring: bool, in the box: the area without its
            rim, and what lies about it.
    """

    box: tuple[slice, slice]
    inside: np.ndarray
    ring: np.ndarray


class Outlines:
    """A region's outline through the shot, wherever it is placed."""

    def __init__(self, locked: Locked) -> None:
        self.locked = locked
        self._shape = (int(locked.mask.shape[1]), int(locked.mask.shape[2]))
        self._boxes = [cv2.boundingRect(one.view(np.uint8)) for one in locked.mask]
        self._last: dict[Placement, tuple[int, Placed | None]] = {}
        same = np.zeros(len(locked), int)
        for number in range(1, len(locked)):
            equal = np.array_equal(locked.mask[number], locked.mask[number - 1])
            same[number] = same[number - 1] if equal else number
        #: The first frame of those in a row whose outline is the same.
        self._same = same

    def taken(self, number: int) -> np.ndarray:
        """Where no control may lie in a frame, bool: what was removed, and 4 px around it."""
        return np.asarray(
            cv2.dilate(self.locked.mask[number].view(np.uint8), np.ones((9, 9), np.uint8)) > 0
        )

    def at(self, placement: Placement, number: int) -> Placed | None:
        """Where a placement lies in a frame; None: nothing of it lies in the window."""
        source = int(self._same[(number + placement.dt) % len(self.locked)])
        if placement in self._last and self._last[placement][0] == source:
            return self._last[placement][1]
        placed = self._placed(placement, source)
        self._last[placement] = (source, placed)
        return placed

    def _placed(self, placement: Placement, source: int) -> Placed | None:
        height, width = self._shape
        x, y, w, h = self._boxes[source]
        left, top = x + placement.dx - RING, y + placement.dy - RING
        right, bottom = left + w + 2 * RING, top + h + 2 * RING
        rows = slice(max(0, top), min(height, bottom))
        columns = slice(max(0, left), min(width, right))
        if not w or rows.stop <= rows.start or columns.stop <= columns.start:
            return None
        there = np.zeros((bottom - top, right - left), np.uint8)
        there[RING : RING + h, RING : RING + w] = self.locked.mask[source][y : y + h, x : x + w]
        inside = cv2.erode(there, np.ones((5, 5), np.uint8))
        near = np.asarray(cv2.dilate(there, np.ones((7, 7), np.uint8)))
        wide = np.asarray(cv2.dilate(there, np.ones((2 * RING - 1,) * 2, np.uint8)))
        ring = (wide > 0) & (near == 0)
        cut = np.s_[rows.start - top : rows.stop - top, columns.start - left : columns.stop - left]
        return Placed((rows, columns), inside[cut] > 0, ring[cut])


def placements(locked: Locked) -> list[Placement]:
    """Where the outline lies over untouched ground through most of the shot."""
    if locked.moves:
        return _along_its_way(locked)
    ever = locked.ever()
    locked.keep_away(0)
    usual = np.nan_to_num(median_over(locked.original, locked.away), nan=0.0)
    forbidden = cv2.dilate(ever.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    forbidden |= ~locked.mostly_seen()
    found = Room(forbidden, usual.astype(np.float32)).places(ever, CONTROLS, seed=3)
    return [Placement(dx, dy) for dx, dy in found]


def _along_its_way(locked: Locked) -> list[Placement]:
    """Of what moves: where it stands in other frames too, since only what it stands on now is not
    untouched.
    """
    outlines = Outlines(locked)
    count = len(locked)
    height, width = locked.mask.shape[1:]
    frames = np.linspace(0, count - 1, min(_FRAMES, count)).astype(int)
    taken = {int(number): outlines.taken(int(number)) | ~locked.valid[number] for number in frames}
    rng = np.random.default_rng(3)
    found: list[Placement] = []
    for _ in range(_TRIED):
        one = Placement(
            int(rng.integers(-width // 2, width // 2)),
            int(rng.integers(-height // 2, height // 2)),
            int(rng.integers(0, count)),
        )
        free = 0
        for number in taken:
            placed = outlines.at(one, number)
            if placed is None or not placed.inside.any():
                continue
            whole = locked.mask[(number + one.dt) % count].sum()
            there = placed.inside & ~taken[number][placed.box]
            free += int(there.sum() > 0.6 * whole)
        if free >= _SHARE * len(taken):
            found.append(one)
            if len(found) == CONTROLS:
                break
    return found
