"""A window: one region with its surroundings in both pictures, and the planes that several kinds
need, each made once.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import cv2
import numpy as np

from ..align import Pair
from ..null import Room
from ..regions.changed import changed_area
from ..regions.masks import Region
from .look import Look, Scene
from .planes import reduced_of

#: How far around a region is looked, in pixels.
REACH = 400


def reach_of(region: Region) -> int:
    """How far around a region is looked: less about a large one, where no second outline of its
    size would find room anyway.
    """
    return REACH if max(region.bbox[2:]) < 800 else 260


#: Fills as wide and high as this, pixels, have room for a quick look.
_WIDE = 400


def _disc(across: int, part: int) -> np.ndarray:
    """An element so many pixels across, at one `part` of the size."""
    size = max(3, across // part | 1)
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))


def _evened_out(area: np.ndarray, part: int = 1) -> np.ndarray:
    """An area (uint8, 0 or 1) with its outline evened out, bool; at one `part` of the size."""
    even = cv2.morphologyEx(
        cv2.morphologyEx(area, cv2.MORPH_CLOSE, _disc(15, part)), cv2.MORPH_OPEN, _disc(11, part)
    )
    return np.asarray(cv2.GaussianBlur(even.astype(np.float32), (0, 0), 3.0 / part) > 0.5)


def _share_within(area: np.ndarray, mask: np.ndarray) -> float:
    """How much of a mask an area covers, 0..1."""
    return float((area & mask).sum()) / max(1, int(mask.sum()))


def _share_beyond(area: np.ndarray, mask: np.ndarray, part: int = 1) -> float:
    """How much of an area lies well beyond a mask, in the mask's own areas."""
    away = cv2.dilate(mask.view(np.uint8), _disc(13, part)) == 0
    return float(
        cv2.morphologyEx((area & away).view(np.uint8), cv2.MORPH_OPEN, _disc(9, part)).sum()
    ) / max(1, int(mask.sum()))


