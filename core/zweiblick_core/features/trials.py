"""What changes of sharpness and grain would look like here, learned from the picture itself, and
how far a fill shows them.

Some of the untouched surroundings are changed: blurred a little and given grain again, sharpened,
    denoised. What that does to their detail (both eigenvalues of the structure
tensor at four scales; for denoising the finest Laplacian too) is regressed on that detail. A cell's
departure from what is usual around is then projected on what the
change would have done to it, against how much such cells differ by nature: the linear discriminant
    (Fisher 1936) between these surroundings and the same, changed. So
each cell says how much of such a change it shows, and weighs as much as it can tell: flat places
    say nothing of sharpness. Sharpness and grain change with
depth, so what the neighbourhood shows is carried inward, and what the fill shows beyond that is its
amount. The null is the same outline laid over
untouched parts of the same result.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import cv2
import numpy as np

from ..evidence import Detail
from ..null import excess, natural_range, score_of
from ..report import Measure, Natural, Reading, Signal
from ..scene.carriers import Carriers
from ..scene.window import Window
from .detail.carried import NEAR
from .detail.cells import STRIDE, Cells, broadly, noise_of, structure_of
from .detail.drawn import outlined, pixels_of
from .detail.ground import LEAST_CONTROLS, Ground
from .detail.lacking import inside_and_around, missing_by_size, sparser
from .detail.means import tellable

#: Sides of the squares that are looked at, cells (0: all of the fill); and the least natural spread
#: of amounts over each.
PATCHES, FLOOR = (5, 9, 0), (0.14, 0.11, 0.08)
_WIDTH = 0.8
#: The blur that is tried on the surroundings, pixels.
BLUR = 0.8
#: A fill, and its surroundings, must tell this much, squared distances between as it is and
#: changed, summed over cells.
_LEAST_TOLD, _LEAST_KNOWN = 4.0, 30.0
#: Tiles of the surroundings that are changed: their side and how many at most, and how much beside
#: each belongs to it only so that its edge is none. Cells.
_TILE, _TILES, _MARGIN = 32, 4, 2
_SEED = 20263
#: What one cell may say at most, in amounts; and the percentile of weights above which none weighs
#: more.
_MOST, _CAPPED = 3.0, 75

Change = Callable[[np.ndarray], np.ndarray]


def softened(grain: float) -> Change:
    """A blur with the picture's grain over it, as fills have that were matched; slightly
    correlated, as cameras leave it.
    """
    rng = np.random.default_rng(_SEED)

    def changed(luma: np.ndarray) -> np.ndarray:
        noise = cv2.GaussianBlur(rng.normal(0, 1, luma.shape).astype(np.float32), (0, 0), 0.55)
        out: np.ndarray = blurred(luma) + noise * (grain / max(float(noise.std()), 1e-6))
        return out

    return changed


def blurred(luma: np.ndarray) -> np.ndarray:
    """A piece of luma, float32 (height, width), behind a blur of `BLUR` px."""
    return cv2.GaussianBlur(luma, (0, 0), BLUR)


def sharpened(luma: np.ndarray) -> np.ndarray:
    """Such a blur undone, to the first order."""
    return 2 * luma - blurred(luma)


def denoised(grain: float) -> Change:
    """A bilateral filter (Tomasi and Manduchi 1998) that takes four times the picture's grain."""
    return lambda luma: cv2.bilateralFilter(luma, 5, max(4 * grain, 3.0), 2.0)


@dataclass(frozen=True)
class Shown:
    """How far a fill shows one change.

    Attributes:
        found: for each of `PATCHES`, (rows, columns) amounts over the fill's cells; -9 where
            unknown.
        values: (controls, patches) the largest amounts along the same outline elsewhere.
        seen: bool (rows, columns), cells that could show it.
        tells: whether fill and surroundings can tell it at all.
    """

    found: list[np.ndarray]
    values: np.ndarray
    seen: np.ndarray
    tells: bool


