"""Tone: a bright, dark or tinted patch; a hot spot, a cast.

Colour is averaged over cells of 4 to 16 px. From the cells around an area a membrane is stretched over it (Laplace's equation, by relaxation), which is what the
tone there would be if nothing but light changed; what the fill departs from it, as a signed CIELAB difference, is averaged over small and large
patches. Differences are taken in units of what the same outline yields over untouched parts of the picture (Mahalanobis 1936): restless
surroundings have a wide spread of their own, and colour, which changes less than brightness, tells more.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..calibrate import excess, natural_range, score_of
from ..carriers import Carriers
from ..report import Abstention, Measure, Reading, Signal
from ..windows import Window
from .detail import outlined, pools

NULL = "outline"
PATCHES = (3, 7, 0)
WAYS = ("membrane", "plane")
CONTROLS, LEAST_CONTROLS = 20, 6
_SEED = 20263
_HALF, _WIDTH = 4.4, 0.9
#: CIELAB differences below this are never called natural spread.
FLOOR = 0.35
#: Tones have long tails: a lamp, a shaded corner. See `calibrate.excess`.
TAIL = 0.8
#: Natural deviation of a whole area's brightness (L*) and colour (a*, b*) from which nothing can be told.
RESTLESS = (4.0, 1.6)


def _down(plane: np.ndarray, side: int) -> np.ndarray:
    height, width = plane.shape[0] // side * side, plane.shape[1] // side * side
    return cv2.resize(plane[:height, :width], (width // side, height // side), interpolation=cv2.INTER_AREA)


def membrane(colour: np.ndarray, area: np.ndarray, known: np.ndarray) -> np.ndarray:
    """Colours (rows, columns, 3) with `area` filled by Laplace's equation from the `known` cells that border it."""
    # From coarse to fine: each level starts from the one above, so that few steps settle it.
    height, width = area.shape
    usable = (known & ~area).astype(np.float32)
    if min(height, width) > 6:
        half = lambda plane: cv2.resize(plane, ((width + 1) // 2, (height + 1) // 2), interpolation=cv2.INTER_AREA)
        weight = half(usable)
        smaller = half(colour * usable[..., None]) / np.maximum(weight, 1e-4)[..., None]
        start = cv2.resize(membrane(smaller.astype(np.float32), weight <= 1e-3, weight > 1e-3), (width, height), interpolation=cv2.INTER_LINEAR)
    else:
        mean = colour[usable > 0].mean(axis=0) if (usable > 0).any() else colour.reshape(-1, 3).mean(axis=0)
        start = np.broadcast_to(mean, colour.shape).astype(np.float32)
    free = (usable == 0)[..., None]
    out = np.where(free, start, colour).astype(np.float32)
    kernel = np.array([[0, 1, 0], [1, 0, 1], [0, 1, 0]], np.float32) / 4
    for _ in range(12):
        out = np.where(free, cv2.filter2D(out, -1, kernel, borderType=cv2.BORDER_REFLECT_101), out)
    return out


def _residual(colour: np.ndarray, shape: np.ndarray, corner: tuple[int, int], known: np.ndarray) -> np.ndarray | None:
    """Signed departures (ways, rows, columns, 3) of a shape of cells from the membrane over it and from the plane through what is around; None where it has no room."""
    margin = 10
    top, left = corner
    bottom, right = top + shape.shape[0], left + shape.shape[1]
    here = (slice(max(0, top - margin), bottom + margin), slice(max(0, left - margin), right + margin))
    area = np.zeros(known[here].shape, bool)
    inner = (slice(top - here[0].start, bottom - here[0].start), slice(left - here[1].start, right - here[1].start))
    area[inner] = shape
    grown = cv2.dilate(area.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
    beyond = known[here] & ~grown
    if beyond.sum() < 12:
        return None
    stretched = membrane(colour[here], grown, known[here])
    return np.stack([(colour[here] - expected)[inner] for expected in (stretched, _plane(colour[here], beyond, area))])


def _plane(colour: np.ndarray, beyond: np.ndarray, area: np.ndarray) -> np.ndarray:
    """The plane through the cells around, nearer ones counting more; where texture is coarse a wide rim tells more than a narrow one."""
    away = cv2.distanceTransform((~area).astype(np.uint8), cv2.DIST_L2, 3)
    y, x = np.mgrid[:area.shape[0], :area.shape[1]]
    design = np.stack([np.ones(area.shape), (x - x[area].mean()) / 10.0, (y - y[area].mean()) / 10.0], -1)
    weight = (np.exp(-((away / 6.0) ** 2)) * beyond)[beyond][:, None]
    rows = design[beyond]
    # The slope is drawn towards nought: a few odd cells on one side must not tilt it.
    solved = np.linalg.solve(rows.T @ (rows * weight) + np.diag([1e-6, 1.0, 1.0]) * 0.5 * float(weight.sum()) / 10, rows.T @ (colour[beyond] * weight))
    return (design @ solved).astype(np.float32)


def _amount(mean: np.ndarray, whiten: np.ndarray) -> np.ndarray:
    return np.linalg.norm(mean @ whiten, axis=-1)


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """One reading. See the module's docstring for the method."""
    area = window.filled
    side = int(np.clip(np.sqrt(float(area.sum())) / 9, 4, 16))
    if min(window.mask.shape) < 6 * side:
        return Abstention("the picture is too small to know its tones")
    known = _down((~window.apart).astype(np.float32), side) > 0.6
    share = _down(area.astype(np.float32), side)
    shape_whole = share > 0.7
    if shape_whole.sum() < 4:
        return Abstention("the fill is too narrow to have a tone of its own")
    result, original = _down(window.lab_result, side), _down(window.lab_original, side)
    ys, xs = np.flatnonzero(shape_whole.any(1)), np.flatnonzero(shape_whole.any(0))
    corner = (int(ys[0]), int(xs[0]))
    shape = shape_whole[ys[0]:ys[-1] + 1, xs[0]:xs[-1] + 1]
    own = _residual(result, shape, corner, known)
    # The fill itself is never a control, nor is what lies beside it: its rim may be stained.
    controls = []
    for dx, dy in window.room.places(area, CONTROLS, _SEED):
        row, column = corner[0] + round(dy / side), corner[1] + round(dx / side)
        if row < 0 or column < 0 or row + shape.shape[0] > known.shape[0] or column + shape.shape[1] > known.shape[1]:
            continue
        there = _residual(original, shape, (row, column), known)
        if there is not None and (known[row:row + shape.shape[0], column:column + shape.shape[1]] | ~shape).mean() > 0.7:
            controls.append(there)
    inflated = 1.0
    if len(controls) < LEAST_CONTROLS:
        controls, inflated = _squares(original, known, int(shape.sum()))
    if own is None or len(controls) < LEAST_CONTROLS:
        return Abstention("too little untouched picture around the region to know its tones")
    # By the better of the two ways.
    means = np.array([[way.reshape(-1, 3).mean(axis=0) if way.shape[:2] != shape.shape else way[shape].mean(axis=0) for way in one] for one in controls])
    unrest = np.sqrt((means ** 2).mean(axis=0)).min(axis=0) * inflated
    if unrest[0] > RESTLESS[0] and max(unrest[1:]) > RESTLESS[1]:
        return Abstention("light and colour change too much around the region to tell a patch from them")
    return [_reading(window, side, shape, corner, own, [one * inflated for one in controls])]


def _squares(colour: np.ndarray, known: np.ndarray, cells: int) -> tuple[list[np.ndarray], float]:
    """Where the outline has no room: the largest squares that have, and by what their departures grow for the whole (they grow with the gap's width)."""
    rng = np.random.default_rng(_SEED)
    whole = np.sqrt(cells)
    for size in (int(whole * 0.75), int(whole * 0.5), int(whole * 0.33), 5):
        if size < 4 or size >= min(known.shape) - 4:
            continue
        free = cv2.boxFilter(known.astype(np.float32), -1, (size, size), anchor=(0, 0), borderType=cv2.BORDER_CONSTANT)
        rows, columns = np.nonzero(free[:-size, :-size] > 0.9)
        if len(rows) < 12:
            continue
        found = []
        square = np.ones((size, size), bool)
        for k in rng.permutation(len(rows))[:CONTROLS]:
            there = _residual(colour, square, (int(rows[k]), int(columns[k])), known)
            if there is not None:
                found.append(there)
        if len(found) >= LEAST_CONTROLS:
            return found, float(max(1.0, whole / size)) ** 0.6
    return [], 1.0


def _pooled(residual: np.ndarray, shape: np.ndarray) -> list[np.ndarray]:
    """Means over patches by each way, (rows, columns, 3) each, nought where too little is known."""
    found = []
    for way in residual:
        by_channel = [pools(way[..., c], shape, PATCHES) for c in range(3)]
        found += [np.stack([np.where(by_channel[0][k] > -9, by_channel[c][k], 0) for c in range(3)], -1) for k in range(len(PATCHES))]
    return found


def _reading(window: Window, side: int, shape: np.ndarray, corner: tuple[int, int], own: np.ndarray, controls: list[np.ndarray]) -> Reading:
    shapes = [shape if one.shape[1:3] == shape.shape else np.ones(one.shape[1:3], bool) for one in controls]
    laid = [_pooled(one, inside) for one, inside in zip(controls, shapes, strict=True)]
    mine = _pooled(own, shape)
    scores, amounts, natural = [], [], []
    for k in range(len(mine)):
        rows = np.concatenate([(one[k][inside])[:: max(1, int(inside.sum()) // 60)] for one, inside in zip(laid, shapes, strict=True)])
        second = rows.T @ rows / max(len(rows), 1)
        second = 0.85 * second + 0.15 * np.diag(np.diag(second)) + FLOOR ** 2 * np.eye(3)
        value, vector = np.linalg.eigh(second)
        whiten = (vector / np.sqrt(value)) @ vector.T
        null = np.array([float(_amount(one[k], whiten)[inside].max()) for one, inside in zip(laid, shapes, strict=True)])
        amount = np.where(shape, _amount(mine[k], whiten), 0)
        amounts.append(amount)
        scores.append(np.where(shape, score_of(excess(amount, null, 0.35, TAIL), _HALF, _WIDTH), 0))
        natural.append(natural_range(null, NULL))
    best, level = np.max(scores, axis=0), np.argmax(scores, axis=0)
    at = np.unravel_index(int(np.argmax(best)), best.shape)
    k = int(level[at])
    step = mine[k][at]
    hot = best >= min(0.5, 0.8 * float(best[at]))
    pixels = np.zeros(window.mask.shape, np.uint8)
    for row, column in zip(*np.nonzero(hot), strict=True):
        top, left = (corner[0] + int(row)) * side, (corner[1] + int(column)) * side
        pixels[top:top + side, left:left + side] = 1
    (x, y, w, h), ring = outlined(window, pixels)
    lightness, chroma = float(abs(step[0])), float(np.hypot(step[1], step[2]))
    size = max(w, h, 2)
    # A soft patch is a wave of twice its width: most of it lies in that octave, little above.
    bands = tuple((min(0.5, factor / (2 * size)), lightness * part, chroma * part) for factor, part in ((0.5, 0.5), (1.0, 1.0), (2.0, 0.5), (4.0, 0.25)))
    return Reading("tone", float(best[at]), window.box_to_frame(x, y, w, h), window.to_frame(ring), Signal(bands, float(size), float(max(pixels.sum(), 1))),
                   Measure("departure from the tone around", float(amounts[k][at]), "natural spreads", natural[k]),
                   {"type": "tone", "difference": {"lightness": float(step[0]), "a": float(step[1]), "b": float(step[2])}, "delta_e": float(np.linalg.norm(step)),
                    "patch_px": PATCHES[k % len(PATCHES)] * side, "expected_from": WAYS[k // len(PATCHES)],
                    "map": {"corner": window.to_frame(np.array([[corner[1] * side, corner[0] * side]]))[0], "cell_px": side,
                            "lightness": np.round(np.where(shape, own[k // len(PATCHES)][..., 0], 0), 1) if shape.size <= 900 else []}})
