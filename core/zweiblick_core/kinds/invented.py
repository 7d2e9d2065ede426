"""Invented: something that was never there and belongs to nothing around it.

Every cell of the fill is described by its colour, its detail at three scales, its coarse structure,
its orientation and how colourful it is inside, each in units of
their spread over the surroundings. Its distance to the nearest of all untouched cells says how
foreign it is (nearest-neighbour novelty, as in
video and texture analysis, Boiman and Irani 2007). The null is the same outline over untouched
parts, its own cells left out of those it is compared with.

What is made of what lies elsewhere too may still lie on a ground where nothing like it does:
`islands`. And a fill may be foreign nowhere and still not continue what it adjoins: `departure`.
"""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from ..evidence import Departs, Foreign, Island, Lab, Odd, Shares, StandsOff
from ..features import islands
from ..features.departure import CHANNELS, COLOUR, WAVELENGTHS, departure
from ..features.detail.cells import STRIDE, Cells
from ..features.detail.drawn import outlined, pixels_of
from ..features.detail.ground import LEAST_CONTROLS, Ground, ground_of
from ..features.detail.lacking import inside_and_around
from ..features.detail.means import pools
from ..features.novelty import GROUPS, Foreignness, described
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
#: The departure of a fill that is as likely wrong as not, spreads, and how surely (of 213 clean
#: regions of the store .04 depart by more, of 196 seen at a glance .75).
_DEPARTS_HALF, _DEPARTS_WIDTH = 1.9, 0.3
#: How many of the channels that differ most are named.
_NAMED = 4
#: A sine's amplitude over the mean magnitude of noise of the same power.
AMPLITUDE = float(np.sqrt(np.pi))
#: The second largest share of a foreign place's distance must be at least this.
SECOND = 0.12
#: What is foreign by its colour to this part may be light.
_LIGHT = 0.55
#: Or so many spreads by itself.
ALONE = 2.6


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """At the most foreign place, where something stands off from its surroundings, and of the fill as
    a whole: one reading of each, of the first two one where these are one place. See the module's
    docstring for the methods.
    """
    places, whole = _places(window), _whole(window)
    if whole is None:
        return places
    return [whole] if isinstance(places, Abstention) else [*places, whole]


def _whole(window: Window) -> Reading | None:
    """How far the fill departs from what it adjoins; None where that cannot be known."""
    found = departure(window)
    if found is None:
        return None
    (x, y, w, h), ring = outlined(window, window.judged.view(np.uint8))
    size = float(max(w, h, 2))
    inside, around = (plane * (100 / 255) for plane in (found.inside, found.around))
    coarse = found.difference[COLOUR]
    bands = (
        (0.5 / size, abs(float(coarse[0])), float(np.hypot(*coarse[1:]))),
        *(
            (1 / length, AMPLITUDE * abs(float(here - there)), 0.0)
            for length, here, there in zip(WAVELENGTHS, inside, around, strict=True)
        ),
    )
    most = np.argsort(-found.by_channel, kind="stable")[:_NAMED]
    return Reading(
        "invented",
        float(score_of(np.array(found.amount), _DEPARTS_HALF, _DEPARTS_WIDTH)),
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        Signal(bands, size, float(max(window.judged.sum(), 1))),
        Measure(
            "how far the fill departs from what it adjoins",
            found.amount,
            "spreads of the same outline elsewhere",
            natural_range(found.natural, NULL),
        ),
        Departs(
            across=found.across,
            together=found.together,
            novel=found.novel,
            odd=tuple(
                Odd(
                    CHANNELS[channel],
                    float(np.copysign(found.by_channel[channel], found.difference[channel])),
                )
                for channel in most
            ),
            inside=inside,
            around=around,
            wavelengths_px=WAVELENGTHS,
        ),
    )


def _places(window: Window) -> list[Reading] | Abstention:
    """The most foreign place, and what stands off from its surroundings."""
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
