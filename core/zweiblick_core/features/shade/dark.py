"""Dark parts of the ground, by their light, and how much like cast shadows they are."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ...scene.planes import reduced_of
from ...scene.window import Window

#: How much darker than around, as a natural logarithm of linear light.
DEPTHS = (0.2, 0.4, 0.7)
#: From and up to how much darker (natural logarithm of linear light) a dark place is less and less
#: likely a shadow: a clear sky gives a tenth to a quarter of the sun's light
#: (0.7 to 2.3), and rooms more; what is darker than that is black.
BLACK = (1.7, 2.6)


@dataclass(frozen=True)
class Dark:
    """One dark part. `quality`: how much like a cast shadow, 0 and up."""

    cells: np.ndarray
    depth: float
    neutral: float
    quality: float


def light_of(window: Window, side: int) -> tuple[np.ndarray, np.ndarray]:
    """(rows, columns, 3) logarithm of linear light, and (rows, columns) relative contrast of fine
    texture.
    """
    height, width = window.mask.shape
    size = (max(1, width // side), max(1, height // side))
    small = reduced_of(window.result, min(3, width, height))
    linear = cv2.pow(small * np.float32(1 / 255), 2.2)
    mean = cv2.resize(linear, size, interpolation=cv2.INTER_AREA)
    luma = np.log(linear @ np.array([0.2126, 0.7152, 0.0722], np.float32) + 0.004)
    fine = np.abs(luma - cv2.GaussianBlur(luma, (0, 0), 2.0))
    return np.log(mean + 0.004), cv2.resize(fine, size, interpolation=cv2.INTER_AREA)


def _middle(values: np.ndarray) -> np.ndarray:
    """The median of (n, ...) over the first axis; of few values a sort is quicker than `np.median`."""
    ranked = np.sort(values, axis=0)
    return np.asarray((ranked[(len(ranked) - 1) // 2] + ranked[len(ranked) // 2]) / 2)


def darks(light: np.ndarray, contrast: np.ndarray, usable: np.ndarray, reach: float) -> list[Dark]:
    """Dark parts of (rows, columns, 3) light over `usable` cells, no larger than a square of side
    `reach` cells.
    """
    value = light.mean(axis=2)
    weight = usable.astype(np.float32)
    sigma = max(2.0, reach * 0.7)
    near = np.maximum(cv2.GaussianBlur(weight, (0, 0), sigma), 1e-3)
    around = cv2.GaussianBlur(value * weight, (0, 0), sigma) / near
    unrest = np.sqrt(cv2.GaussianBlur((value - around) ** 2 * weight, (0, 0), sigma) / near)
    found = []
    for depth in DEPTHS:
        dark = ((value < around - depth * 0.6) & usable).astype(np.uint8)
        count, labels, stats, _ = cv2.connectedComponentsWithStats(
            cv2.morphologyEx(dark, cv2.MORPH_OPEN, np.ones((2, 2), np.uint8)), connectivity=4
        )
        for label in range(1, count):
            area = int(stats[label, cv2.CC_STAT_AREA])
            if not 6 <= area <= reach * reach * 2.5:
                continue
            x, y, w, h = (int(v) for v in stats[label, :4])
            part = (slice(max(0, y - 4), y + h + 4), slice(max(0, x - 4), x + w + 4))
            cells = labels[part] == label
            beyond = (
                cv2.dilate(cells.view(np.uint8), np.ones((7, 7), np.uint8)).astype(bool)
                & usable[part]
            )
            beyond &= cv2.dilate(cells.view(np.uint8), np.ones((3, 3), np.uint8)) == 0
            if beyond.sum() < 6:
                continue
            drop = _middle(light[part][beyond]) - _middle(light[part][cells])
            deep = float(drop.mean())
            if deep < 0.1:
                continue
            neutral = float(np.exp(-np.ptp(drop) / (0.25 * deep + 0.05)))
            # Under a shadow texture keeps its relative contrast; another material has its own.
            same = float(
                np.exp(
                    -abs(
                        np.log(
                            (_middle(contrast[part][cells]) + 0.01)
                            / (_middle(contrast[part][beyond]) + 0.01)
                        )
                    )
                    / 0.5
                )
            )
            spread = float(_middle(unrest[part][cells])) + 0.08
            whole = np.zeros(usable.shape, bool)
            whole[part] = cells
            light_left = float(np.clip((BLACK[1] - deep) / (BLACK[1] - BLACK[0]), 0, 1))
            found.append(
                Dark(
                    whole,
                    deep,
                    neutral,
                    deep / spread * (0.25 + neutral) * (0.3 + same) * light_left,
                )
            )
    return found


def cut_at_outline(window: Window, dark: np.ndarray, depth: float, side: int) -> float:
    """How much of a dark part's depth (natural logarithm of linear light) is gone just inside the
    fill where the two meet, 0..1.

    A shadow that was left ends where the outline was drawn. A dark place that belongs here goes on
    into the fill, or has an edge of its own somewhere else.
    """
    x, y, w, h = cv2.boundingRect(cv2.dilate(dark, np.ones((41, 41), np.uint8)))
    crop = (slice(y, y + h), slice(x, x + w))
    fill, dark = window.filled[crop].astype(np.uint8), dark[crop]
    disc = lambda size: cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
    grown = lambda plane, size: cv2.dilate(plane.astype(np.uint8), disc(size)).astype(bool)
    outer = grown(fill, 13) & ~grown(fill, 3) & grown(dark, 2 * side + 1)
    inner = (
        fill.astype(bool)
        & ~cv2.erode(fill, disc(13), borderValue=1).astype(bool)
        & grown(outer, 17)
    )
    if outer.sum() < 20 or inner.sum() < 20:
        return 0.0
    light = lambda area: np.log((window.luma_result[crop][area] / 255.0) ** 2.2 + 0.004)
    return float(
        np.clip((np.median(light(inner)) - np.median(light(outer))) / max(depth, 0.1), 0, 1)
    )