@dataclass(frozen=True)
class Shows:
    """`Shown` for each change; `grain_gone`: from what loss of grain on (natural logarithm of
    `Cells.noise`) a blurred place was not given grain again, or None where what a
    blur takes without and with it hardly differs."""

    softer: Shown
    sharper: Shown
    denoised: Shown
    grain_gone: float | None


def shows_of(window: Window, carriers: Carriers, ground: Ground) -> Shows:
    """Made once a window and shared."""
    if "shows" not in window.shared:
        window.shared["shows"] = _shows(window, carriers, ground)
    made: Shows = window.shared["shows"]
    return made


def _shows(window: Window, carriers: Carriers, ground: Ground) -> Shows:
    grain = carriers.result_grain.sigma
    trials = Trials(
        ground,
        window.luma_result,
        ~window.apart,
        (softened(grain), sharpened, denoised(grain)),
        (False, False, True),
    )
    departure = trials.departure(ground.corner, ground.inside, ground.fill)
    count = len(trials.slopes)

    def chance(corner: tuple[int, int], shape: np.ndarray, cells: Cells | None) -> np.ndarray:
        here = ground.known_at(corner, shape, cells)
        if here.sum() < 3:
            return np.full(count * len(PATCHES), -9.0)
        return np.concatenate(
            [
                pool.max(axis=(0, 1))
                for pool in trials.pools(*trials.departure(corner, shape, cells), here)
            ]
        )

    known = trials.planes[..., 1 + count :].sum(axis=(0, 1))
    weight = departure[1].sum(axis=(0, 1))
    tells = (known >= _LEAST_KNOWN) & (weight >= _LEAST_TOLD) & ground.enough
    values = (
        ground.usable(
            ground.nulls(chance, tuple(range(count * (len(PATCHES) - 1), count * len(PATCHES))))
        )
        if tells.any()
        else np.empty((0, count * len(PATCHES)))
    )
    found = trials.pools(*departure, ground.inside)
    seen = departure[1] > 0.25 * trials.typical
    shown = [
        Shown(
            [pool[..., k] for pool in found],
            values[:, k::count],
            seen[..., k],
            bool(tells[k]) and len(values) >= LEAST_CONTROLS,
        )
        for k in range(count)
    ]
    without, given = trials.gone
    return Shows(
        shown[0],
        shown[1],
        shown[2],
        round(given + 0.33 * (without - given), 3) if without - given > 0.3 else None,
    )


@dataclass(frozen=True)
class Judged:
    """What a fill shows of a change, against its null.

    Attributes:
        score: 0..1. amount, natural: parts of the change's effect.
        hot: bool (rows, columns), the cells that show it; pixels: uint8 like the window, likewise.
        patch: the side of the squares that showed it, pixels; 0 for the whole fill.
        inside, around: octave deviations, as `detail.inside_and_around`.
    """

    score: float
    amount: float
    natural: Natural
    hot: np.ndarray
    pixels: np.ndarray
    patch: int
    inside: list[float]
    around: list[float]


def judged(
    window: Window, ground: Ground, shown: Shown, half: tuple[float, ...], least: tuple[float, ...]
) -> Judged:
    """Score what is shown.

    Args:
        half: for each of `PATCHES`, the excess that scores 0.5. least: likewise, the amount that
            counts as one at all.
    """
    # Compression takes the finest detail unevenly.
    doubt = 0.4 if window.lossy else 0.0
    stacked = np.stack(shown.found)
    far = np.stack(
        [
            np.where(pool > -9, excess(pool, shown.values[:, k], FLOOR[k]), -1e3)
            for k, pool in enumerate(shown.found)
        ]
    )
    scores = np.minimum(
        score_of(far, np.array(half)[:, None, None] + doubt, _WIDTH),
        score_of((stacked - np.array(least)[:, None, None] - 0.1 * doubt) / 0.08, 0.0, 1.0),
    )
    best, level = scores.max(axis=0), scores.argmax(axis=0)
    at = np.unravel_index(int(np.argmax(np.where(ground.inside, best, -1))), best.shape)
    k, score = int(level[at]), float(best[at])
    hot = (best >= min(0.5, 0.9 * score)) & ground.inside
    pixels = pixels_of(
        window,
        ground,
        cv2.morphologyEx(hot.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)).astype(
            bool
        ),
    )
    inside, around = inside_and_around(
        window, pixels if pixels.any() else window.filled.astype(np.uint8), score
    )
    return Judged(
        score,
        float(stacked[k][at]),
        natural_range(shown.values[:, k], ground.null),
        hot,
        pixels,
        PATCHES[k] * STRIDE,
        inside,
        around,
    )


