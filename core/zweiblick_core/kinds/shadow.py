"""Shadow: the thing is gone, its shadow or footprint is not. A hint, given with the confidence of one.

A cast shadow is a place beside the region, darker than what surrounds it by a factor that is the same for all colours (light was taken away, not paint
added), with its texture's relative contrast unchanged, ending within about the thing's size, and standing in both pictures alike: in the original it
belonged to the thing. Places are found as connected dark parts that touch the region, on a coarse grid in logarithms of linear light; how
they compare is learned from the dark parts of the same picture that touch no region.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..calibrate import excess, score_of
from ..carriers import Carriers
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..windows import Window
from .detail import outlined

NULL = "surround"
#: How much darker than around, as a natural logarithm of linear light.
DEPTHS = (0.2, 0.4, 0.7)
_HALF, _WIDTH = 1.55, 0.5
#: From and up to how much darker (natural logarithm of linear light) a dark place is less and less likely a shadow: a clear sky gives a tenth to a quarter of the sun's light
#: (0.7 to 2.3), and rooms more; what is darker than that is black.
_BLACK = (1.7, 2.6)


@dataclass(frozen=True)
class Dark:
    """One dark part. `quality`: how much like a cast shadow, 0 and up."""

    cells: np.ndarray
    depth: float
    neutral: float
    quality: float


def _light(window: Window, side: int) -> tuple[np.ndarray, np.ndarray]:
    """(rows, columns, 3) logarithm of linear light, and (rows, columns) relative contrast of fine texture."""
    height, width = window.mask.shape
    size = (max(1, width // side), max(1, height // side))
    small = cv2.resize(window.result, (max(1, width // 3), max(1, height // 3)), interpolation=cv2.INTER_AREA)
    linear = cv2.pow(small * np.float32(1 / 255), 2.2)
    mean = cv2.resize(linear, size, interpolation=cv2.INTER_AREA)
    luma = np.log(linear @ np.array([0.2126, 0.7152, 0.0722], np.float32) + 0.004)
    fine = np.abs(luma - cv2.GaussianBlur(luma, (0, 0), 2.0))
    return np.log(mean + 0.004), cv2.resize(fine, size, interpolation=cv2.INTER_AREA)


def darks(light: np.ndarray, contrast: np.ndarray, usable: np.ndarray, reach: float) -> list[Dark]:
    """Dark parts of (rows, columns, 3) light over `usable` cells, no larger than a square of side `reach` cells."""
    value = light.mean(axis=2)
    weight = usable.astype(np.float32)
    sigma = max(2.0, reach * 0.7)
    near = np.maximum(cv2.GaussianBlur(weight, (0, 0), sigma), 1e-3)
    around = cv2.GaussianBlur(value * weight, (0, 0), sigma) / near
    unrest = np.sqrt(cv2.GaussianBlur((value - around) ** 2 * weight, (0, 0), sigma) / near)
    found = []
    for depth in DEPTHS:
        dark = ((value < around - depth * 0.6) & usable).astype(np.uint8)
        count, labels, stats, _ = cv2.connectedComponentsWithStats(cv2.morphologyEx(dark, cv2.MORPH_OPEN, np.ones((2, 2), np.uint8)), connectivity=4)
        for label in range(1, count):
            area = int(stats[label, cv2.CC_STAT_AREA])
            if not 6 <= area <= reach * reach * 2.5:
                continue
            x, y, w, h = (int(v) for v in stats[label, :4])
            part = (slice(max(0, y - 4), y + h + 4), slice(max(0, x - 4), x + w + 4))
            cells = labels[part] == label
            beyond = cv2.dilate(cells.astype(np.uint8), np.ones((7, 7), np.uint8)).astype(bool) & ~cv2.dilate(cells.astype(np.uint8), np.ones((3, 3),
                    np.uint8)).astype(bool) & usable[part]
            if beyond.sum() < 6:
                continue
            drop = np.median(light[part][beyond], axis=0) - np.median(light[part][cells], axis=0)
            deep = float(drop.mean())
            if deep < 0.1:
                continue
            neutral = float(np.exp(-np.ptp(drop) / (0.25 * deep + 0.05)))
            # Under a shadow texture keeps its relative contrast; another material has its own.
            same = float(np.exp(-abs(np.log((np.median(contrast[part][cells]) + 0.01) / (np.median(contrast[part][beyond]) + 0.01))) / 0.5))
            spread = float(np.median(unrest[part][cells])) + 0.08
            whole = np.zeros(usable.shape, bool)
            whole[part] = cells
            light_left = float(np.clip((_BLACK[1] - deep) / (_BLACK[1] - _BLACK[0]), 0, 1))
            found.append(Dark(whole, deep, neutral, deep / spread * (0.25 + neutral) * (0.3 + same) * light_left))
    return found


def _cut_at_outline(window: Window, dark: np.ndarray, depth: float, side: int) -> float:
    """How much of a dark part's depth (natural logarithm of linear light) is gone just inside the fill where the two meet, 0..1.

    A shadow that was left ends where the outline was drawn. A dark place that belongs here goes on into the fill, or has an edge of its own somewhere else.
    """
    x, y, w, h = cv2.boundingRect(cv2.dilate(dark, np.ones((41, 41), np.uint8)))
    crop = (slice(y, y + h), slice(x, x + w))
    fill, dark = window.filled[crop].astype(np.uint8), dark[crop]
    disc = lambda size: cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
    grown = lambda plane, size: cv2.dilate(plane.astype(np.uint8), disc(size)).astype(bool)
    outer = grown(fill, 13) & ~grown(fill, 3) & grown(dark, 2 * side + 1)
    inner = fill.astype(bool) & ~cv2.erode(fill, disc(13), borderValue=1).astype(bool) & grown(outer, 17)
    if outer.sum() < 20 or inner.sum() < 20:
        return 0.0
    light = lambda area: np.log((window.luma_result[crop][area] / 255.0) ** 2.2 + 0.004)
    return float(np.clip((np.median(light(inner)) - np.median(light(outer))) / max(depth, 0.1), 0, 1))


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """At most one reading. See the module's docstring for the method."""
    side = int(np.clip(np.sqrt(float(window.mask.sum())) / 12, 4, 16))
    light, contrast = _light(window, side)
    size = (light.shape[1], light.shape[0])
    if min(size) < 12:
        return Abstention("the picture is too small to know a shadow from a dark place")
    down = lambda plane: cv2.resize(plane.view(np.uint8) * np.uint8(255), size, interpolation=cv2.INTER_AREA) * np.float32(1 / 255)
    # A shadow may lie in the region itself: what the fill did not reach is looked at like what lies beside it.
    mask = down(window.filled) > 0.5
    usable = down(window.filled | (window.elsewhere & ~window.mask)) < 0.3
    if usable.sum() < 100:
        return Abstention("too little untouched picture around the region to know its light")
    reach = float(np.sqrt(max(mask.sum(), 9)))
    beside = cv2.dilate(mask.astype(np.uint8), np.ones((7, 7), np.uint8)).astype(bool)
    parts = darks(light, contrast, usable, reach)
    touching = [part for part in parts if (part.cells & beside).sum() >= 2]
    others = [part.quality for part in parts if not (part.cells & beside).any()]
    if not touching:
        return []
    # What lies against the region lies against it over some length, and lights up inside where the fill was lit.
    best = max(touching, key=lambda part: part.quality * min(1.0, float((part.cells & beside).sum()) / (0.5 * reach)))
    weight = min(1.0, float((best.cells & beside).sum()) / (0.5 * reach))
    null = np.array(others if len(others) >= 6 else [*others, *np.linspace(0.2, 1.0, 6)])
    inside = np.median(light[mask], axis=0) if mask.any() else light.reshape(-1, 3).mean(axis=0)
    lit = float(np.clip((inside.mean() - float(np.median(light[best.cells].mean(axis=1)))) / max(best.depth, 0.1), 0, 1))
    pixels = cv2.resize(best.cells.astype(np.uint8), window.mask.shape[::-1], interpolation=cv2.INTER_NEAREST)
    cut = _cut_at_outline(window, pixels, best.depth, side)
    value = best.quality * (0.15 + 0.15 * lit + 0.7 * min(lit, cut))
    # Of all dark places that happen to touch a region only some are its shadow: the score of a hint stays low.
    score = 0.8 * float(score_of(excess(np.array(value), null, 0.25), _HALF, _WIDTH)) * weight
    (x, y, w, h), ring = outlined(window, pixels)
    lab = window.lab_result[..., 0]
    ring_around = cv2.dilate(pixels, np.ones((25, 25), np.uint8)).astype(bool) & ~pixels.astype(bool)
    step = abs(float(lab[ring_around].mean()) - float(lab[pixels.astype(bool)].mean())) if ring_around.any() and pixels.any() else 0.0
    across = float(max(w, h, 2))
    bands = tuple((min(0.5, factor / (2 * across)), step * part, 0.0) for factor, part in ((0.5, 0.5), (1.0, 1.0), (2.0, 0.5), (4.0, 0.25)))
    return [Reading("shadow", score, window.box_to_frame(x, y, w, h), window.to_frame(ring), Signal(bands, across, float(max(pixels.sum(), 1))),
                    Measure("like a cast shadow", value, "times the picture's unrest", Natural(float(np.percentile(null, 5)), float(np.percentile(null, 95)), len(null), NULL)),
                    {"type": "shadow", "darker": float(1 - np.exp(-best.depth)), "neutral": best.neutral, "fill_is_lit": lit, "ends_at_outline": cut, "hint": True})]
