"""Grain: noise finer, coarser or missing inside, an outline that shows once the picture is denoised
or sharpened.

Measured in two ways. Only flat places show grain alone. There the mean amplitude of the finest
Laplacian (Immerkaer 1996) is compared with what the surroundings have at the
same brightness; a little texture that leaks into it is predicted from coarser scales and taken off.
The null is the same outline placed over
untouched parts of the same result. In textured places it is measured by colour (`colour_grain`); and
that it is missing by how far the fill shows what denoising
would do to its surroundings (`trials`).
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..evidence import Detail
from ..features.colour_grain import IN_BRIGHTNESS, ColourGrain, in_brightness, in_colour
from ..features.colour_grain import PATCHES as IN_COLOUR
from ..features.detail.cells import STRIDE, Cells
from ..features.detail.drawn import outlined, pixels_of
from ..features.detail.grains import ROOT_MEAN, Expectations
from ..features.detail.ground import CONTROLS, LEAST_CONTROLS, Ground, ground_of
from ..features.detail.lacking import inside_and_around, missing_by_size, sparser
from ..features.detail.means import common_elsewhere, narrowed, pools, uncommon
from ..features.trials import FLOOR as TRIED_FLOOR
from ..features.trials import Shown, judged, reading_of, shows_of
from ..null import excess, least_reported, natural_range, score_of
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "outline"
PATCHES = (7, 0)
LEAST_CELLS = 8
_HALF, _WIDTH = 4.6, 0.8
FLOOR = (0.06, 0.04)
TAIL = 0.8
#: Where not even half or twice the grain could be seen (natural logarithm of its amplitude),
#: nothing can.
TELLING = 0.7
#: A ratio of noise below e^this is nothing a person could bring out.
_LEAST = (0.16, 0.12)
#: In colour: the least that counts, natural logarithm of the ratio, and the least spread.
_LEAST_IN_COLOUR, FLOOR_IN_COLOUR = (0.32, 0.26, 0.24), (0.10, 0.08, 0.06)
#: In brightness alone: excess that scores 0.5 and its width, the least that counts, and by how much
#: more than in colour grain must be.
_HALF_ADDED, _WIDTH_ADDED, _LEAST_ADDED, _BEYOND_COLOUR = 3.3, 0.4, 0.2, 0.2
#: The same in textured places: excess that scores 0.5, and parts of what denoising takes.
_HALF_TEXTURED, _LEAST_TEXTURED = (4.6, 3.5, 3.1), (0.3, 0.22, 0.16)


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """One reading for less grain than around and one for more, in flat places; and one for less in
    textured ones. See the module's docstring for the methods.
    """
    ground = ground_of(window)
    if isinstance(ground, str):
        return Abstention(ground)
    readings = _measured(window, carriers, ground)
    if isinstance(readings, Abstention):
        return readings
    sigma = _sigma_around(ground)
    for reading in readings:
        reading.evidence = replace(reading.shown(Detail), sigma_around=sigma)
    return readings


def _sigma_around(ground: Ground) -> float | None:
    """Standard deviation of luma that grain gives the calmest of what is around, levels of 255; None
    where nothing is around. Textured places have more than their grain.
    """
    around, known = ground.around, ground.known
    if not known.any():
        return None
    calm = known & (around.coarse <= np.percentile(around.coarse[known], 20))
    return float(np.exp(np.median(around.noise[calm])) / ROOT_MEAN)


def _measured(window: Window, carriers: Carriers, ground: Ground) -> list[Reading] | Abstention:
    quality = carriers.result_compression.quality
    if carriers.result_compression.lossy and quality is not None and quality < 86:
        return Abstention("compression took the grain away")
    if carriers.result_grain.sigma < 0.25 and carriers.original_grain.sigma < 0.25:
        return Abstention("the picture has no grain to compare with")
    shown = shows_of(window, carriers, ground).denoised
    flat = _in_flat_places(window, carriers, ground, shown)
    colour = in_colour(window, ground)
    if colour is not None:
        coloured = [_in_colour(window, ground, colour, sign) for sign in (-1, 1)]
        # By each way what it tells; of two that tell the same, the surer.
        flat = (
            coloured
            if isinstance(flat, Abstention)
            else [max(pair, key=lambda one: one.score) for pair in zip(flat, coloured, strict=True)]
        )
        added = _added(window, ground, colour)
        if added is not None and added.score > flat[1].score:
            flat[1] = added
    if not shown.tells:
        return flat
    lacking = _as_denoised(window, ground, shown)
    # That no flat place shows it is no reason to be silent where another way tells it; but that
    # nothing is missing does not say that there is not too much.
    if isinstance(flat, Abstention):
        return [lacking] if lacking.score >= 0.5 else flat
    return [*flat, lacking]


def _as_denoised(window: Window, ground: Ground, shown: Shown) -> Reading:
    made = judged(window, ground, shown, _HALF_TEXTURED, _LEAST_TEXTURED)
    reading = reading_of(
        "grain",
        window,
        ground,
        made,
        Measure("gone of what denoising would take", made.amount, "parts", made.natural),
        2,
        Detail(what="less grain", textured_share=float(shown.seen[ground.inside].mean())),
    )
    missing = reading.shown(Detail)
    assert missing.missing_by_size is not None
    reading.evidence = replace(missing, ratio=float(np.exp(-missing.missing_by_size[0])))
    return reading


def _corroborated(shown: Shown, cells: np.ndarray) -> float:
    """0.5 to 1: whether cells that look quiet show anything of what denoising would do to them.
    Where nothing does, a few that are quieter than others are chance.
    """
    if not shown.tells or not cells.any():
        return 1.0
    beyond = max(
        float(excess(pool[cells].max(), shown.values[:, k], TRIED_FLOOR[k]))
        for k, pool in enumerate(shown.found)
    )
    return float(np.clip(0.5 + 0.5 * beyond, 0.5, 1.0))


def _in_flat_places(
    window: Window, carriers: Carriers, ground: Ground, shown: Shown
) -> list[Reading] | Abstention:
    expectations = Expectations(ground, carriers.result_grain)
    if not ground.enough or expectations.flat.sum() < 60:
        return Abstention("too few flat places around the region to know its grain")
    departure, flat = expectations.departure(ground.corner, ground.inside, ground.fill)
    if flat.sum() < LEAST_CELLS:
        return Abstention(
            "the fill, or what lies beside it, has no flat place that would show grain alone"
        )

    def chance(corner: tuple[int, int], shape: np.ndarray, cells: Cells | None) -> np.ndarray:
        off, here = expectations.departure(corner, shape, cells)
        here &= ground.known_at(corner, shape, cells)
        if here.sum() < LEAST_CELLS:
            return np.full(2 * len(PATCHES), -9.0)
        return np.array(
            [
                float(pool.max())
                for sign in (-1, 1)
                for pool in pools(off[sign], here, PATCHES, ground)
            ]
        )

    values = ground.nulls(chance, (len(PATCHES) - 1, 2 * len(PATCHES) - 1))
    values = ground.usable(values)
    if len(values) < LEAST_CONTROLS:
        return Abstention("too few flat places around the region to know its grain")
    least = [
        min(
            least_reported(values[:, first + k], FLOOR[k], _HALF, TAIL) for k in range(len(PATCHES))
        )
        for first in (0, len(PATCHES))
    ]
    if min(least) > TELLING:
        return Abstention("grain changes too much around the region to know what belongs here")
    # What grain alone would read at the coarsest of the three scales (white noise behind a
    # Gaussian: variance over 8 pi sigma^4).
    alone = float(
        np.log(
            0.004 + 6.5e-4 * max(carriers.result_grain.sigma, carriers.original_grain.sigma) ** 2
        )
    )
    textured = float(np.median(ground.around.logs[ground.known][:, 2])) - alone
    return [
        _side(
            window,
            ground,
            departure,
            flat,
            values,
            sign,
            textured,
            expectations.beyond_middle[sign],
            shown,
        )
        for sign in (-1, 1)
    ]


def _side(
    window: Window,
    ground: Ground,
    departure: dict[int, np.ndarray],
    flat: np.ndarray,
    values: np.ndarray,
    sign: int,
    textured: float,
    beyond_middle: float,
    shown: Shown,
) -> Reading:
    found = pools(departure[sign], flat, PATCHES, ground)
    first = 0 if sign < 0 else len(PATCHES)
    far = np.stack(
        [
            np.where(pool > -9, excess(pool, values[:, first + k], FLOOR[k], TAIL), -1e3)
            for k, pool in enumerate(found)
        ]
    )
    scores = np.minimum(
        score_of(far, _HALF, _WIDTH),
        score_of((np.stack(found) - np.array(_LEAST)[:, None, None]) / 0.05, 0.0, 1.0),
    )
    best, level = scores.max(axis=0), scores.argmax(axis=0)
    at = np.unravel_index(int(np.argmax(np.where(flat, best, -1))), best.shape)
    k = int(level[at])
    natural = natural_range(values[:, first + k], ground.null)
    hot = (best >= min(0.5, 0.9 * float(best[at]))) & flat
    hot = narrowed(hot, departure[sign], flat)
    score = float(best[at])
    if sign < 0:
        score *= _corroborated(shown, hot)
    elif score >= 0.3 and hot.any():
        # As much grain in much else of that colour is its texture: a lawn beside a smooth coat.
        score *= float(
            uncommon(
                np.median(common_elsewhere(ground, -ground.fill.noise, -ground.around.noise)[hot])
            )
        )
    low, high = natural.low + beyond_middle, natural.high + beyond_middle
    return _reading(
        window,
        ground,
        hot,
        score,
        sign,
        float(found[k][at] + beyond_middle),
        Natural(low, high, natural.n, natural.null),
        Detail(
            texture_over_grain=textured,
            patch_px=PATCHES[k] * STRIDE,
            flat_share=float(flat.sum() / ground.inside.sum()),
        ),
    )


def _reading(
    window: Window,
    ground: Ground,
    hot: np.ndarray,
    score: float,
    sign: int,
    beyond: float,
    natural: Natural,
    evidence: Detail,
) -> Reading:
    """Of less (-1) or more (1) grain by a ratio of e^beyond in some cells of the fill."""
    pixels = pixels_of(window, ground, hot)
    (x, y, w, h), ring = outlined(window, pixels)
    inside, around = inside_and_around(
        window, pixels if pixels.any() else window.filled.astype(np.uint8), score
    )
    bands = tuple(
        (2.0 ** -(octave + 1), abs(around[octave] - inside[octave]) if octave < 2 else 0.0, 0.0)
        for octave in range(len(inside))
    )
    ratio = float(np.exp(sign * beyond))
    return Reading(
        "grain",
        score,
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        Signal(bands, float(max(w, h)), float(max(pixels.sum(), 1))),
        Measure(
            "grain against what is around",
            ratio,
            "times",
            Natural(
                float(np.exp(natural.low if sign > 0 else -natural.high)),
                float(np.exp(natural.high if sign > 0 else -natural.low)),
                natural.n,
                natural.null,
            ),
        ),
        replace(
            evidence,
            what="less grain" if sign < 0 else "more grain",
            inside=inside,
            around=around,
            ratio=ratio,
            missing_by_size=missing_by_size(window, ground, hot),
            sparser=sparser(window, pixels, score),
            wavelengths_px=[2.0 ** (octave + 1) for octave in range(len(inside))],
        ),
    )


def _in_colour(window: Window, ground: Ground, colour: ColourGrain, sign: int) -> Reading:
    found = pools(colour.departure[sign], colour.shows, IN_COLOUR, ground)
    first = 0 if sign < 0 else len(IN_COLOUR)
    # A small part that lacks grain was washed out; one that has more of it by itself is chance.
    counting = slice(0 if sign < 0 else 1, None)
    far = np.stack(
        [
            np.where(
                pool > -9, excess(pool, colour.values[:, first + k], FLOOR_IN_COLOUR[k], TAIL), -1e3
            )
            for k, pool in enumerate(found)
        ]
    )
    # What is rare has not been seen among a few controls.
    doubt = max(1.0, (1 + 6 / len(colour.values)) / (1 + 6 / CONTROLS))
    scores = np.minimum(
        score_of(far / doubt, _HALF, _WIDTH),
        score_of((np.stack(found) - np.array(_LEAST_IN_COLOUR)[:, None, None]) / 0.04, 0.0, 1.0),
    )
    best, level = (
        scores[counting].max(axis=0),
        scores[counting].argmax(axis=0) + (counting.start or 0),
    )
    at = np.unravel_index(int(np.argmax(np.where(colour.shows, best, -1))), best.shape)
    k = int(level[at])
    hot = narrowed(
        (best >= min(0.5, 0.9 * float(best[at]))) & colour.shows,
        colour.departure[sign],
        colour.shows,
    )
    share = float(pixels_of(window, ground, hot).sum() / max(int(window.filled.sum()), 1))
    return _reading(
        window,
        ground,
        hot,
        float(best[at]),
        sign,
        float(found[k][at]),
        natural_range(colour.values[:, first + k], ground.null),
        Detail(patch_px=IN_COLOUR[k] * STRIDE, seen_in="colour", share_of_fill=share),
    )


def _added(window: Window, ground: Ground, colour: ColourGrain) -> Reading | None:
    """More grain that is the same in all colours: more in brightness, by more than in colour. None
    where brightness can't be read.
    """
    bright = in_brightness(ground)
    if bright is None or not colour.shows.any():
        return None
    found = pools(bright.departure[1], bright.shows, IN_BRIGHTNESS, ground)
    first = len(IN_BRIGHTNESS)
    far = np.stack(
        [
            np.where(
                pool > -9, excess(pool, bright.values[:, first + k], FLOOR_IN_COLOUR[k], TAIL), -1e3
            )
            for k, pool in enumerate(found)
        ]
    )
    beyond = np.stack(found) - np.stack(
        pools(colour.departure[1], bright.shows, IN_BRIGHTNESS, ground)
    )
    scores = np.minimum(
        score_of(far, _HALF_ADDED, _WIDTH_ADDED),
        score_of((np.stack(found) - _LEAST_ADDED) / 0.04, 0.0, 1.0),
    )
    scores = np.minimum(scores, score_of((beyond - _BEYOND_COLOUR) / 0.04, 0.0, 1.0))
    best, level = scores.max(axis=0), scores.argmax(axis=0)
    at = np.unravel_index(int(np.argmax(np.where(bright.shows, best, -1))), best.shape)
    k = int(level[at])
    hot = narrowed(
        (best >= min(0.5, 0.9 * float(best[at]))) & bright.shows, bright.departure[1], bright.shows
    )
    return _reading(
        window,
        ground,
        hot,
        float(best[at]),
        1,
        float(found[k][at]),
        natural_range(bright.values[:, first + k], ground.null),
        Detail(patch_px=IN_BRIGHTNESS[k] * STRIDE, seen_in="brightness alone"),
    )
