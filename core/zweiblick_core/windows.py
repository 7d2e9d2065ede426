"""A window: one region with its surroundings in both pictures, and the planes that several kinds need, each made once."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import cv2
import numpy as np

from .reading import Picture, eight_bit
from .regions.changed import changed_area
from .regions.masks import Region

#: How far around a region is looked, in pixels.
REACH = 400


def luma_of(rgb: np.ndarray) -> np.ndarray:
    """Rec. 601 luma of float32 RGB."""
    return rgb @ np.array([0.299, 0.587, 0.114], np.float32)


def lab_of(rgb: np.ndarray) -> np.ndarray:
    """CIELAB (D65) of float32 sRGB 0..255; L 0..100."""
    return cv2.cvtColor(np.ascontiguousarray(rgb / 255.0, np.float32), cv2.COLOR_RGB2LAB)


@dataclass
class Window:
    """One region and up to `REACH` pixels around it.

    Attributes:
        region: what is judged.
        origin: (x, y) of the window's top left pixel in the original.
        original, result: float32 (height, width, 3), 0..255.
        mask: bool, this region.
        elsewhere: bool, every region of the picture (this one too): no control place may touch it.
        frame: (height, width) of the whole picture.
        lossy: whether the result was compressed with loss after the removal.
        shared: what several kinds need and one of them has made.
    """

    region: Region
    origin: tuple[int, int]
    original: np.ndarray
    result: np.ndarray
    mask: np.ndarray
    elsewhere: np.ndarray
    frame: tuple[int, int]
    lossy: bool
    shared: dict[str, Any] = field(default_factory=dict)

    @cached_property
    def luma_original(self) -> np.ndarray:
        return luma_of(self.original)

    @cached_property
    def luma_result(self) -> np.ndarray:
        return luma_of(self.result)

    @cached_property
    def lab_original(self) -> np.ndarray:
        return lab_of(self.original)

    @cached_property
    def lab_result(self) -> np.ndarray:
        return lab_of(self.result)

    @cached_property
    def changed(self) -> np.ndarray:
        """What the removal changed, bool; limited to this region and what adjoins it."""
        away = cv2.dilate(self.elsewhere.astype(np.uint8), np.ones((25, 25), np.uint8)).astype(bool)
        changed = changed_area(self.original, self.result, self.lossy, away if (~away).sum() > 400 else None)
        near = cv2.dilate(self.mask.astype(np.uint8), np.ones((61, 61), np.uint8)).astype(bool)
        other = self.elsewhere & ~self.mask
        return changed & near & ~other

    @cached_property
    def filled(self) -> np.ndarray:
        """The area the fill occupies: the changed area with its holes closed, or the mask where too little changed."""
        changed = self.changed
        if changed.sum() < 0.1 * self.mask.sum():
            return self.mask
        count, labels, stats, _ = cv2.connectedComponentsWithStats(changed.astype(np.uint8), connectivity=8)
        keep = np.zeros(count, bool)
        keep[1:] = stats[1:, cv2.CC_STAT_AREA] >= max(12, 0.002 * self.mask.sum())
        solid = keep[labels].astype(np.uint8)
        rings, _ = cv2.findContours(solid, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        # Small holes are equal pixels by chance; large ones (between the rungs of a ladder) are real.
        closed = cv2.drawContours(np.zeros_like(solid), rings, -1, 1, cv2.FILLED)
        holes = closed & (1 - solid)
        count, labels, stats, _ = cv2.connectedComponentsWithStats(holes, connectivity=4)
        small = stats[:, cv2.CC_STAT_AREA] < max(64, 0.01 * self.mask.sum())
        small[0] = False
        return (solid.astype(bool)) | small[labels]

    def to_frame(self, points: np.ndarray) -> list[list[float]]:
        """Window (x, y) pairs to coordinates of the original, rounded to hundredths."""
        return np.round(np.asarray(points, float) + np.asarray(self.origin), 2).tolist()

    def box_to_frame(self, x: float, y: float, width: float, height: float) -> list[float]:
        return [round(float(x + self.origin[0]), 1), round(float(y + self.origin[1]), 1), round(float(width), 1), round(float(height), 1)]


def open_window(original: Picture, result: Picture, region: Region, all_regions: list[Region], reach: int = REACH) -> Window:
    """Cut one region's window out of two pictures of the same frame."""
    height, width = original.pixels.shape[:2]
    x, y, w, h = region.bbox
    left, top, right, bottom = max(0, x - reach), max(0, y - reach), min(width, x + w + reach), min(height, y + h + reach)
    mask = np.zeros((bottom - top, right - left), bool)
    mask[y - top:y - top + h, x - left:x - left + w] = region.mask
    elsewhere = mask.copy()
    for other in all_regions:
        ox, oy, ow, oh = other.bbox
        x0, y0, x1, y1 = max(ox, left), max(oy, top), min(ox + ow, right), min(oy + oh, bottom)
        if x0 < x1 and y0 < y1:
            elsewhere[y0 - top:y1 - top, x0 - left:x1 - left] |= other.mask[y0 - oy:y1 - oy, x0 - ox:x1 - ox]
    crop = (slice(top, bottom), slice(left, right))
    return Window(region, (left, top), eight_bit(original.pixels[crop]), eight_bit(result.pixels[crop]), mask, elsewhere,
                  (height, width), result.format == "jpeg")
