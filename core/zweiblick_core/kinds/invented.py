"""Invented: something that was never there and belongs to nothing around it.

Every cell of the fill is described by its colour, its detail at three scales, its coarse structure,
its orientation and how colourful it is inside, each in units of
their spread over the surroundings. Its distance to the nearest of all untouched cells says how
foreign it is (nearest-neighbour novelty, as in
video and texture analysis, Boiman and Irani 2007). The null is the same outline over untouched
parts, its own cells left out of those it is compared with.

What is made of what lies elsewhere too may still lie on a ground where nothing like it does:
    `islands`.
"""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from ..evidence import Foreign, Island, Lab, Odd, Shares, StandsOff
from ..features import islands
from ..features.detail import (
    LEAST_CONTROLS,
    STRIDE,
    Cells,
    Ground,
    ground_of,
    inside_and_around,
    outlined,
    pixels_of,
    pools,
)
from ..null import excess, natural_range, score_of
from ..report import Abstention, Measure, Reading, Signal
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "outline"
PATCHES = (3, 6)
_HALF, _WIDTH = 5.0, 1.0
#: Distances below this, in spreads of the surroundings, are nothing foreign however even the
#: surroundings are.
LEAST = 2.4
FLOOR = (0.22, 0.18)
#: Untouched cells that are compared with, and cells of an area that are: more tell nothing new, and
#: cost their product.
_MOST, _EACH = 2400, 600
#: An island: how far beyond what is natural, spreads (of 176 clean results on photographs not of
#: the benchmark: 2.6 at most), and how unlike anything around, CIELAB.
_ISLAND_HALF, _ISLAND_WIDTH = 3.4, 0.4
_UNLIKE_HALF, _UNLIKE_WIDTH = 27.0, 2.0
#: What either of them falls short of its half counts by so much only: both must hold for an island
#: to be reported, but what nearly is one must stay before what is none
#: (training photographs: things cut into fills rank above .96 of the clean ones, .93 at 1).
_SHORT = 0.2
#: And so much what reaches beyond the surroundings that it stands off from: it is not reported, but is
#: more than nothing.
_GOES_ON = 0.45


#: What makes a cell foreign, by the columns of `described`. Another light, another grain or a blur
#: changes one of them; a thing has several.
GROUPS = {"detail": [0, 1, 2], "colour": [3, 4, 5], "structure": [6, 7, 8, 9]}
#: The second largest share of a foreign place's distance must be at least this.
SECOND = 0.12
#: What is foreign by its colour to this part may be light.
_LIGHT = 0.55
#: Or so many spreads by itself.
ALONE = 2.6


def described(cells: Cells) -> np.ndarray:
    """(rows, columns, features)."""
    return np.concatenate(
        [
            cells.logs * 0.7,
            cells.level[..., None] * 100,
            cells.colour,
            cells.spread[..., None],
            cells.coarse[..., None] * 0.7,
            cells.way * 1.5,
        ],
        axis=-1,
    ).astype(np.float32)


