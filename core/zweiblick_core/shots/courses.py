"""What a fill does over time beside what untouched ground does: the same numbers of each frame, of the
fill and of its outline placed elsewhere over the same shot (its control placements).
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

import cv2
import numpy as np

from .locked import Locked
from .placing import Outlines, Placed, Placement

#: The fewest control placements that say what is natural.
FEWEST = 5
#: Pixels of an area that must be seen in a frame for it to say anything.
_LEAST = 40
#: What passes spreads so far by blurring, pixels.
_SPREAD = 10
#: Frames before and after that a frame is held against.
_BESIDE = 3
#: A frame beside is used where so much of the area is seen in it.
_SEEN = 0.9
#: Structure that is looked at for boiling, between these sigmas, pixels; coarser than grain.
_FINE, _COARSE = 1.3, 4.0
#: Frames between two that a drift is measured over: fast ones over few, slow ones over many.
SPANS = (1, 6)


@dataclass(frozen=True)
class Courses:
    """Numbers of each frame for each area: the fill first, then the control placements. NaN where too
    little of an area is seen.

    Attributes:
        level: mean luma, float (frames, areas). around: of the ring about it.
        detail: log of the spread of the finest structure. detail_around: of the ring.
        moved: by span, pixels a frame that the area moves against its ring, float (pairs, areas, 2).
        starts: by span, the first frame of each pair.
        structure: root mean square, levels, by which structure departs from that of the frames beside.
        coarse: likewise of what is coarser.
        texture: spread of the structure itself, levels, float (areas,).
    """

    level: np.ndarray
    around: np.ndarray
    detail: np.ndarray
    detail_around: np.ndarray
    moved: dict[int, np.ndarray]
    starts: dict[int, np.ndarray]
    structure: np.ndarray
    coarse: np.ndarray
    texture: np.ndarray

    @property
    def controls(self) -> int:
        """How many control placements there are."""
        return int(self.level.shape[1]) - 1


def courses(locked: Locked, controls: list[Placement]) -> Courses:
    """Measure the fill and its control placements in every frame of the result."""
    areas = [Placement(0, 0), *controls]
    measuring = _Measuring(locked, areas)
    for number in range(len(locked)):
        measuring.frame(number)
    moved, starts = {}, {}
    for span in SPANS:
        moved[span], starts[span] = measuring.moved(span)
    tables = measuring.tables
    texture = tables.pop("texture")
    known = np.isfinite(texture).any(axis=0)
    usual = np.zeros(len(areas))
    usual[known] = np.nanmedian(texture[:, known], axis=0)
    return Courses(moved=moved, starts=starts, texture=usual, **tables)


class _Measuring:
    """Goes through the frames once, with those beside each at hand."""

    def __init__(self, locked: Locked, areas: list[Placement]) -> None:
        self.locked, self.areas = locked, areas
        self.outlines = Outlines(locked)
        self.tables = {
            name: np.full((len(locked), len(areas)), np.nan)
            for name in (
                "level",
                "around",
                "detail",
                "detail_around",
                "structure",
                "coarse",
                "texture",
            )
        }
        self._beside: deque[_Planes] = deque()

    def free(self, number: int) -> np.ndarray:
        """What is seen of the ground in a frame, bool: nothing near what passes in front."""
        kernel = np.ones((2 * _SPREAD + 1,) * 2, np.uint8)
        covered = cv2.dilate(self.locked.covered[number].view(np.uint8), kernel) > 0
        return np.asarray(self.locked.valid[number] & ~covered)

    def frame(self, number: int) -> None:
        """Measure one frame; they come in order."""
        wanted = range(max(0, number - _BESIDE), min(len(self.locked), number + _BESIDE + 1))
        while self._beside and self._beside[0].number < wanted.start:
            self._beside.popleft()
        known = self._beside[-1].number if self._beside else wanted.start - 1
        for one in range(known + 1, wanted.stop):
            self._beside.append(self._planes(one))
        own = next(one for one in self._beside if one.number == number)
        others = [one for one in self._beside if one.number != number]
        for at, area in enumerate(self.areas):
            placed = self.outlines.at(area, number)
            if placed is not None:
                self._levels(number, at, placed, own)
                self._departs(number, at, placed, own, others)

    def _planes(self, number: int) -> _Planes:
        frame = self.locked.result[number].astype(np.float32)
        smooth = cv2.GaussianBlur(frame, (0, 0), _FINE)
        wide = cv2.GaussianBlur(frame, (0, 0), _COARSE)
        free = self.free(number)
        taken = self.outlines.taken(number)
        return _Planes(number, frame, frame - smooth, smooth - wide, wide, free, taken)

    def _levels(self, number: int, at: int, placed: Placed, own: _Planes) -> None:
        box = placed.box
        seen, ground = own.free[box], own.free[box] & ~own.taken[box]
        inside, ring = placed.inside & (ground if at else seen), placed.ring & ground
        if inside.sum() < _LEAST or ring.sum() < _LEAST:
            return
        tables = self.tables
        tables["level"][number, at] = own.frame[box][inside].mean()
        tables["around"][number, at] = own.frame[box][ring].mean()
        tables["detail"][number, at] = np.log(own.finest[box][inside].std() + 0.05)
        tables["detail_around"][number, at] = np.log(own.finest[box][ring].std() + 0.05)

    def _departs(
        self, number: int, at: int, placed: Placed, own: _Planes, others: list[_Planes]
    ) -> None:
        """How far the frame departs from those beside it in which the area is seen."""
        box = placed.box
        usable = []
        for other in others:
            free = other.free[box] & (~other.taken[box] if at else True)
            if free[placed.inside].mean() > _SEEN if placed.inside.any() else False:
                usable.append((other, free))
        if len(usable) < 3:
            return
        seen = own.free[box] & (~own.taken[box] if at else True)
        for _, free in usable:
            seen = seen & free
        inside, ring = placed.inside & seen, placed.ring & seen & ~own.taken[box]
        if inside.sum() < _LEAST or ring.sum() < _LEAST:
            return
        structure = own.structure[box] - _trimmed([one.structure[box] for one, _ in usable])
        coarse = own.coarse[box] - _trimmed([one.coarse[box] for one, _ in usable])
        # A change of light is that of the ring too.
        level = float(np.median(coarse[ring]))
        tables = self.tables
        tables["structure"][number, at] = np.sqrt((structure[inside] ** 2).mean())
        tables["coarse"][number, at] = np.sqrt(((coarse[inside] - level) ** 2).mean())
        tables["texture"][number, at] = own.structure[box][inside].std()

    def moved(self, span: int) -> tuple[np.ndarray, np.ndarray]:
        """(pixels a frame by which each area moves against its ring, first frames of the pairs), by
        dense flow (Kroeger and others 2016).
        """
        locked = self.locked
        flow_of = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
        nothing = np.zeros((*locked.mask.shape[1:], 2), np.float32)
        starts = np.arange(0, max(0, len(locked) - span), 2)
        found = np.full((len(starts), len(self.areas), 2), np.nan)
        eight = lambda number: np.clip(locked.result[number].astype(np.float32), 0, 255).astype(
            np.uint8
        )
        for row, start in enumerate(starts):
            flow = flow_of.calc(eight(start), eight(start + span), nothing)
            free = self.free(int(start)) & self.free(int(start) + span)
            taken = self.outlines.taken(int(start)) | self.outlines.taken(int(start) + span)
            for at, area in enumerate(self.areas):
                placed = self.outlines.at(area, int(start))
                if placed is None:
                    continue
                box = placed.box
                ground = free[box] & ~taken[box]
                inside = placed.inside & (ground if at else free[box])
                ring = placed.ring & ground
                if inside.sum() < _LEAST or ring.sum() < _LEAST:
                    continue
                here = flow[box]
                own = np.median(here[inside], axis=0)
                found[row, at] = (own - np.median(here[ring], axis=0)) / span
        return found, starts


@dataclass(frozen=True)
class _Planes:
    """Of one frame: luma, its finest structure, what is coarser than grain, what is coarser still; what
    is seen, and what no control may lie over.
    """

    number: int
    frame: np.ndarray
    finest: np.ndarray
    structure: np.ndarray
    coarse: np.ndarray
    free: np.ndarray
    taken: np.ndarray


def _trimmed(planes: list[np.ndarray]) -> np.ndarray:
    """The mean without the largest and the smallest, so that one frame that differs says nothing."""
    stacked = np.stack(planes)
    total = stacked.sum(axis=0) - stacked.max(axis=0) - stacked.min(axis=0)
    return np.asarray(total / (len(planes) - 2))