def reading_of(
    kind: str,
    window: Window,
    ground: Ground,
    made: Judged,
    measure: Measure,
    octaves: int,
    evidence: Detail,
) -> Reading:
    """A reading of what was judged; `octaves`: how many of the finest differ, which is what a
    person can see of it.
    """
    (x, y, w, h), ring = outlined(window, made.pixels)
    bands = tuple(
        (2.0 ** -(octave + 1), abs(out - into) if octave < octaves else 0.0, 0.0)
        for octave, (into, out) in enumerate(zip(made.inside, made.around, strict=True))
    )
    return Reading(
        kind,
        made.score,
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        Signal(bands, float(max(w, h)), float(max(made.pixels.sum(), 1))),
        measure,
        replace(
            evidence,
            inside=made.inside,
            around=made.around,
            missing_by_size=missing_by_size(window, ground, made.hot),
            sparser=sparser(window, made.pixels, made.score),
            wavelengths_px=[2.0 ** (octave + 1) for octave in range(len(made.inside))],
            patch_px=made.patch,
        ),
    )


def _columns(cells: Cells) -> np.ndarray:
    return np.concatenate(
        [cells.structure, cells.level[..., None], cells.noise[..., None]], axis=-1
    )


#: Columns that a change of sharpness is judged by: all but the finest Laplacian, of which grain is
#: the most.
_SHARPNESS = slice(0, -1)


