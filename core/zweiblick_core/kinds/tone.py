"""Tone: a bright, dark or tinted patch; a hot spot, a cast.

Colour is averaged over cells of 4 to 16 px. From the cells around an area a membrane is stretched
over it (Laplace's equation, by relaxation), which is what the
tone there would be if nothing but light changed; what the fill departs from it, as a signed CIELAB
difference, is averaged over small and large
patches. Differences are taken in units of what the same outline yields over untouched parts of the
picture (Mahalanobis 1936): restless
surroundings have a wide spread of their own, and colour, which changes less than brightness, tells
more. What lies between its like above and below, or to both sides, is a
board or a course of bricks and no patch.

Where the ground has edges, neither a membrane nor a plane knows what lies behind them. But edges
are few, and a patch that covers all of the fill adds a little slope
everywhere along its rim: its height is what the slopes of the fill (colour differences of
    neighbouring cells) come to along those of a hump in the fill's own shape, by a robust
regression (Huber 1964), to which edges count little. It is compared with what the same hump comes
to elsewhere; of a wide fill, which has no room there, with what it comes
to when reduced.
"""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import cv2
import numpy as np

from ..evidence import Lab, Tone, ToneMap
from ..features.detail.drawn import outlined
from ..features.detail.means import means_over, pools
from ..features.tones.humps import (
    corners_at,
    growth_of,
    heights,
    heights_at,
    humps_of,
    stands_out,
    steepness,
    steepness_about,
)
from ..features.tones.membrane import (
    ABOUT_RIM,
    ACROSS,
    LIKE,
    STEADY,
    Around,
    boxed_down,
    calmed,
    known_between,
    residual_between,
    residual_of,
    surroundings_at,
    unrest_of,
)
from ..null import excess, natural_range, score_of
from ..report import Abstention, Measure, Reading, Signal
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "outline"
PATCHES = (3, 7, 0)
WAYS = ("membrane", "plane")
#: What a hump must show across, of what it shows along, to count, and to count in full.
_ONE_WAY = (0.14, 0.26)
#: Natural deviation of a hump's height in brightness (L*) and colour (a*, b*) from which slopes
#: tell only what is glaring.
SLOPING = (2.5, 1.6)
_RESTLESS_WORDS = "light and colour change too much around the region to tell a patch from them"
#: How far outside what is natural slopes must be for a half, and of how many controls that must be
#: known: of six to nine it was not (five of 440 clean cases).
_SLOPES_HALF, SLOPES_LEAST = 3.3, 12
#: At which parts of its size a wide outline is placed where the whole has no room, down to cells of
#: so many pixels.
_SMALLER, _LEAST_CELL = (2, 3, 4), 6
CONTROLS, LEAST_CONTROLS = 20, 6
#: How many cells a side a compact area has, and how many lie across the thickest part of a thin
#: one, at the least; a cell is no larger, pixels.
_CELLS, _ACROSS_THICKEST, _LARGEST_CELL = 9, 4, 16
_SEED = 20263
_HALF, _WIDTH = 3.9, 0.9
#: CIELAB differences below this are never called natural spread.
FLOOR = 0.35
#: Tones have long tails: a lamp, a shaded corner. See `calibrate.excess`.
TAIL = 0.8
#: Natural deviation of a whole area's brightness (L*) and colour (a*, b*) from which nothing can be
#: reported.
RESTLESS = (4.0, 1.6)
#: There only what lies so many times as far outside what is natural is reported.
_RESTLESS_DOUBT = 1.6