class Foreignness:
    """Distances to the nearest untouched cell."""

    def __init__(self, ground: Ground) -> None:
        self.ground = ground
        features = described(ground.around)
        rows = features[ground.known]
        low, high = np.percentile(rows, [10, 90], axis=0)
        # A floor for each: colours closer than these look the same however even the surroundings
        # are.
        floor = np.array([0.35] * 3 + [6.0, 2.5, 2.5, 2.0, 0.7, 0.7, 0.7], np.float32)
        self.scale = np.maximum((high - low) / 2.56, floor).astype(np.float32)
        self.features = features / self.scale
        ys, xs = np.nonzero(ground.known)
        keep = np.random.default_rng(20265).permutation(len(ys))[:_MOST]
        self.ys, self.xs = ys[keep], xs[keep]
        self.rows = self.features[self.ys, self.xs]
        self.squares = (self.rows**2).sum(axis=1)

    def nearest(
        self, corner: tuple[int, int], shape: np.ndarray, cells: Cells | None = None
    ) -> np.ndarray:
        """(rows, columns) distance of each cell of a shape to the nearest known cell outside it and
        its rim.
        """
        ys, xs = np.nonzero(shape)
        every = max(1, int(np.ceil(np.sqrt(len(ys) / _EACH))))
        if every > 1:
            # A large area by every other cell; a cell's box reaches over its neighbours anyway.
            some = (ys % every == 0) & (xs % every == 0)
            ys, xs = ys[some], xs[some]
        features = (
            self.features[ys + corner[0], xs + corner[1]]
            if cells is None
            else (described(cells)[ys, xs] / self.scale)
        )
        top, left = self.ys - corner[0], self.xs - corner[1]
        grown = cv2.dilate(np.pad(shape.astype(np.uint8), 3), np.ones((7, 7), np.uint8)).astype(
            bool
        )
        within = (
            (top >= -3) & (left >= -3) & (top < shape.shape[0] + 3) & (left < shape.shape[1] + 3)
        )
        own = np.zeros(len(top), bool)
        own[within] = grown[top[within] + 3, left[within] + 3]
        rows, squares = self.rows[~own], self.squares[~own]
        out = np.zeros(shape.shape, np.float32)
        if not len(rows) or not len(ys):
            return out
        # |r|^2 - 2 f r in one product.
        apart = (
            np.column_stack([features, np.ones(len(features), np.float32)])
            @ np.column_stack([-2 * rows, squares]).T
        )
        # The second nearest: one cell that happens to fit is no proof that this belongs here.
        least = apart.argmin(axis=1)
        apart[np.arange(len(apart)), least] = np.inf
        out[ys, xs] = np.sqrt(np.maximum(apart.min(axis=1) + (features**2).sum(axis=1), 0))
        if cells is not None:
            # What the fill's cells differ in from the place most like them, by what a person would
            # name.
            off = (features - rows[apart.argmin(axis=1)]) ** 2
            self.by_group = np.zeros((*shape.shape, len(GROUPS)), np.float32)
            self.by_group[ys, xs] = np.stack(
                [off[:, columns].sum(axis=1) for columns in GROUPS.values()], -1
            )
        if every > 1:
            out = cv2.dilate(out, np.ones((every, every), np.uint8)) * shape
        return out


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """At the most foreign place, and where something stands off from its surroundings: one reading,
    or two where these are different places. See the module's docstring for
    the methods."""
    ground = ground_of(window)
    if isinstance(ground, str):
        return Abstention(ground)
    if not ground.enough or ground.known.sum() < 150:
        return Abstention(
            "too little untouched picture around the region to know what belongs here"
        )
    foreign = _foreign(window, ground)
    if isinstance(foreign, Abstention):
        return foreign
    stands_off = _island(window, ground)
    if stands_off is None:
        return [foreign]
    shown, island = foreign.shown(Foreign), stands_off.shown(Island)
    if shown.shares.colour > _LIGHT and _shared(foreign, stands_off) > 0.3:
        # What is foreign by its colour most of all may be light, by how it ends.
        shown = foreign.evidence = replace(shown, hardness=island.hardness)
    if stands_off.score < 0.5:
        return [foreign if foreign.score >= stands_off.score else stands_off]
    if foreign.score < 0.5:
        return [stands_off]
    if _shared(foreign, stands_off) > 0.3:
        # Recognised in both ways: what it is made of says more, and that it stands off makes it surer.
        foreign.score = max(foreign.score, stands_off.score)
        foreign.evidence = replace(shown, stands_off=island.stands_off)
        return [foreign]
    return [foreign, stands_off]


def _shared(one: Reading, other: Reading) -> float:
    """Share of the smaller box that both cover."""
    (ax, ay, aw, ah), (bx, by, bw, bh) = one.bbox, other.bbox
    w, h = min(ax + aw, bx + bw) - max(ax, bx), min(ay + ah, by + bh) - max(ay, by)
    return max(0.0, w) * max(0.0, h) / max(1.0, min(aw * ah, bw * bh))


def _reached(value: float, half: float, width: float) -> float:
    """`score_of`, falling off slower below its half."""
    beyond = value - half
    return float(score_of(np.array(beyond if beyond > 0 else _SHORT * beyond), 0.0, width))


def _island(window: Window, ground: Ground) -> Reading | None:
    """What stands off from its surroundings as nothing else around does."""
    found = islands.island(window, ground)
    if found is None:
        return None
    score = _reached(found.far, _ISLAND_HALF, _ISLAND_WIDTH) * _reached(
        found.apart, _UNLIKE_HALF, _UNLIKE_WIDTH
    )
    pixels = islands.outline_of(found, window)
    if islands.goes_on(found, window, pixels):
        score *= _GOES_ON
    (x, y, w, h), ring = outlined(window, pixels)
    lightness, a, b = (float(value) for value in found.contrast)
    size = float(max(w, h, 2))
    bands = tuple(
        (min(0.5, factor / (2 * size)), abs(lightness) * part, float(np.hypot(a, b)) * part)
        for factor, part in ((0.5, 0.5), (1.0, 1.0), (2.0, 0.5))
    )
    return Reading(
        "invented",
        score,
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        Signal(bands, size, float(max(pixels.sum(), 1))),
        Measure(
            "unlike anything around by how it stands off from its surroundings",
            found.apart,
            "CIELAB",
            natural_range(found.nature, ground.null),
        ),
        Island(
            stands_off=StandsOff(
                Lab(lightness, a, b), float(np.linalg.norm(found.contrast)), found.radius
            ),
            hardness=islands.hardness(found, window, pixels),
        ),
    )


