"""Smear: texture washed out, or drawn into streaks.

At every place the *smaller* eigenvalue of the structure tensor (Bigun and Granlund 1987) says how
much detail there is across the
least busy direction: a blur lowers both eigenvalues, a streak only that one. It is taken at a fine
    and two middle scales, as a
logarithm, and compared with what the surroundings let one expect at that place, in these ways:
    their own values, cleared of
brightness (noise follows it) and carried inward by normalised convolution (Knutsson and Westin
1993); the same cleared of coarse
structure too, since where there are clumps there is detail on them; and the least that any place of
this picture has, which is its
grain, in detail and, where nothing was compressed, in grain itself. The shortfall is averaged over
small and large patches; the
null is the same outline placed over untouched parts of the same result.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..evidence import Detail, Streaks
from ..features.colour_grain import in_colour
from ..features.detail.cells import STRIDE, Cells
from ..features.detail.drawn import outlined, pixels_of
from ..features.detail.ground import LEAST_CONTROLS, Ground, ground_of
from ..features.detail.lacking import inside_and_around, missing_by_size, sparser, streaks
from ..features.detail.means import (
    common_elsewhere,
    narrowed,
    pools,
    uncommon,
)
from ..features.detail.washed import PATCHES, WAYS, WEIGHTS, Expectations, pooled_over
from ..null import excess, natural_range, score_of
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "outline"
_LEAST = (0.5, 0.5, 0.25, 0.6)
_HALF, _WIDTH = 4.0, 0.9
#: Less grain in colour than this is none less (natural logarithm of the ratio), and what that
#: leaves of a score.
_ALL_THERE, _GRAINED = 0.25, 0.45
#: A shortfall (natural logarithm of energy) below this is never called natural spread.
FLOOR = (0.16, 0.14, 0.10)


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """Readings for each washed-out place. See the module's docstring for the method."""
    ground = ground_of(window)
    if isinstance(ground, str):
        return Abstention(ground)
    if not ground.enough:
        return Abstention(
            "too little untouched picture around the region to know how much detail belongs here"
        )
    expectations = Expectations(ground, window.lossy)
    missing, by_scale = expectations.shortfall(ground.corner, ground.inside, ground.fill)

    def chance(corner: tuple[int, int], shape: np.ndarray, cells: Cells | None) -> np.ndarray:
        off, _ = expectations.shortfall(corner, shape, cells)
        return np.array(
            [
                float(level.max())
                for level in pooled_over(off, ground.known_at(corner, shape, cells), ground)
            ]
        )

    values = ground.usable(
        ground.nulls(
            chance, tuple(range(len(PATCHES) - 1, len(missing) * len(PATCHES), len(PATCHES)))
        )
    )
    if len(values) < LEAST_CONTROLS:
        return Abstention(
            "too little untouched picture around the region to know how much detail belongs here"
        )
    known = ground.inside
    found = pooled_over(missing, known, ground)
    far = np.stack(
        [
            np.where(pool > -9, excess(pool, values[:, k], FLOOR[k % len(PATCHES)]), -1e3)
            for k, pool in enumerate(found)
        ]
    )
    # Compression takes some detail itself, unevenly. Less than a sixth of the detail gone is
    # nothing a person sees, however even the surroundings are.
    least = np.array(_LEAST[: len(missing)]).repeat(len(PATCHES))[:, None, None] + (
        0.12 if window.lossy else 0.0
    )
    scores = np.minimum(
        score_of(far, _HALF, _WIDTH), score_of((np.stack(found) - least) / 0.12, 0.0, 1.0)
    )
    by_detail = scores[: 3 * len(PATCHES)]
    if by_detail.max() >= 0.3:
        # What detail is expected says nothing where much of that colour is as smooth: a matt ground
        # between coins, a plain wall behind leaves.
        common = common_elsewhere(ground, ground.fill.logs @ WEIGHTS, ground.around.logs @ WEIGHTS)
        left = np.stack(
            [uncommon(np.maximum(pool, 0)) for pool in pools(common, known, PATCHES, ground)]
        )
        # Nor is a part that has all its grain one that was washed out. A whole fill may have been
        # given grain again.
        colour = in_colour(window, ground)
        if colour is not None:
            (less,) = pools(colour.departure[-1], colour.shows, (3,), ground)
            left[:-1] *= np.where((less > -9) & (less < _ALL_THERE), _GRAINED, 1.0)
        by_detail *= np.concatenate([left] * 3)
    level, best = scores.argmax(axis=0), scores.max(axis=0)
    natural = [natural_range(values[:, k], ground.null) for k in range(len(found))]
    reported = best >= 0.5
    for way in range(len(missing)):
        # What only the mean over the whole fill tells.
        whole = reported & (level == way * len(PATCHES) + len(PATCHES) - 1)
        reported &= ~whole | narrowed(whole, missing[way], known)
    hot = reported.astype(np.uint8)
    count, labels = cv2.connectedComponents(
        cv2.morphologyEx(hot, cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)) & known.astype(np.uint8),
        connectivity=8,
    )
    readings = [
        _reading(window, ground, labels == label, best, level, found, by_scale, natural)
        for label in range(1, count)
        if ((labels == label) & (hot > 0)).any()
    ]
    if readings:
        return sorted(readings, key=lambda reading: -reading.score)[:4]
    peak = np.zeros_like(known)
    peak[np.unravel_index(int(np.argmax(np.where(known, best, -1))), known.shape)] = True
    return [_reading(window, ground, peak, best, level, found, by_scale, natural)]


def _reading(
    window: Window,
    ground: Ground,
    tiles: np.ndarray,
    best: np.ndarray,
    level: np.ndarray,
    found: list[np.ndarray],
    by_scale: np.ndarray,
    natural: list[Natural],
) -> Reading:
    ys, xs = np.nonzero(tiles)
    peak = int(np.argmax(best[ys, xs]))
    k = int(level[ys[peak], xs[peak]])
    pixels = pixels_of(window, ground, tiles)
    (x, y, w, h), ring = outlined(window, pixels)
    inside, around = inside_and_around(
        window,
        pixels if pixels.any() else window.filled.astype(np.uint8),
        float(best[ys, xs].max()),
    )
    bands = tuple(
        (2.0 ** -(octave + 1), max(0.0, around[octave] - inside[octave]), 0.0)
        for octave in range(len(inside))
    )
    coherence, along = streaks(window, pixels)
    value = float(found[k][ys[peak], xs[peak]])
    return Reading(
        "smear",
        float(best[ys, xs].max()),
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        Signal(bands, float(max(w, h)), float(pixels.sum())),
        Measure("detail missing", value, "natural logarithm of energy", natural[k]),
        Detail(
            inside=inside,
            around=around,
            wavelengths_px=[2.0 ** (octave + 1) for octave in range(len(inside))],
            missing_by_scale=by_scale[ys, xs].mean(axis=0),
            missing_by_size=missing_by_size(window, ground, tiles),
            sparser=sparser(window, pixels, float(best[ys, xs].max())),
            streaks=Streaks(coherence, along),
            patch_px=PATCHES[k % len(PATCHES)] * STRIDE,
            expected_from=WAYS[k // len(PATCHES)],
            share_of_fill=float(pixels.sum() / max(int(window.filled.sum()), 1)),
        ),
    )