def _by_slopes(window: Window) -> Reading | Abstention | None:
    """A patch over all of the fill by its slopes; None where they cannot be known."""
    side = max(1, round(float(np.sqrt(float(window.filled.sum()))) / ACROSS))
    shape = boxed_down(window.filled.astype(np.float32), side) > 0.5
    if min(shape.shape) < 8 or shape.sum() < 40:
        return None
    free = boxed_down((~window.apart).astype(np.float32), side) > 0.6
    ys, xs = np.flatnonzero(shape.any(1)), np.flatnonzero(shape.any(0))
    top, left = max(0, int(ys[0]) - 2), max(0, int(xs[0]) - 2)
    shape = shape[top : ys[-1] + 3, left : xs[-1] + 3]
    humps, area = (
        humps_of(shape),
        cv2.dilate(shape.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool),
    )
    height, width = shape.shape
    result, original = boxed_down(window.lab_result, side), boxed_down(window.lab_original, side)
    here = result[top : top + height, left : left + width]
    mine = heights(here, humps, area)
    # What lies around counts too: a fill that was blurred is calm by that.
    steep = (
        np.maximum(
            steepness(here, humps, area, mine), steepness_about(result, shape, (top, left), free)
        )
        + STEADY
    )
    places = window.room.places(window.filled, CONTROLS, _SEED)
    controls = heights_at(
        corners_at(places, side, (top, left)), original, free, shape, humps, area, steep
    )
    for times in _SMALLER:
        if len(controls) >= SLOPES_LEAST or side // times < _LEAST_CELL:
            break
        # Light and things are alike at any size (Ruderman and Bialek 1994): where a wide outline
        # has no room, it has when reduced, in cells of that level.
        fine = side // times
        outline: np.ndarray = np.zeros(window.filled.shape, bool)
        whole = shape.repeat(fine, 0).repeat(fine, 1)
        outline[: whole.shape[0], : whole.shape[1]] = whole[: outline.shape[0], : outline.shape[1]]
        places = window.room.places(outline, CONTROLS, _SEED)
        if len(places) < SLOPES_LEAST:
            continue
        ground, known = (
            boxed_down(window.lab_original, fine),
            boxed_down((~window.apart).astype(np.float32), fine) > 0.6,
        )
        closer = shape.repeat(times, 0).repeat(times, 1)[
            : known.shape[0] - times * top, : known.shape[1] - times * left
        ]
        afar = steepness_about(original, shape, (top, left), free)
        grows = growth_of(
            afar,
            steepness_about(ground, closer, (times * top, times * left), known, times * ABOUT_RIM),
            times,
        )
        controls = [
            grows * found
            for found in heights_at(
                corners_at(places, fine, (0, 0)), ground, known, shape, humps, area, steep
            )
        ]
    if len(controls) < SLOPES_LEAST:
        return None
    unrest = np.sqrt((np.array(controls)[:, 1] ** 2).mean(axis=0))
    restless = bool(unrest[0] > SLOPING[0] and max(unrest[1:]) > SLOPING[1])
    beside = [
        heights(np.where(np.isfinite(way), way, 0), humps, area)
        for way in known_between(result, shape, (top, left), free)
    ]
    scores, amounts, natural = [], [], []
    for k in range(len(humps)):
        rows = np.array([one[k] for one in controls])
        whiten = _whitening(rows)
        null, amount = _amount(rows, whiten), float(_amount(mine[k], whiten))
        for way in beside:
            left_over = float(_amount(way[k], whiten))
            amount = left_over if left_over < LIKE * amount else amount
        scores.append(
            float(
                score_of(
                    excess(np.array(amount), null, 0.35, TAIL) / _doubt(len(null)),
                    _SLOPES_HALF,
                    _WIDTH,
                )
            )
        )
        amounts.append(amount)
        natural.append(natural_range(null, NULL))
    k = int(np.argmax(scores))
    ways = stands_out(here, humps[k], area, mine[k])
    scores[k] *= float(np.clip((ways - _ONE_WAY[0]) / (_ONE_WAY[1] - _ONE_WAY[0]), 0, 1))
    if restless and scores[k] < 0.5:
        return Abstention(_RESTLESS_WORDS, scores[k])
    (x, y, w, h), ring = outlined(window, window.filled.astype(np.uint8))
    patch = np.where(shape, humps[k], 0) * mine[k][0]
    every = 1 + int(np.sqrt(shape.size / 900))
    return Reading(
        "tone",
        scores[k],
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        Signal(_bands(mine[k], max(w, h, 2)), float(max(w, h, 2)), float(window.filled.sum())),
        Measure("departure from the tone around", amounts[k], "natural spreads", natural[k]),
        Tone(
            difference=Lab(*mine[k].tolist()),
            delta_e=float(np.linalg.norm(mine[k])),
            patch_px=max(w, h),
            expected_from="slopes",
            map=ToneMap(
                window.to_frame(np.array([[left * side, top * side]]))[0],
                side * every,
                np.round(patch[::every, ::every], 1),
            ),
        ),
    )