def _foreign(window: Window, ground: Ground) -> Reading | Abstention:
    """What is made of nothing that lies around."""
    foreignness = Foreignness(ground)
    own = foreignness.nearest(ground.corner, ground.inside, ground.fill)

    def chance(corner: tuple[int, int], shape: np.ndarray, cells: Cells | None) -> np.ndarray:
        known = ground.known_at(corner, shape, cells)
        return np.array(
            [
                float(pool.max())
                for pool in pools(foreignness.nearest(corner, known, cells), known, PATCHES, ground)
            ]
        )

    values = ground.usable(ground.nulls(chance))
    if len(values) < LEAST_CONTROLS:
        return Abstention(
            "too little untouched picture around the region to know what belongs here"
        )
    found = pools(own, ground.inside, PATCHES, ground)
    far = np.stack(
        [
            np.where(pool > -9, excess(pool, values[:, k], FLOOR[k]), -1e3)
            for k, pool in enumerate(found)
        ]
    )
    scores = score_of(far, _HALF, _WIDTH)
    best, level = scores.max(axis=0), scores.argmax(axis=0)
    at = np.unravel_index(int(np.argmax(np.where(ground.inside, best, -1))), best.shape)
    k = int(level[at])
    here = cv2.boxFilter(
        foreignness.by_group, -1, (PATCHES[k], PATCHES[k]), borderType=cv2.BORDER_CONSTANT
    )[at]
    shares = here / max(float(here.sum()), 1e-6)
    # What is foreign in one respect only is another kind's flaw: another tone, another grain, a
    # blur.
    # A strong colour may drown the rest: then it is enough that the rest is foreign by itself.
    second = float(np.sort(shares)[-2])
    several = max(
        float(score_of(np.array(second), SECOND, 0.02)),
        float(score_of(np.array(float(np.sqrt(second)) * float(found[k][at])), ALONE, 0.2)),
    )
    best = best * (
        0.45 + 0.55 * several * float(score_of(np.array(float(found[k][at])), LEAST, 0.2))
    )
    pixels = pixels_of(window, ground, (best >= min(0.5, 0.9 * float(best[at]))) & ground.inside)
    (x, y, w, h), ring = outlined(window, pixels)
    inside, around = inside_and_around(
        window, pixels if pixels.any() else window.filled.astype(np.uint8), float(best[at])
    )
    row, column = at
    described_here = described(ground.fill)[row, column] / foreignness.scale
    usual = np.median(foreignness.rows, axis=0)
    names = (
        "finest detail",
        "fine detail",
        "middle detail",
        "brightness",
        "green to red",
        "blue to yellow",
        "colourfulness",
        "coarse structure",
        "orientation",
        "orientation, slanted",
    )
    odd = sorted(
        zip(names, (described_here - usual).tolist(), strict=True), key=lambda pair: -abs(pair[1])
    )[:4]
    colour = window.lab_result[pixels.astype(bool)].mean(axis=0) if pixels.any() else np.zeros(3)
    untouched = np.flatnonzero(~(window.elsewhere | window.filled))[::17]
    apart = colour - (
        np.median(window.lab_result.reshape(-1, 3)[untouched], axis=0) if len(untouched) else colour
    )
    bands = tuple(
        (
            2.0 ** -(octave + 1),
            max(inside[octave], abs(inside[octave] - around[octave])),
            0.2 * float(np.hypot(apart[1], apart[2])),
        )
        for octave in range(len(inside))
    )
    return Reading(
        "invented",
        float(best[at]),
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        Signal(bands, float(max(w, h)), float(max(pixels.sum(), 1))),
        Measure(
            "distance to the most alike place around",
            float(found[k][at]),
            "spreads of the surroundings",
            natural_range(values[:, k], ground.null),
        ),
        Foreign(
            shares=Shares(**dict(zip(GROUPS, shares.tolist(), strict=True))),
            odd=tuple(Odd(name, value) for name, value in odd),
            inside=inside,
            around=around,
            wavelengths_px=[2.0 ** (octave + 1) for octave in range(len(inside))],
            patch_px=PATCHES[k] * STRIDE,
        ),
    )
