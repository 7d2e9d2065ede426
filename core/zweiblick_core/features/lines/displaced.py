"""Ground that does not go on across the boundary, but would if the fill were moved: a fill
that was put in some pixels off, turned, too large or small, or aslant.

Whatever crosses the boundary, straight or curved, must meet itself there. On the unrolled rim
lightness is read along the boundary from either side, each carried to the boundary
along the way its own edges run (structure tensor, Bigun and Granlund 1987). Where one side must be
moved along the boundary to match the other, something jumps; a fill that
is displaced makes every place jump as one displacement of it says, a turned one as one angle says,
one of another scale as one ratio. How much better the
two sides match under the best such displacement than as they are is compared with what the same
outline yields when placed over untouched parts of the original.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from scipy import ndimage

from ...null import excess
from ...scene.boundary import REACH, Rim
from ..rim.nulls import LEAST_CONTROLS, Controls

#: Farthest displacement sought, pixels; widest turn, degrees (and change of scale and slope of a
#: shear, as large in parts).
FAR, TURN = 9, 10
#: Each boundary is read in three ways, and what all say is averaged, as chance says it once:
#: distances from the boundary on either side (nearest, deepest), and lightness is
#: compared less its mean over so many pixels of boundary, since steps of tone are others' matter.
#: What lies right at a hard edge says most; a soft one is read farther from it.
#: And so many spreads it counts at most: things that lie so far apart meet by chance too. What is
#: shown is read in the first.
READING_WAYS = ((1, 5, 21.0, np.inf), (3, 10, 41.0, 1.0), (1, 3, 13.0, np.inf))
#: Steepest way of an edge against the boundary's normal that is followed, pixels along for one
#: across.
_STEEP = 1.5
#: Squared differences count for no more than so many natural ones: one strong edge must not rule.
_MOST = 12.0
#: Part of all that does not match which a displacement must explain to count in full.
_SHARE = 0.2
#: Least spreads of what matching gains by nature, in natural squared differences: by a
#: displacement, by any other way.
_FLOORS = (0.2, 0.18)
#: What each spread counts by a displacement, by a turn, and by what is rarer (of 96 clean fills of
#: photographs none more is reported so, of 48 sheared ones 25 instead of 19).
_COUNTS = np.array([1.0, 1.0, 0.8, 0.8, 0.8])
#: What a fill may have been but moved, and where a point (x, y) from its middle goes by one part of
#: it: a turn by a radian (from x towards y), a growth by its own size, a shear
#: along x and along y by the other's size.
WAYS = {
    "turned": ((0.0, -1.0), (1.0, 0.0)),
    "scaled": ((1.0, 0.0), (0.0, 1.0)),
    "sheared": ((0.0, 1.0), (0.0, 0.0)),
    "sheared down": ((0.0, 0.0), (1.0, 0.0)),
}
#: About so many places of a long boundary are matched.
_PLACES = 500
_LAGS = np.arange(-FAR, FAR + 1)
_SHIFTS = np.array(
    [(dx, dy) for dx in _LAGS for dy in _LAGS if dx * dx + dy * dy <= FAR * FAR], np.float32
)
_TURNS = np.radians(np.arange(-TURN, TURN + 0.1, 1.0)).astype(np.float32)


@dataclass(frozen=True)
class Crossing:
    """What crosses a boundary. `outer`, `inner`: (n,) evened-out L*, carried to it from either
    side; `ways`: (n, 2) pixels along for one outward, of edges outside and inside.
    """

    rim: Rim
    outer: np.ndarray
    inner: np.ndarray
    ways: np.ndarray


@dataclass(frozen=True)
class Displaced:
    """How a fill lies off.

    Attributes:
        far: how much more is gained by moving it than is by nature, in spreads.
        within: whether the best lies within what was sought; else it is farther, or nothing known.
        how: "moved", or one of `WAYS`.
        shift: (dx, dy) pixels, how far it lies from where it would go on. much: radians, or parts,
            likewise.
        jumps: (n,) pixels along the boundary by which what crosses it jumps, as that says.
        gains: (n,) how much better each place matches so, in natural squared differences.
        nature: (controls,) what is gained by nature in the same way.
        crossing: what was compared. costs: (n, 2 * FAR + 1) natural squared differences of each
            place, by how far one side is moved along, pixels.
    """

    far: float
    within: bool
    how: str
    shift: np.ndarray
    much: float
    jumps: np.ndarray
    gains: np.ndarray
    nature: np.ndarray
    gained: float
    crossing: Crossing
    costs: np.ndarray

    def goes_on(self, point: np.ndarray, jump: float) -> bool:
        """Whether what crosses the boundary near a point (x, y) goes on better as it is than after
        a jump of about so many pixels.
        """
        near = np.hypot(*(self.crossing.rim.points - point).T) < 9
        if not near.any():
            return False
        mean = self.costs[near].mean(axis=0)
        size = np.abs(_LAGS)
        return bool(
            mean[FAR] <= mean[(size >= max(1.0, jump - 2)) & (size <= jump + 2)].min(initial=np.inf)
        )


def crossing_of(
    strip: np.ndarray, rim: Rim, way: tuple[int, int, float, float] = READING_WAYS[0]
) -> Crossing:
    """From a strip (n, 2 * REACH + 1, 3) of CIELAB, read in one of the ways of `READING_WAYS`."""
    (near, deep, even, _), n, pad = way, len(strip), 40
    index = np.arange(-pad, n + pad)
    index = index % n if rim.closed else np.clip(index, 0, n - 1)
    wide = np.ascontiguousarray(strip[..., 0][index, REACH - deep - 1 : REACH + deep + 2])
    wide = cv2.GaussianBlur(wide, (0, 0), 0.7)
    # Slopes in pixels: samples may lie farther apart than those across.
    along, across = np.gradient(wide, axis=0) / rim.step, np.gradient(wide, axis=1)
    rows = np.arange(len(wide), dtype=np.float32)[:, None]
    sides, ways = [], []
    for columns in (np.arange(near, deep + 1), -np.arange(near, deep + 1)):
        at = columns + deep + 1
        some = slice(int(at.min()), int(at.max()) + 1)
        count = max(3, int(9 / rim.step) | 1)
        product, power = (
            ndimage.uniform_filter1d(plane.sum(axis=1), count)
            for plane in (along[:, some] * across[:, some], along[:, some] ** 2)
        )
        slope = np.clip(-product / (power + 0.3), -_STEEP, _STEEP).astype(np.float32)
        x = np.broadcast_to(at.astype(np.float32), (len(wide), len(at)))
        carried = cv2.remap(
            wide,
            np.ascontiguousarray(x),
            rows + slope[:, None] * columns.astype(np.float32) / np.float32(rim.step),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        ).mean(axis=1)
        sides.append(
            (carried - ndimage.uniform_filter1d(carried, max(3, int(even / rim.step) | 1)))[
                pad:-pad
            ]
        )
        ways.append(slope[pad:-pad])
    return Crossing(rim, sides[0], sides[1], np.stack(ways, -1))


def _differences(crossing: Crossing) -> np.ndarray:
    """Squared difference of either side with the inner one moved along by each of -FAR..FAR pixels,
    (n, lags); zero where edges graze the boundary: where such a one meets it
    cannot be judged."""
    n, moves = len(crossing.outer), np.round(_LAGS / crossing.rim.step).astype(int)
    index = np.arange(n)[:, None] + moves
    index = index % n if crossing.rim.closed else np.clip(index, 0, n - 1)
    sure = np.clip((_STEEP - np.abs(crossing.ways).max(axis=1)) / 0.4, 0, 1)
    return np.asarray((crossing.inner[index] - crossing.outer[:, None]) ** 2 * sure[:, None])


def _jumping(crossing: Crossing) -> np.ndarray:
    """(n, 2): times a displacement in pixels, how far along the boundary what crosses it there
    jumps. What crosses aslant jumps for a displacement across it too.
    """
    return np.asarray(
        crossing.rim.tangents - crossing.ways.mean(axis=1)[:, None] * crossing.rim.normals
    )


def _changing(crossing: Crossing) -> np.ndarray:
    """Pixels along the boundary for one part of each of `WAYS` about the outline's middle, (ways,
    n).
    """
    centred = crossing.rim.points - crossing.rim.points.mean(axis=0)
    jumping = _jumping(crossing)
    return np.array(
        [((centred @ np.array(matrix).T) * jumping).sum(axis=1) for matrix in WAYS.values()]
    )


def _matched(costs: np.ndarray, crossing: Crossing) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """What matching gains by the best displacement and by the best of each of `WAYS`, (1 + ways,);
    the displacement; how much of each way.
    """
    # Of a long boundary some hundred places know what all do.
    every = max(1, round(2 / crossing.rim.step), len(costs) // _PLACES)
    some = ndimage.uniform_filter1d(costs, every, axis=0)[::every] if every > 1 else costs
    some = np.ascontiguousarray(some.T)
    count = some.shape[1]
    # Where each place's cost of no jump lies, among all of them in a row.
    straight = FAR * count + np.arange(count, dtype=np.int32)
    jumping, changing = (
        _jumping(crossing)[::every][:count].astype(np.float32),
        _changing(crossing)[:, ::every][:, :count].astype(np.float32),
    )
    as_it_is = float(some[FAR].mean())

    def of(moves: np.ndarray) -> np.ndarray:
        jumps = np.clip(np.rint(moves), -FAR, FAR).astype(np.int32)
        return np.asarray(some.take(jumps * count + straight).mean(axis=1))

    by_shift, by_way = of(_SHIFTS @ jumping.T), [of(_TURNS[:, None] * one) for one in changing]
    best, much = int(by_shift.argmin()), [int(one.argmin()) for one in by_way]
    return (
        as_it_is - np.array([by_shift[best], *(one.min() for one in by_way)]),
        _SHIFTS[best].astype(float),
        _TURNS[much].astype(float),
    )


@dataclass(frozen=True)
class _Gains:
    """What is gained in one way of reading by the best displacement and by the best of each of
    `WAYS`: `gained` (1 + ways,), `nature` (controls, 1 + ways), `far` (1 + ways,)
    spreads; `shift`, `much` (ways,): which."""

    crossing: Crossing
    costs: np.ndarray
    gained: np.ndarray
    nature: np.ndarray
    far: np.ndarray
    shift: np.ndarray
    much: np.ndarray


def gains_of(
    rims: list[Rim], strips: list[np.ndarray], way: tuple[int, int, float, float]
) -> _Gains:
    """`rims`, `strips`: of the boundary, and of each of the controls."""
    natural = [
        crossing_of(strip, rim, way) for strip, rim in zip(strips[1:], rims[1:], strict=True)
    ]
    differences = [_differences(one) for one in natural]
    usual = 1.5 * float(np.mean([np.median(one[:, FAR]) for one in differences])) + 0.3
    costs = [np.minimum(one / usual, _MOST) for one in differences]
    nature = np.array([_matched(cost, one)[0] for cost, one in zip(costs, natural, strict=True)])
    own = crossing_of(strips[0], rims[0], way)
    cost = np.minimum(_differences(own) / usual, _MOST)
    gained, shift, much = _matched(cost, own)
    explained = gained / max(float(cost[:, FAR].mean()), 1e-6)
    far = (
        np.array(
            [
                float(excess(np.array(gained[k]), nature[:, k], _FLOORS[min(k, 1)]))
                for k in range(len(gained))
            ]
        )
        * _COUNTS
        * np.minimum(1.0, explained / _SHARE)
    )
    return _Gains(own, cost, gained, nature, np.minimum(far, way[3]), shift, much)


def displaced(controls: Controls) -> Displaced | None:
    """How the fill of the longest boundary lies off its ground; None where too little is known of
    how things go on here.
    """
    if len(controls.placed) < LEAST_CONTROLS:
        return None
    rims = [rim.apart() for rim in (controls.rims[0], *controls.placed)]
    strips = [
        controls.strip(rim) if fine is rim else controls.unrolled(fine, rim)
        for rim, fine in zip((controls.rims[0], *controls.placed), rims, strict=True)
    ]
    read = [gains_of(rims, strips, way) for way in READING_WAYS]
    far = np.mean([one.far for one in read], axis=0)
    which = int(far.argmax())
    how, much = ("moved", *WAYS)[which], float(np.array([0.0, *read[0].much])[which])
    shown = read[0]
    jumps = (
        much * _changing(shown.crossing)[which - 1]
        if which
        else _jumping(shown.crossing) @ shown.shift
    )
    at = np.clip(np.round(jumps).astype(int) + FAR, 0, 2 * FAR)
    inside = (
        abs(much) < np.radians(TURN - 0.5) if which else float(np.hypot(*shown.shift)) < FAR - 1.5
    )
    gains = shown.costs[:, FAR] - shown.costs[np.arange(len(shown.costs)), at]
    return Displaced(
        float(far[which]),
        inside,
        how,
        shown.shift,
        much,
        jumps,
        gains,
        shown.nature[:, which],
        float(shown.gained[which]),
        shown.crossing,
        shown.costs,
    )