@dataclass
class Window:
    """One region and up to `REACH` pixels around it.

    Attributes:
        region: what is judged.
        origin: (x, y) of the window's top left pixel in the original.
        original, result: (height, width, 3), of any depth, as `eight_bit` reads it: whole planes of
            three colours in floating point are large and seldom wanted.
        mask: bool, this region.
        elsewhere: bool, every region of the picture (this one too): no control place may touch it.
        frame: (height, width) of the whole picture.
        lossy: whether the result's pixels cannot be expected to be exactly the original's:
            compressed with loss, resampled, or graded.
        pair: how this frame lies to the original's; None where it is the original's own.
        smaller: bool, the other regions that are smaller than this one: where two meet, what stands
            along their border is reported of the smaller. None: there are none.
        shared: what several kinds need and one of them has made.
        look: the crop itself, which other regions may be judged in too; None: this one's own.
    """

    region: Region
    origin: tuple[int, int]
    original: np.ndarray
    result: np.ndarray
    mask: np.ndarray
    elsewhere: np.ndarray
    frame: tuple[int, int]
    lossy: bool
    pair: Pair | None = None
    smaller: np.ndarray | None = None
    shared: dict[str, Any] = field(default_factory=dict)
    look: Look | None = None

    @cached_property
    def seen(self) -> Look:
        """The crop of both pictures, and what was made of it."""
        return self.look or Look(self.original, self.result)

    @cached_property
    def luma_original(self) -> np.ndarray:
        """Rec. 601 luma, float32 0..255 (height, width)."""
        return self.seen.of_original[0]

    @cached_property
    def luma_result(self) -> np.ndarray:
        """Likewise of the result."""
        return self.seen.of_result[0]

    @cached_property
    def lab_original(self) -> np.ndarray:
        """CIELAB (D65), float32 (height, width, 3), L* 0..100."""
        return self.seen.of_original[1]

    @cached_property
    def lab_result(self) -> np.ndarray:
        """Likewise of the result."""
        return self.seen.of_result[1]

    @cached_property
    def apart_levels(self) -> np.ndarray:
        """Largest difference of the three colours, float32, levels of 255."""
        return self.seen.apart_levels

    @cached_property
    def changed(self) -> np.ndarray:
        """What the removal changed, bool; limited to this region and what adjoins it."""
        # Only what lies about the region can be its fill, and what lies a little farther teaches
        # what unchanged looks like.
        x, y, w, h = cv2.boundingRect(self.mask.view(np.uint8))
        margin = 31 + 120
        crop = (
            slice(max(0, y - margin), y + h + margin),
            slice(max(0, x - margin), x + w + margin),
        )
        away = cv2.dilate(self.elsewhere[crop].view(np.uint8), np.ones((25, 25), np.uint8)).astype(
            bool
        )
        changed = changed_area(
            self.luma_original[crop],
            self.apart_levels[crop],
            self.lossy,
            away if (~away).sum() > 400 else None,
        )
        near = cv2.dilate(self.mask[crop].view(np.uint8), np.ones((61, 61), np.uint8)).astype(bool)
        whole = np.zeros(self.mask.shape, bool)
        whole[crop] = changed & near & ~(self.elsewhere[crop] & ~self.mask[crop])
        return whole

    @cached_property
    def apart(self) -> np.ndarray:
        """What is no control's: every region and all that changed, 4 px around it; bool."""
        return cv2.dilate(
            (self.elsewhere | self.filled | self.changed).view(np.uint8), np.ones((9, 9), np.uint8)
        ).astype(bool)

    @cached_property
    def room(self) -> Room:
        """Where control outlines may be placed over untouched parts."""
        return Room(self.apart, self.luma_original)

    @cached_property
    def filled(self) -> np.ndarray:
        """The area the fill occupies: the changed area with its holes closed, or the mask where too
        little changed.
        """
        changed = self.changed
        if cv2.countNonZero(changed.view(np.uint8)) < 0.1 * cv2.countNonZero(
            self.mask.view(np.uint8)
        ):
            return self.mask
        whole = np.zeros(changed.shape, bool)
        x, y, w, h = cv2.boundingRect(changed.view(np.uint8))
        crop = (slice(max(0, y - 1), y + h + 1), slice(max(0, x - 1), x + w + 1))
        inside = int(cv2.countNonZero(self.mask.view(np.uint8)))
        count, labels, stats, _ = cv2.connectedComponentsWithStats(
            np.ascontiguousarray(changed[crop]).view(np.uint8), connectivity=8
        )
        keep = np.zeros(count, bool)
        keep[1:] = stats[1:, cv2.CC_STAT_AREA] >= max(12, 0.002 * inside)
        solid = keep[labels].astype(np.uint8)
        rings, _ = cv2.findContours(solid, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        # Small holes are equal pixels by chance; large ones (between the rungs of a ladder) are
        # real.
        closed = cv2.drawContours(np.zeros_like(solid), rings, -1, 1, cv2.FILLED)
        holes = closed & (1 - solid)
        count, labels, stats, _ = cv2.connectedComponentsWithStats(holes, connectivity=4)
        small = stats[:, cv2.CC_STAT_AREA] < max(64, 0.01 * inside)
        small[0] = False
        whole[crop] = solid.astype(bool) | small[labels]
        return whole

    @cached_property
    def judged(self) -> np.ndarray:
        """The area whose rim is judged: the fill's, where it is known to the pixel.

        Behind compression the changed area's edge wanders with whatever lies there, and a rim that
        follows edges finds edges. So there it is the region's
        own outline, as far as the fill reaches it; where the fill is clearly smaller or larger than
        the region, its outline evened out.
        """
        if not self.lossy:
            return self.filled
        x, y, w, h = cv2.boundingRect((self.filled | self.mask).view(np.uint8))
        crop = (slice(max(0, y - 24), y + h + 24), slice(max(0, x - 24), x + w + 24))
        filled, mask = (
            np.ascontiguousarray(self.filled[crop]).view(np.uint8),
            np.ascontiguousarray(self.mask[crop]),
        )
        if min(w, h) > _WIDE:
            # By a quarter most of a wide fill is plainly as large as its region; what is not quite
            # so is looked at as it is.
            smooth = _evened_out(filled[::4, ::4], 4)
            if (
                _share_within(smooth, mask[::4, ::4]) > 0.8
                and _share_beyond(smooth, mask[::4, ::4], 4) < 0.08
            ):
                return self.mask
        whole = np.zeros(self.mask.shape, bool)
        smooth = _evened_out(filled)
        if _share_within(smooth, mask) < 0.7 and smooth.any():
            whole[crop] = smooth
            return whole
        # What reaches well beyond the region is the fill's too.
        if _share_beyond(smooth, mask) > 0.12:
            whole[crop] = smooth | mask
            return whole
        return self.mask

    def reduced(self, part: int) -> Window:
        """The same at a `part` of its width and height, by itself: its places are its own,
        `from_reduced` brings them here. Made once.
        """
        key = f"reduced by {part}"
        if key not in self.shared:
            height, width = (side // part for side in self.mask.shape)
            less = lambda plane: cv2.resize(
                plane[: height * part, : width * part],
                (width, height),
                interpolation=cv2.INTER_AREA,
            )
            most = lambda area: np.asarray(less(area.view(np.uint8) * np.uint8(255)) > 127)
            frame = (self.frame[0] // part, self.frame[1] // part)
            small = Window(
                self.region,
                (0, 0),
                reduced_of(self.original, part),
                reduced_of(self.result, part),
                most(self.mask),
                most(self.elsewhere),
                frame,
                self.lossy,
                smaller=None if self.smaller is None else most(self.smaller),
            )
            # What changed is known to the pixel here.
            small.__dict__ |= {"changed": most(self.changed), "filled": most(self.filled)}
            self.shared[key] = small
        made: Window = self.shared[key]
        return made

    def from_reduced(self, points: np.ndarray | list[Any], part: int) -> list[list[float]]:
        """(x, y) pairs of `reduced` as coordinates of the original."""
        return self.to_frame(np.asarray(points, float) * part)

    def to_frame(self, points: np.ndarray) -> list[list[float]]:
        """Window (x, y) pairs to coordinates of the original, rounded to hundredths."""
        here = np.asarray(points, float) + np.asarray(self.origin)
        return np.round(here if self.pair is None else self.pair.to_original(here), 2).tolist()

    def box_to_frame(self, x: float, y: float, width: float, height: float) -> list[float]:
        """A box of the window as x, y, width, height about it in the original, rounded to tenths."""
        if self.pair is not None and self.pair.back is not None:
            corners = np.array(
                [[x, y], [x + width, y], [x + width, y + height], [x, y + height]], float
            ) + np.asarray(self.origin)
            there = self.pair.to_original(corners)
            (left, top), (right, bottom) = there.min(axis=0), there.max(axis=0)
            return [round(float(v), 1) for v in (left, top, right - left, bottom - top)]
        return [
            round(float(x + self.origin[0]), 1),
            round(float(y + self.origin[1]), 1),
            round(float(width), 1),
            round(float(height), 1),
        ]


def open_window(
    scene: Scene,
    region: Region,
    all_regions: list[Region],
    reach: int = REACH,
    graded: bool = False,
) -> Window:
    """Cut one region's window out of a pair.

    Args:
        scene: both pictures in one frame.
        region: in that frame, as are `all_regions`.
        reach: how far around the region, pixels.
        graded: whether the original was brought to the result's grading, so that no pixel is
            exactly equal.
    """
    pair = scene.pair
    height, width = pair.original.pixels.shape[:2]
    x, y, w, h = region.bbox
    left, top, right, bottom = (
        max(0, x - reach),
        max(0, y - reach),
        min(width, x + w + reach),
        min(height, y + h + reach),
    )
    mask = np.zeros((bottom - top, right - left), bool)
    mask[y - top : y - top + h, x - left : x - left + w] = region.mask
    elsewhere, smaller = mask.copy(), None
    size = lambda one: (int(one.mask.sum()), one.id)
    for other in all_regions:
        ox, oy, ow, oh = other.bbox
        x0, y0, x1, y1 = max(ox, left), max(oy, top), min(ox + ow, right), min(oy + oh, bottom)
        if x0 < x1 and y0 < y1:
            here, there = (
                (slice(y0 - top, y1 - top), slice(x0 - left, x1 - left)),
                other.mask[y0 - oy : y1 - oy, x0 - ox : x1 - ox],
            )
            elsewhere[here] |= there
            if size(other) < size(region):
                smaller = np.zeros(mask.shape, bool) if smaller is None else smaller
                smaller[here] |= there
    crop = (slice(top, bottom), slice(left, right))
    if pair.valid is not None:
        # Where either picture shows nothing, nothing may be compared and no control may lie.
        elsewhere |= ~pair.valid[crop]
    look = scene.look(left, top, right, bottom)
    return Window(
        region,
        (left, top),
        look.original,
        look.result,
        mask,
        elsewhere,
        (height, width),
        pair.result.format == "jpeg" or pair.resampled or graded,
        pair,
        smaller,
        look=look,
    )