def _doubt(controls: int) -> float:
    """By how much a null of few controls is widened: what is rare has not been seen among them."""
    return max(1.0, (1 + 6 / controls) / (1 + 6 / CONTROLS))


def _whitening(rows: np.ndarray) -> np.ndarray:
    """(3, 3) that takes natural departures (n, 3) to spreads of one."""
    second = rows.T @ rows / max(len(rows), 1)
    second = 0.85 * second + 0.15 * np.diag(np.diag(second)) + FLOOR**2 * np.eye(3)
    value, vector = np.linalg.eigh(second)
    whiten: np.ndarray = (vector / np.sqrt(value)) @ vector.T
    return whiten


def _bands(step: np.ndarray, size: int) -> tuple[tuple[float, float, float], ...]:
    """A soft patch is a wave of twice its width: most of it lies in that octave, little above."""
    lightness, chroma = float(abs(step[0])), float(np.hypot(step[1], step[2]))
    return tuple(
        (min(0.5, factor / (2 * size)), lightness * part, chroma * part)
        for factor, part in ((0.5, 0.5), (1.0, 1.0), (2.0, 0.5), (4.0, 0.25))
    )


def _likeness(
    own: np.ndarray, before: np.ndarray, result: np.ndarray, shape: np.ndarray
) -> tuple[float, float]:
    """How alike what a fill departs by and what the removed thing departed by are, cell by cell: as
    colours (cosine), and as a pattern (the same about their means, where the
    thing has one). A trace of the thing has both; another light has neither but by chance.

    Args:
        own: (rows, columns, 3) departures of the fill. before, result: (rows, columns, 3) CIELAB of
            the same cells.
    """
    here = own[shape].astype(float)
    there = (before - result)[shape].astype(float) + here
    cosine = lambda one, other: float(
        (one * other).sum() / (np.linalg.norm(one) * np.linalg.norm(other) + 1e-6)
    )
    return cosine(here, there), cosine(here - here.mean(axis=0), there - there.mean(axis=0))


def _amount(mean: np.ndarray, whiten: np.ndarray) -> np.ndarray:
    return np.linalg.norm(mean @ whiten, axis=-1)


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """One reading. See the module's docstring for the method."""
    smooth, sloping = _by_surroundings(window), _by_slopes(window)
    if sloping is None or (isinstance(sloping, Abstention) and not isinstance(smooth, Abstention)):
        return smooth
    if isinstance(sloping, Abstention):
        assert isinstance(smooth, Abstention)
        return Abstention(smooth.reason, max(smooth.leaning, sloping.leaning))
    if isinstance(smooth, Abstention):
        return [sloping]
    if sloping.score > smooth[0].score:
        # What the thing departed by is known from cells, whichever way was surer.
        cells = smooth[0].shown(Tone)
        sloping.evidence = replace(
            sloping.shown(Tone),
            likeness_to_removed=cells.likeness_to_removed,
            pattern_of_removed=cells.pattern_of_removed,
        )
        return [sloping]
    return smooth


def cell_side(area: np.ndarray) -> int:
    """Pixels a cell: small enough for some to lie across the thickest part of an area, of a wire's
    place too.
    """
    left, top, width, height = cv2.boundingRect(area.view(np.uint8))
    own = area[top : top + height, left : left + width].view(np.uint8)
    thickest = lambda every: (
        every * float(cv2.distanceTransform(np.pad(own[::every, ::every], 1), cv2.DIST_L2, 3).max())
    )
    # To the pixel only where that matters.
    thick = thickest(4)
    if thick < 4 * _ACROSS_THICKEST * _LARGEST_CELL:
        thick = thickest(1)
    return int(
        np.clip(
            min(np.sqrt(float(area.sum())) / _CELLS, 2 * thick / _ACROSS_THICKEST), 4, _LARGEST_CELL
        )
    )


