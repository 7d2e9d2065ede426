"""Soft: sharpness that does not fit, either way: less detail than around, as if enlarged; or a sharp fill on blurred ground.

Only where there is texture can sharpness be seen. There the finest scale of detail is *predicted* from the two next coarser ones and the
brightness, by a regression over the surroundings, and what the neighbourhood itself departs from that is carried inward, since sharpness changes
with depth. A fill that is softer falls short at the finest scale while the coarser ones are as they should be; that is what tells it from a
smear. The null is the same outline laid over untouched parts of the same result.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..calibrate import excess, natural_range, score_of
from ..carriers import Carriers
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..windows import Window
from .detail import (
    LEAST_CONTROLS,
    STRIDE,
    Cells,
    Ground,
    carried,
    ground_of,
    inside_and_around,
    missing_by_size,
    outlined,
    pixels_of,
    pools,
    predicted,
    regressed,
    sparser,
    tellable,
    without_of,
)

NULL = "outline"
PATCHES = (5, 9, 0)
#: Cells with texture: the middle scale lies this far above grain alone, natural logarithm of energy.
TEXTURED = 0.7
LEAST_CELLS = 8
_HALF, _WIDTH = 3.6, 0.8
FLOOR = (0.14, 0.10, 0.07)
#: What counts as a departure at all: natural logarithm of energy.
_LEAST = (0.36, 0.28, 0.21)


def _columns(cells: Cells) -> list[np.ndarray]:
    return [cells.level, cells.level ** 2, cells.logs[..., 1], cells.logs[..., 2], cells.coarse]


class Expectations:
    """How sharp things are around. `departure` is positive where sharper than expected."""

    def __init__(self, ground: Ground, sigma: float) -> None:
        self.ground = ground
        around = ground.around
        # What grain alone would read at the middle scale (white noise behind a Gaussian: variance over 8 pi sigma^4), or the quietest cells where those are quieter.
        grain = float(np.log(0.004 + 0.0104 * min(sigma, 3.0) ** 2))
        self.quiet = min(float(np.percentile(around.logs[ground.known][:, 1], 5)), grain)
        self.textured = ground.known & (around.logs[..., 1] > self.quiet + TEXTURED) & (tellable(around) > 0.5)
        fine = around.logs[..., :1]
        self.slope = regressed(fine, _columns(around), self.textured)
        self.own = (fine - predicted(self.slope, _columns(around))).astype(np.float32)

    def departure(self, corner: tuple[int, int], shape: np.ndarray, cells: Cells | None = None) -> tuple[np.ndarray, np.ndarray]:
        """(rows, columns) departure of a shape of cells, and which of them have texture."""
        ground = self.ground
        where = (slice(corner[0], corner[0] + shape.shape[0]), slice(corner[1], corner[1] + shape.shape[1]))
        expected, here = carried(self.own, self.textured, without_of(shape, corner, ground.known.shape))
        row, column = corner[0] - here[0].start, corner[1] - here[1].start
        expected = expected[row:row + shape.shape[0], column:column + shape.shape[1], 0]
        if cells is None:
            return np.clip(self.own[where][..., 0] - expected, -3, 3), shape & self.textured[where]
        own = (cells.logs[..., :1] - predicted(self.slope, _columns(cells)))[..., 0]
        return np.clip(own - expected, -3, 3), shape & (cells.logs[..., 1] > self.quiet + TEXTURED) & (tellable(cells) > 0.5)


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """At most one reading softer and one sharper than around. See the module's docstring for the method."""
    ground = ground_of(window)
    if isinstance(ground, str):
        return Abstention(ground)
    expectations = Expectations(ground, carriers.result_grain.sigma)
    if not ground.enough or expectations.textured.sum() < 60:
        return Abstention("too little texture around the region to know how sharp this place should be")
    departure, textured = expectations.departure(ground.corner, ground.inside, ground.fill)
    if textured.sum() < LEAST_CELLS:
        return Abstention("nothing in the fill has enough texture to be sharp or soft")

    def chance(corner: tuple[int, int], shape: np.ndarray, cells: Cells | None) -> np.ndarray:
        off, here = expectations.departure(corner, shape, cells)
        here &= ground.known_at(corner, shape, cells)
        if here.sum() < LEAST_CELLS:
            return np.full(2 * len(PATCHES), -9.0)
        return np.array([float(pool.max()) for sign in (-1, 1) for pool in pools(sign * off, here, PATCHES)])

    values = ground.nulls(chance)
    values = ground.usable(values)
    if len(values) < LEAST_CONTROLS:
        return Abstention("too little texture around the region to know how sharp this place should be")
    return [_side(window, ground, departure, textured, values, sign) for sign in (-1, 1)]


def _side(window: Window, ground: Ground, departure: np.ndarray, textured: np.ndarray, values: np.ndarray, sign: int) -> Reading:
    found = pools(sign * departure, textured, PATCHES)
    first = 0 if sign < 0 else len(PATCHES)
    far = np.stack([np.where(pool > -9, excess(pool, values[:, first + k], FLOOR[k]), -1e3) for k, pool in enumerate(found)])
    # Compression takes the finest detail unevenly.
    doubt = 1.0 if window.lossy else 0.0
    scores = np.minimum(score_of(far, _HALF + doubt, _WIDTH), score_of((np.stack(found) - np.array(_LEAST)[:, None, None] - 0.06 * doubt) / 0.08, 0.0, 1.0))
    best, level = scores.max(axis=0), scores.argmax(axis=0)
    at = np.unravel_index(int(np.argmax(np.where(textured, best, -1))), best.shape)
    k = int(level[at])
    natural: Natural = natural_range(values[:, first + k], ground.null)
    hot = (best >= min(0.5, 0.9 * float(best[at]))) & textured
    pixels = pixels_of(window, ground, cv2.morphologyEx(hot.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)).astype(bool))
    (x, y, w, h), ring = outlined(window, pixels)
    inside, around = inside_and_around(window, pixels if pixels.any() else window.filled.astype(np.uint8), float(best[at]))
    # Only the finer octaves differ; that difference is what a person can see.
    bands = tuple((2.0 ** -(octave + 1), abs(around[octave] - inside[octave]) if octave < 3 else 0.0, 0.0) for octave in range(len(inside)))
    return Reading("soft", float(best[at]), window.box_to_frame(x, y, w, h), window.to_frame(ring), Signal(bands, float(max(w, h)), float(max(pixels.sum(), 1))),
                   Measure("finest detail against what the coarser lets one expect", sign * float(found[k][at]), "natural logarithm of energy",
                           natural if sign > 0 else Natural(-natural.high, -natural.low, natural.n, natural.null)),
                   {"type": "detail", "what": "soft" if sign < 0 else "sharp", "inside": inside, "around": around,
                    "missing_by_size": missing_by_size(window, ground, hot), "sparser": sparser(window, pixels, float(best[at])),
                    "wavelengths_px": [2.0 ** (octave + 1) for octave in range(len(inside))], "patch_px": PATCHES[k] * STRIDE,
                            "textured_share": float(textured.sum() / ground.inside.sum())})
