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
from ..features.detail import (
    LEAST_CONTROLS,
    SCALES,
    STRIDE,
    Cells,
    Ground,
    box_of,
    carried,
    common_elsewhere,
    ground_of,
    inside_and_around,
    means_over,
    missing_by_size,
    narrowed,
    outlined,
    pixels_of,
    pools,
    predicted,
    regressed,
    sparser,
    streaks,
    tellable,
    uncommon,
    without_of,
)
from ..null import excess, natural_range, score_of
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "outline"
#: What each scale's shortfall weighs: middle bands missing is what tells a smear.
WEIGHTS = np.array((0.2, 0.5, 0.3), np.float32)
#: Patches whose mean shortfall is judged: side in grid steps; 0 is the whole fill.
PATCHES = (3, 7, 0)
#: The ways to know what is expected, and the least that must be missing by each.
WAYS = ("around", "around and coarse", "least", "least grain")
_LEAST = (0.5, 0.5, 0.25, 0.6)
_HALF, _WIDTH = 4.0, 0.9
#: Less grain in colour than this is none less (natural logarithm of the ratio), and what that
#: leaves of a score.
_ALL_THERE, _GRAINED = 0.25, 0.45
#: A shortfall (natural logarithm of energy) below this is never called natural spread.
FLOOR = (0.16, 0.14, 0.10)


def _columns(cells: Cells, way: int) -> list[np.ndarray]:
    return [cells.level, cells.level**2, cells.coarse][: 2 + way]


class Expectations:
    """What the surroundings let one expect, by each of `WAYS`."""

    def __init__(self, ground: Ground, lossy: bool) -> None:
        self.ground, self.lossy = ground, lossy
        self.slopes = [
            regressed(ground.around.logs, _columns(ground.around, way), ground.known)
            for way in (0, 1)
        ]
        self.cleared = [
            (ground.around.logs - predicted(slope, _columns(ground.around, way))).astype(np.float32)
            for way, slope in enumerate(self.slopes)
        ]
        self.joined = np.concatenate(self.cleared, axis=-1)
        self.seen = tellable(ground.around)
        self.least = np.percentile(ground.around.logs[ground.known], 4, axis=0)
        # Grain follows brightness; detail only adds to it.
        noise, columns = ground.around.noise[..., None], _columns(ground.around, 0)
        self.grain_slope = regressed(noise, columns, ground.known)
        self.grain = (noise - predicted(self.grain_slope, columns))[..., 0]
        self.least_grain = float(np.percentile(self.grain[ground.known], 4))

    def shortfall(
        self, corner: tuple[int, int], shape: np.ndarray, cells: Cells | None = None
    ) -> tuple[np.ndarray, np.ndarray]:
        """How much detail is missing in a shape of cells: the fill's own (`cells`), or, for a
        control, the untouched ones there.

        Returns:
            (ways, rows, columns) weighted shortfall; (rows, columns, scales) that of each scale by
            the first way.
        """
        ground = self.ground
        without = without_of(shape, corner, ground.known.shape)
        where = box_of(corner, shape)
        ways, first = [], np.zeros((*shape.shape, len(SCALES)))
        logs = ground.around.logs[where] if cells is None else cells.logs
        seen = self.seen[where] if cells is None else tellable(cells)
        # Both ways at once: where they carry from is the same.
        expected = carried(self.joined, ground.known, without, where, directions=True)
        for way in (0, 1):
            part = expected[..., way * len(SCALES) : (way + 1) * len(SCALES)]
            own = (
                self.cleared[way][where]
                if cells is None
                else logs - predicted(self.slopes[way], _columns(cells, way))
            )
            missing = np.clip(part - own, -2.5, 6.0) * seen[..., None]
            first = missing if way == 0 else first
            ways.append(missing @ WEIGHTS)
        # Below the picture's own grain nothing natural lies; the coarsest scale has no grain and
        # says nothing here.
        ways.append(np.clip(self.least - logs, -0.6, 3.0)[..., :2].mean(-1) * seen)
        if not self.lossy:
            grain = (
                self.grain[where]
                if cells is None
                else cells.noise - predicted(self.grain_slope, _columns(cells, 0))[..., 0]
            )
            ways.append(np.clip(self.least_grain - grain, -0.6, 3.0) * seen)
        return np.stack(ways), first


def _pooled(ways: np.ndarray, known: np.ndarray, ground: Ground) -> list[np.ndarray]:
    by_side = [
        np.where(enough[..., None], means, -9.0)
        for means, enough in means_over(np.moveaxis(ways, 0, -1), known, PATCHES, ground)
    ]
    return [by_side[side][..., way] for way in range(len(ways)) for side in range(len(PATCHES))]


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
                for level in _pooled(off, ground.known_at(corner, shape, cells), ground)
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
    found = _pooled(missing, known, ground)
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