def _by_surroundings(window: Window) -> list[Reading] | Abstention:
    """By the membrane over what lies around, and the plane through it."""
    area = window.filled
    side = cell_side(area)
    if min(window.mask.shape) < 6 * side:
        return Abstention("the picture is too small to know its tones")
    known = boxed_down((~window.apart).astype(np.float32), side) > 0.6
    share = boxed_down(area.astype(np.float32), side)
    shape_whole = share > 0.7
    if shape_whole.sum() < 4:
        return Abstention("the fill is too narrow to have a tone of its own")
    result, original = boxed_down(window.lab_result, side), boxed_down(window.lab_original, side)
    ys, xs = np.flatnonzero(shape_whole.any(1)), np.flatnonzero(shape_whole.any(0))
    corner = (int(ys[0]), int(xs[0]))
    shape = shape_whole[ys[0] : ys[-1] + 1, xs[0] : xs[-1] + 1]
    own = surroundings_at(result, shape, corner, known)
    # The fill itself is never a control, nor is what lies beside it: its rim may be stained.
    controls = []
    for dx, dy in window.room.places(area, CONTROLS, _SEED):
        row, column = corner[0] + round(dy / side), corner[1] + round(dx / side)
        if (
            row < 0
            or column < 0
            or row + shape.shape[0] > known.shape[0]
            or column + shape.shape[1] > known.shape[1]
        ):
            continue
        there = surroundings_at(original, shape, (row, column), known)
        if (
            there is not None
            and (
                known[row : row + shape.shape[0], column : column + shape.shape[1]] | ~shape
            ).mean()
            > 0.7
        ):
            controls.append(there)
    inflated = 1.0
    if len(controls) < LEAST_CONTROLS:
        controls, inflated = _squares(original, known, int(shape.sum()))
    if own is None or len(controls) < LEAST_CONTROLS:
        return Abstention("too little untouched picture around the region to know its tones")
    cells = (
        slice(corner[0], corner[0] + shape.shape[0]),
        slice(corner[1], corner[1] + shape.shape[1]),
    )
    here = unrest_of(own)
    departs, nature = (
        residual_of(own),
        [residual_of(control) * inflated * calmed(here, control) for control in controls],
    )
    # By the better of the two ways.
    means = np.array(
        [
            [way[control.area[control.inner]].mean(axis=0) for way in one]
            for control, one in zip(controls, nature, strict=True)
        ]
    )
    unrest = np.sqrt((means**2).mean(axis=0)).min(axis=0)
    restless = bool(unrest[0] > RESTLESS[0] and max(unrest[1:]) > RESTLESS[1])
    likeness = [_likeness(way, original[cells], result[cells], shape) for way in departs]
    read = partial(
        _reading,
        window,
        side,
        shape,
        corner,
        departs,
        controls=nature,
        likeness=likeness,
        doubt=_RESTLESS_DOUBT if restless else 1.0,
    )
    # What lies between its like only takes from what a patch departs by: where that is too little
    # already it need not be known.
    found = read(beside=None) if restless else None
    if found is None or found.score >= 0.5:
        found = read(beside=residual_between(own))
    if restless and found.score < 0.5:
        return Abstention(_RESTLESS_WORDS, found.score)
    return [found]


def _squares(colour: np.ndarray, known: np.ndarray, cells: int) -> tuple[list[Around], float]:
    """Where the outline has no room: the largest squares that have, and by what their departures
    grow for the whole (they grow with the gap's width).
    """
    rng = np.random.default_rng(_SEED)
    whole = np.sqrt(cells)
    for size in (int(whole * 0.75), int(whole * 0.5), int(whole * 0.33), 5):
        if size < 4 or size >= min(known.shape) - 4:
            continue
        free = cv2.boxFilter(
            known.astype(np.float32),
            -1,
            (size, size),
            anchor=(0, 0),
            borderType=cv2.BORDER_CONSTANT,
        )
        rows, columns = np.nonzero(free[:-size, :-size] > 0.9)
        if len(rows) < 12:
            continue
        found = []
        square = np.ones((size, size), bool)
        for k in rng.permutation(len(rows))[:CONTROLS]:
            there = surroundings_at(colour, square, (int(rows[k]), int(columns[k])), known)
            if there is not None:
                found.append(there)
        if len(found) >= LEAST_CONTROLS:
            return found, float(max(1.0, whole / size)) ** 0.6
    return [], 1.0


def pooled_residual(residual: np.ndarray, shape: np.ndarray) -> list[np.ndarray]:
    """Means over patches by each way, (rows, columns, 3) each, zero where too little is known."""
    return [
        np.where(enough[..., None], mean, 0)
        for way in residual
        for mean, enough in means_over(way, shape, PATCHES)
    ]


