"""What bends to and fro in a fill though nothing around it does: boards and edges that undulate,
the grain of wood in waves.

No line needs to be found or followed for that. The way edges run is known at every place (structure
tensor, Bigun and Granlund 1987), and so is how it turns along them. Where
it turns one way a little before a place and the other way a little behind it, something bends to
    and fro: a straight edge does neither, a round one goes on turning one way.
How much of that there is in the fill is compared with the same outline placed over untouched parts of
the picture, and with what lies around the fill. A wide fill finds no room
elsewhere: its squares are compared with squares of untouched ground.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from ...null import excess

#: Samples a fill is wide when it is looked at, about: where it is larger, it is looked at smaller;
#: and once more at half of that, if it is still so wide. All lengths below are
#: in such samples.
_ACROSS, _LEAST = 200.0, 70.0
#: Standard deviations of the Gaussians that edges are taken at and their ways averaged over; how
#: far before and behind a place is looked. Of five such triples, on training
#: photographs waved by 2 and 4 px, the one that distinguished most.
_EDGES, _WAYS, _REACH = 1.2, 3.0, 9.0
#: Gradients above so many levels a sample count for no more, those well below another for little.
_STRONG, _WEAK = 20.0, 2.0
#: Sharpest turn that counts, radians a sample, on the weaker side: letters and things with corners
#: turn more sharply here and there, what undulates does gently all over.
_SHARP = 0.03
#: How much of one direction there must be to count at all: grain by itself comes to less.
_CLEAR = 0.4
#: Part of a fill's area that counts as ordinary ground, so that what hardly has edges says little.
_PRIOR = 0.05
#: Degrees that are added before readings are compared by ratio; the least spread of those, natural
#: logarithm; how much the largest control counts.
_OFFSET, _FLOOR, _TAIL = 3.0, 0.3, 0.5
#: Places an outline is read at, at most; how far from the fill what lies around begins and ends;
#: how far inside the fill begins.
_MOST, _RING, _INSIDE = 2500, (6, 36), 3
#: Places that must be known, and what a reading counts where fewer than the second are.
LEAST_PLACES, _FEW, _COUNTS = 3, 5, 0.75
#: Wide fills: how many times smaller they are looked at, and the side of their squares at full
#: size, pixels, each; about how far apart places are read, samples. A square must be
#: filled by so much, and so many of untouched ground be known.
_SQUARES, _GRID, _FULL, LEAST_SQUARES = ((2, 200), (4, 400)), 6, 0.75, 8
#: What a quarter of a fill's squares exceed is judged: what is seen there of a few may be a thing
#: that is round. Its least spread, and what an excess counts against one of whole
#: outlines (of 200 clean fills of ten photographs, 950 px wide, 1.6 is the largest; waved by 4 px
#: half of them reach 3).
_PART, _LEAST_SPREAD, _COUNTS_WIDE = 75.0, 0.15, 0.55
#: From so far on what bends is known to.
SURE = 1.0
#: Edges that are shown, at most, how far apart, how far each is followed either way.
_SHOWN, _APART, _FAR = 6, 12.0, 28


@dataclass(frozen=True)
class Waves:
    """How much things in a fill bend to and fro.

    Attributes:
        far: by how many natural spreads more than where it is placed over untouched ground, or than
            around it.
        turning: degrees by which edges turn one way and back again over 9 samples, on average over
            a fill's edges (sharper turns than 15 count as 15).
        nature: (places,) the same at untouched places. null: what these are, as a report names it.
        traces: what bends most, each (n, 2) points (x, y) in pixels. swings: (traces,) half the way
            between extremes about the chord, pixels.
    """

    far: float
    turning: float
    nature: np.ndarray
    traces: list[np.ndarray]
    swings: np.ndarray
    null: str = "outline"


class _Ways:
    """Which way edges run. `power`: gradient energy, levels squared; `double`: (xx - yy, 2 xy) over
    it, the doubled angle as long as `sure` there is of one direction; `unit`: the
    same a unit long; `slopes`: each of these two along x and y. All (height, width) float32; the
    rest is worked out at the places that are asked for.
    """

    def __init__(self, luma: np.ndarray) -> None:
        soft = cv2.GaussianBlur(luma, (0, 0), _EDGES)
        gx, gy = (cv2.Sobel(soft, cv2.CV_32F, *order, scale=1 / 8) for order in ((1, 0), (0, 1)))
        held = 1 / (1 + (gx * gx + gy * gy) / _STRONG**2)
        xx, xy, yy = (
            cv2.GaussianBlur(plane * held, (0, 0), _WAYS) for plane in (gx * gx, gx * gy, gy * gy)
        )
        self.power = xx + yy
        total = self.power + 0.05
        self.double = ((xx - yy) / total, 2 * xy / total)
        sure = cv2.magnitude(*self.double) + 1e-3
        self.unit = tuple(plane / sure for plane in self.double)
        self.slopes = [
            [cv2.Sobel(plane, cv2.CV_32F, *order, scale=1 / 8) for order in ((1, 0), (0, 1))]
            for plane in self.unit
        ]

    def along(self, at: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """At some places (n,) the way edges run, (2, n) unit vector of either sign, how much of one
        direction there is, 0..1, and their power.
        """
        across, aslant = (plane.take(at) for plane in self.double)
        angle = 0.5 * np.arctan2(aslant, across) + np.pi / 2
        return (
            np.stack([np.cos(angle), np.sin(angle)]),
            np.hypot(across, aslant),
            self.power.take(at),
        )

    def _turning(self, at: np.ndarray, ways: np.ndarray) -> np.ndarray:
        """Radians by which edges turn a sample on, the way they run."""
        # The angle's gradient through that of its double's sine and cosine, which do not jump at
        # half a turn.
        u, v = (plane.take(at) for plane in self.unit)
        change = [[slope.take(at) for slope in slopes] for slopes in self.slopes]
        return np.asarray(
            sum(0.5 * (u * change[1][axis] - v * change[0][axis]) * ways[axis] for axis in (0, 1))
        )

    def to_and_fro(self, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """At some places, how much each counts, 0..1, and by how many degrees what runs through it
        turns one way before it and the other way behind it, the less of both.
        """
        ways, sure, power = self.along(self.places(x, y))
        turns = []
        for side in (_REACH, -_REACH):
            at = self.places(x + side * ways[0], y + side * ways[1])
            there, certain, strong = self.along(at)
            turns.append(self._turning(at, there) * np.sign((there * ways).sum(axis=0)))
            sure, power = np.minimum(sure, certain), np.minimum(power, strong)
        first, second = turns
        less = np.where(
            first * second < 0, np.minimum(np.minimum(np.abs(first), np.abs(second)), _SHARP), 0.0
        )
        return (np.clip(sure - _CLEAR, 0, 1) / (1 - _CLEAR)) ** 2 * power / (
            power + _WEAK**2
        ), np.degrees(less * _REACH)

    def places(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """The pixels nearest to some points, by number."""
        column, row = (
            np.clip(np.rint(axis).astype(np.int32), 0, size - 1)
            for axis, size in ((x, self.power.shape[1]), (y, self.power.shape[0]))
        )
        return np.asarray(row * self.power.shape[1] + column)

    def traced(self, x: float, y: float, inside: np.ndarray) -> np.ndarray:
        """The edge through a place, followed both ways to where it leaves an area, (n, 2)."""
        halves = []
        for sign in (1.0, -1.0):
            at, way, points = np.array([x, y]), None, []
            for _ in range(_FAR):
                column, row = np.clip(np.round(at).astype(int), 0, np.array(inside.shape[::-1]) - 1)
                if not inside[row, column]:
                    break
                step = self.along(row * inside.shape[1] + column)[0]
                way = step * sign if way is None else step * np.sign(step @ way)
                at = at + way
                points.append(at)
            halves.append(points)
        return np.array([*halves[1][::-1], [x, y], *halves[0]])


def _some(area: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Places x, y spread over an area."""
    ys, xs = np.nonzero(area)
    every = max(1, len(ys) // _MOST)
    return xs[::every].astype(float), ys[::every].astype(float)


def _swing(trace: np.ndarray) -> float:
    """Half the way between extremes of a trace about its chord."""
    way = trace[-1] - trace[0]
    across = (trace - trace[0]) @ np.array([-way[1], way[0]]) / max(float(np.hypot(*way)), 1e-6)
    return float(np.ptp(across)) / 2


def waves(
    luma: np.ndarray, area: np.ndarray, apart: np.ndarray, places: list[tuple[int, int]]
) -> Waves | None:
    """How much more what lies in an area bends to and fro than its ground does.

    Args:
        luma: float32 (height, width), 0..255. area: bool, likewise. apart: bool, what is no
            untouched ground.
        places: (dx, dy) pixels, at which the area lies over untouched ground.

    Returns:
        None where the area is too small, or too few places are known.
    """
    if len(places) < LEAST_PLACES:
        return None
    across = float(np.sqrt(cv2.countNonZero(area.view(np.uint8))))
    fine = max(1, round(across / _ACROSS))
    # What is wide bends slowly too.
    read = [
        _at(luma, area, apart, places, every)
        for every in (fine, 2 * fine)
        if every == fine or across / every >= _LEAST
    ]
    return _seen([one for one in read if one is not None])


def _seen(known: list[Waves]) -> Waves | None:
    """The clearest of some readings, the finest first. It is shown as the finest does that knows
    it: the smaller a picture is looked at, the more of a wave's height is averaged
    away."""
    if not known:
        return None
    best = max(known, key=lambda one: one.far)
    return replace(next((one for one in known if one.far >= SURE), best), far=best.far)


def _at(
    luma: np.ndarray, area: np.ndarray, apart: np.ndarray, places: list[tuple[int, int]], every: int
) -> Waves | None:
    """The same of a picture made so many times smaller."""
    x, y, w, h = cv2.boundingRect(area.view(np.uint8))
    moves = np.array([(0, 0), *places])
    margin = (_RING[1] + 12) * every
    first, last = np.array([x, y]), np.array([x + w, y + h])
    (left, top), (right, bottom) = (
        np.maximum(0, first + moves.min(axis=0) - margin),
        last + moves.max(axis=0) + margin,
    )
    crop = (slice(top, bottom), slice(left, right))
    size = (luma[crop].shape[1] // every, luma[crop].shape[0] // every)
    small = lambda plane: (
        plane if every == 1 else cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
    )
    part, own = (
        np.ascontiguousarray(small(luma[crop])),
        small(area[crop].view(np.uint8) * np.uint8(255)) > 127,
    )
    inside = cv2.distanceTransform(own.view(np.uint8), cv2.DIST_L2, 5) > _INSIDE
    if not inside.any():
        return None
    away = cv2.distanceTransform((~own).view(np.uint8), cv2.DIST_L2, 5)
    ring = (
        (away > _RING[0])
        & (away < _RING[1])
        & ~(small(apart[crop].view(np.uint8) * np.uint8(255)) > 0)
    )
    ways = _Ways(part)
    xs, ys = _some(inside)
    read = [ways.to_and_fro(xs + dx, ys + dy) for dx, dy in moves / every]
    around = ways.to_and_fro(*_some(ring)) if ring.any() else (np.zeros(1), np.zeros(1))
    usual = [*read[1:], around]
    ordinary = sum(float(weights @ values) for weights, values in usual) / max(
        sum(float(weights.sum()) for weights, _ in usual), 1e-6
    )
    mean = lambda weights, values: (
        (float(weights @ values) + _PRIOR * len(values) * ordinary)
        / (float(weights.sum()) + _PRIOR * len(values))
    )
    turning = np.array([mean(*one) for one in (*read, around)])
    logs = np.log(turning + _OFFSET)
    expected = max(0.0, float(logs[-1] - np.median(logs[1:-1])))
    far = float(excess(logs[0] - expected, logs[1:-1], _FLOOR, _TAIL)) * (
        _COUNTS if len(places) < _FEW else 1.0
    )
    traces = _traces(ways, xs, ys, read[0], own)
    back = lambda points: (points + 0.5) * every - 0.5 + (left, top)
    return Waves(
        far,
        float(turning[0]),
        turning[1:-1],
        [back(trace) for trace in traces],
        np.array([_swing(trace) * every for trace in traces]),
    )


def waves_across(luma: np.ndarray, area: np.ndarray, apart: np.ndarray) -> Waves | None:
    """`waves` of an area so wide that no place has room for its outline: by squares of it against
    squares of untouched ground; None where too few are known.
    """
    read = [_in_squares(luma, area, apart, every, side) for every, side in _SQUARES]
    return _seen([one for one in read if one is not None])


def _in_squares(
    luma: np.ndarray, area: np.ndarray, apart: np.ndarray, every: int, side: int
) -> Waves | None:
    size = (luma.shape[1] // every, luma.shape[0] // every)
    small = lambda plane: cv2.resize(
        plane[: size[1] * every, : size[0] * every], size, interpolation=cv2.INTER_AREA
    )
    own, untouched = (
        small(plane.view(np.uint8) * np.uint8(255)) == 255 for plane in (area, ~apart)
    )
    shrunk = lambda plane, by: cv2.erode(
        plane.view(np.uint8), np.ones((2 * by + 1, 2 * by + 1), np.uint8)
    ).astype(bool)
    grid = (slice(_GRID // 2, None, _GRID), slice(_GRID // 2, None, _GRID))
    inside, around = shrunk(own, _INSIDE)[grid], shrunk(untouched, _RING[0])[grid]
    count = max(3, round(side / every / _GRID))
    if min(inside.shape) < count:
        return None
    full = lambda plane: cv2.boxFilter(
        plane.astype(np.float32),
        -1,
        (count, count),
        normalize=False,
        borderType=cv2.BORDER_CONSTANT,
    )
    places = (slice(count // 2, None, max(1, count // 2)),) * 2
    filled = [full(plane) for plane in (inside, around)]
    whole = [one[places] >= _FULL * count**2 for one in filled]
    if not whole[0].any() or whole[1].sum() < LEAST_SQUARES:
        return None
    ways = _Ways(small(luma))
    read = inside | around
    ys, xs = (at.astype(float) * _GRID + _GRID // 2 for at in np.nonzero(read))
    weights, values = ways.to_and_fro(xs, ys)
    weight, turned = np.zeros(read.shape, np.float32), np.zeros(read.shape, np.float32)
    weight[read], turned[read] = weights, weights * values
    ordinary = float(turned[around].sum()) / max(float(weight[around].sum()), 1e-6)
    turning = [
        (
            (full(turned * plane) + _PRIOR * held * ordinary)
            / np.maximum(full(weight * plane) + _PRIOR * held, 1e-6)
        )[places][some]
        for plane, held, some in zip((inside, around), filled, whole, strict=True)
    ]
    strong = float(np.percentile(turning[0], _PART))
    far = (
        float(excess(np.log(strong + _OFFSET), np.log(turning[1] + _OFFSET), _LEAST_SPREAD, _TAIL))
        * _COUNTS_WIDE
    )
    here = inside[read]
    traces = _traces(ways, xs[here], ys[here], (weights[here], values[here]), own)
    return Waves(
        far,
        strong,
        turning[1],
        [(trace + 0.5) * every - 0.5 for trace in traces],
        np.array([_swing(trace) * every for trace in traces]),
        "surround",
    )


def _traces(
    ways: _Ways,
    x: np.ndarray,
    y: np.ndarray,
    read: tuple[np.ndarray, np.ndarray],
    inside: np.ndarray,
) -> list[np.ndarray]:
    """What bends most, the clearest first."""
    strength = read[0] * read[1]
    chosen: list[int] = []
    for at in np.argsort(-strength):
        if len(chosen) == _SHOWN or strength[at] < 0.25 * strength.max() or strength[at] <= 0:
            break
        if all(np.hypot(x[at] - x[other], y[at] - y[other]) > _APART for other in chosen):
            chosen.append(int(at))
    return [
        trace
        for at in chosen
        if len(trace := ways.traced(float(x[at]), float(y[at]), inside)) > 2 * _REACH
    ]