class Trials:
    """How sharp and grainy things are around, by what changes would do to them; the last axis of
    what it gives is that of `changes`.

    Args:
        luma: float32 (height, width) of the result's window. outside: bool, untouched pixels.
        changes: what changes a piece of luma. The first is `softened`.
        grainy: for each, whether it is judged by the finest Laplacian too.
    """

    def __init__(
        self,
        ground: Ground,
        luma: np.ndarray,
        outside: np.ndarray,
        changes: tuple[Change, ...],
        grainy: tuple[bool, ...],
    ) -> None:
        self.ground = ground
        around = _columns(ground.around)
        self.usual = around[ground.known].mean(axis=0)
        off = around[ground.known] - self.usual
        spread = off.T @ off / len(off) + 0.01 * np.eye(off.shape[1])
        self.columns = [slice(None) if one else _SHARPNESS for one in grainy]
        self.precisions = [
            np.linalg.inv(spread[some, some]).astype(np.float32) for some in self.columns
        ]
        before, after = self._tried(luma, outside, around, changes)
        self.slopes = [
            _slope(before[:, some] - self.usual[some], moved[:, some])
            for some, moved in zip(self.columns, after, strict=True)
        ]
        self.most = np.full(len(changes), np.inf, np.float32)
        _, weight = self._shown(ground.around)
        self.most = np.percentile(weight[ground.known], _CAPPED, axis=0).astype(np.float32)
        along, weight = self._shown(ground.around)
        # Side by side, so that one blur carries them all.
        self.planes = (
            np.concatenate([np.ones((*along.shape[:2], 1), np.float32), along, weight], axis=-1)
            * ground.known[..., None]
        )
        self.total = self.planes.sum(axis=(0, 1))
        self.typical = np.median(weight[ground.known], axis=0)

    def _tried(
        self, luma: np.ndarray, outside: np.ndarray, around: np.ndarray, changes: tuple[Change, ...]
    ) -> tuple[np.ndarray, list[np.ndarray]]:
        """Cells (n, columns) of the nearest tiles of the surroundings, and what each change does to
        them, likewise.
        """
        known = self.ground.known
        rows, columns = known.shape
        middle = np.array(self.ground.corner) + np.array(self.ground.inside.shape) / 2
        corners = [
            (r, c)
            for r in range(0, max(1, rows - _TILE // 2), _TILE)
            for c in range(0, max(1, columns - _TILE // 2), _TILE)
        ]
        corners = [
            at
            for at in corners
            if known[at[0] : at[0] + _TILE, at[1] : at[1] + _TILE].sum() > 0.2 * _TILE**2
        ]
        corners.sort(key=lambda at: float(np.hypot(*(np.array(at) + _TILE / 2 - middle))))
        before, gone = [np.empty((0, self.usual.size))], [np.empty((0, 2))]
        after = [[np.empty((0, self.usual.size))] for _ in changes]
        for row, column in corners[:_TILES]:
            top, left = max(0, row - _MARGIN), max(0, column - _MARGIN)
            part = (
                slice(top * STRIDE, (row + _TILE + _MARGIN) * STRIDE),
                slice(left * STRIDE, (column + _TILE + _MARGIN) * STRIDE),
            )
            here = (slice(row, row + _TILE), slice(column, column + _TILE))
            some = known[here]
            inner = (
                slice(row - top, row - top + some.shape[0]),
                slice(column - left, column - left + some.shape[1]),
            )
            was = around[here][some]
            before.append(was)
            for found, change in zip(after, changes, strict=True):
                piece = change(luma[part])
                moved = np.zeros_like(was)
                moved[:, :-2] = structure_of(piece, outside[part])[inner][some] - was[:, :-2]
                # How bright it is stays.
                moved[:, -1] = noise_of(piece, outside[part])[inner][some] - was[:, -1]
                found.append(moved)
            gone.append(
                np.stack(
                    [
                        was[:, -1] - noise_of(blurred(luma[part]), outside[part])[inner][some],
                        -after[0][-1][:, -1],
                    ],
                    -1,
                )
            )
        self.gone: tuple[float, float] = (0.0, 0.0)
        if len(gone) > 1:
            without, given = np.median(np.concatenate(gone), axis=0)
            self.gone = (float(without), float(given))
        return np.concatenate(before), [np.concatenate(found) for found in after]

    def _shown(self, cells: Cells) -> tuple[np.ndarray, np.ndarray]:
        """(rows, columns, changes) each: how far cells lie along the change that would be theirs,
        and how far all of it would take them; over their natural spread, squared.
        """
        all_off = (_columns(cells) - self.usual).astype(np.float32)
        seen = tellable(cells)
        alongs, weights = [], []
        for some, slope, precision, most in zip(
            self.columns, self.slopes, self.precisions, self.most, strict=True
        ):
            off = all_off[..., some]
            change = off @ slope[1:] + slope[0]
            weighed = change @ precision
            weight = np.maximum(np.einsum("...k,...k->...", weighed, change), 1e-6)
            amount = np.clip(np.einsum("...k,...k->...", weighed, off) / weight, -_MOST, _MOST)
            # A few strong edges are not to rule a place: they may be shadows' by nature.
            weights.append(np.minimum(weight, most) * seen)
            alongs.append(amount * weights[-1])
        return np.stack(alongs, -1).astype(np.float32), np.stack(weights, -1).astype(np.float32)

    def departure(
        self, corner: tuple[int, int], shape: np.ndarray, cells: Cells | None = None
    ) -> tuple[np.ndarray, np.ndarray]:
        """(rows, columns, changes) of a shape of cells: how far beyond what is carried into it each
        lies, and its weight. It is carried from all around, from left and right
        only, and from above and below only, and the most of the three expected: where focus falls
            off with depth, things are as sharp as beside them.
        """
        where = (
            slice(corner[0], corner[0] + shape.shape[0]),
            slice(corner[1], corner[1] + shape.shape[1]),
        )
        count = len(self.slopes)
        along, weight = (
            (self.planes[where][..., 1 : 1 + count], self.planes[where][..., 1 + count :])
            if cells is None
            else self._shown(cells)
        )
        by = self.ground.grown_by(shape)
        # What lies farther off than that is not reached by so narrow a blur.
        sigmas = [sigma for sigma in (1.5, 4.0, 12.0) if by < 3 * sigma]
        if not sigmas:
            gap = tuple(slice(max(0, one.start - by - 1), one.stop + by + 1) for one in where)
            total = self.total - self.planes[gap].sum(axis=(0, 1))
            return along - total[1 : 1 + count] / np.maximum(
                total[1 + count :], 1e-4
            ) * weight, weight * shape[..., None]
        reach = NEAR + by
        near = tuple(slice(max(0, one.start - reach), one.stop + reach) for one in where)
        planes = np.ascontiguousarray(
            self.planes[near] * ~self.ground.gap(shape, corner)[near][..., None]
        )
        total = planes.sum(axis=(0, 1))
        overall = total[1 : 1 + count] / np.maximum(total[1 + count :], 1e-4)
        row, column = corner[0] - near[0].start, corner[1] - near[1].start
        here = (slice(row, row + shape.shape[0]), slice(column, column + shape.shape[1]))
        ways: list[np.ndarray] = []
        for across, down in ((1.0, 1.0), (1.0, 0.0), (0.0, 1.0)):
            expected, settled = (
                np.zeros((*shape.shape, count), np.float32),
                np.zeros((*shape.shape, 1), np.float32),
            )
            for sigma in sigmas:
                carried = broadly(planes, max(0.6, sigma * across), max(0.6, sigma * down))[here]
                share = np.clip(carried[..., :1] * 5, 0, 1) * (1 - settled)
                expected += (
                    share
                    * carried[..., 1 : 1 + count]
                    / np.maximum(carried[..., 1 + count :], 1e-4)
                )
                settled += share
            ways.append(
                expected
                + (1 - settled) * (overall if across and down else np.minimum(overall, ways[0]))
            )
        return along - np.max(ways, axis=0) * weight, weight * shape[..., None]

    def pools(self, along: np.ndarray, weight: np.ndarray, known: np.ndarray) -> list[np.ndarray]:
        """(rows, columns, changes) amounts over squares of each of `PATCHES`, in cells; -9 where
        too little of a patch is known. What tells little is drawn towards zero.
        """
        found = []
        mass = known[..., None].astype(np.float32)
        planes = np.concatenate([along * mass, weight * mass, mass], axis=-1)
        count = along.shape[-1]
        for side in PATCHES:
            if side == 0:
                total = planes.sum(axis=(0, 1), keepdims=True)
                amount, enough = (
                    np.broadcast_to(_amount(total, count, self.typical), (*known.shape, count)),
                    known,
                )
            else:
                near = cv2.boxFilter(
                    planes, -1, (side, side), normalize=False, borderType=cv2.BORDER_CONSTANT
                )
                amount, enough = (
                    _amount(near, count, self.typical),
                    known
                    & (near[..., -1] >= min(self.ground.least(side), max(2, known.sum() * 0.6))),
                )
            found.append(np.where(enough[..., None], amount, -9.0))
        return found


def _amount(sums: np.ndarray, count: int, typical: np.ndarray) -> np.ndarray:
    return sums[..., :count] / (
        sums[..., count : 2 * count] + 0.25 * typical * sums[..., -1:] + 1e-4
    )


def _slope(off: np.ndarray, moved: np.ndarray) -> np.ndarray:
    """(1 + columns, columns) what a change does to cells, regressed on how they depart from the
    usual; float32.
    """
    if not len(off):
        return np.zeros((off.shape[1] + 1, off.shape[1]), np.float32)
    design = np.concatenate([np.ones((len(off), 1)), off], axis=-1)
    ridge = np.diag([1e-6] + [0.004 * len(design)] * off.shape[1])
    return np.linalg.solve(design.T @ design + ridge, design.T @ moved).astype(np.float32)