def _lies_between(beside: np.ndarray, shape: np.ndarray) -> list[list[np.ndarray]]:
    """What `residual_between` departs by over each of `PATCHES`, (rows, columns, 3) by direction; infinite
    where that is not known of most of a patch.
    """
    found: list[list[np.ndarray]] = []
    for way in beside:
        known = shape & np.isfinite(way[..., 0])
        if not known.any():
            continue
        shares = pools(known.astype(np.float32), shape, PATCHES)
        found.append(
            [
                np.where((share > 0.8)[..., None], pooled, np.inf)
                for share, pooled in zip(
                    shares,
                    pooled_residual(np.where(known[..., None], way, 0)[None], known),
                    strict=True,
                )
            ]
        )
    return found


def _reading(
    window: Window,
    side: int,
    shape: np.ndarray,
    corner: tuple[int, int],
    own: np.ndarray,
    beside: np.ndarray | None,
    controls: list[np.ndarray],
    likeness: list[tuple[float, float]],
    doubt: float,
) -> Reading:
    shapes = [
        shape if one.shape[1:3] == shape.shape else np.ones(one.shape[1:3], bool)
        for one in controls
    ]
    means = [pooled_residual(one, inside) for one, inside in zip(controls, shapes, strict=True)]
    mine, between = (
        pooled_residual(own, shape),
        [] if beside is None else _lies_between(beside, shape),
    )
    scores, amounts, natural = [], [], []
    for k in range(len(mine)):
        rows = np.concatenate(
            [
                (one[k][inside])[:: max(1, int(inside.sum()) // 60)]
                for one, inside in zip(means, shapes, strict=True)
            ]
        )
        whiten = _whitening(rows)
        null = np.array(
            [
                float(_amount(one[k], whiten)[inside].max())
                for one, inside in zip(means, shapes, strict=True)
            ]
        )
        amount = np.where(shape, _amount(mine[k], whiten), 0)
        for way in between:
            departs = way[k % len(PATCHES)]
            known = np.isfinite(departs[..., 0])
            remains = np.where(
                known, _amount(np.where(known[..., None], departs, 0), whiten), np.inf
            )
            amount = np.where(remains < LIKE * amount, remains, amount)
        amounts.append(amount)
        scores.append(
            np.where(
                shape,
                score_of(
                    excess(amount, null, 0.35, TAIL) / (doubt * _doubt(len(null))), _HALF, _WIDTH
                ),
                0,
            )
        )
        natural.append(natural_range(null, NULL))
    best, level = np.max(scores, axis=0), np.argmax(scores, axis=0)
    at = np.unravel_index(int(np.argmax(best)), best.shape)
    k = int(level[at])
    step = mine[k][at]
    hot = best >= min(0.5, 0.8 * float(best[at]))
    pixels = np.zeros(window.mask.shape, np.uint8)
    for row, column in zip(*np.nonzero(hot), strict=True):
        top, left = (corner[0] + int(row)) * side, (corner[1] + int(column)) * side
        pixels[top : top + side, left : left + side] = 1
    (x, y, w, h), ring = outlined(window, pixels)
    size = max(w, h, 2)
    return Reading(
        "tone",
        float(best[at]),
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        Signal(_bands(step, size), float(size), float(max(pixels.sum(), 1))),
        Measure(
            "departure from the tone around", float(amounts[k][at]), "natural spreads", natural[k]
        ),
        Tone(
            difference=Lab(float(step[0]), float(step[1]), float(step[2])),
            delta_e=float(np.linalg.norm(step)),
            patch_px=PATCHES[k % len(PATCHES)] * side,
            expected_from=WAYS[k // len(PATCHES)],
            likeness_to_removed=likeness[k // len(PATCHES)][0],
            pattern_of_removed=likeness[k // len(PATCHES)][1],
            map=ToneMap(
                window.to_frame(np.array([[corner[1] * side, corner[0] * side]]))[0],
                side,
                np.round(np.where(shape, own[k // len(PATCHES)][..., 0], 0), 1)
                if shape.size <= 900
                else [],
            ),
        ),
    )
