"""What bends to and fro in a fill though nothing around it does: boards and edges that undulate, the grain of wood in waves.

No line needs to be found or followed for that. The way edges run is known at every place (structure tensor, Bigun and Granlund 1987), and so is how it turns along them. Where
it turns one way a little before a place and the other way a little behind it, something bends to and fro: a straight edge does neither, a round one goes on turning one way.
How much of that there is in the fill is compared with the same outline laid over untouched parts of the picture, and with what lies around the fill.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..calibrate import excess

#: Samples a fill is wide when it is looked at, about: where it is larger, it is looked at smaller; and once more at half of that, if it is still so wide. All lengths below are
#: in such samples.
_ACROSS, _LEAST = 200.0, 70.0
#: Standard deviations of the Gaussians that edges are taken at and their ways averaged over; how far before and behind a place is looked. Of five such triples, on training
#: photographs waved by 2 and 4 px, the one that told most.
_EDGES, _WAYS, _REACH = 1.2, 3.0, 9.0
#: Gradients above so many levels a sample count for no more, those well below another for little.
_STRONG, _WEAK = 20.0, 2.0
#: Sharpest turn that counts, radians a sample, on the weaker side: letters and things with corners turn more sharply here and there, what undulates does gently all over.
_SHARP = 0.03
#: How much of one direction there must be to count at all: grain by itself comes to less.
_CLEAR = 0.4
#: Part of a fill's area that counts as ordinary ground, so that what hardly has edges says little.
_PRIOR = 0.05
#: Degrees that are added before readings are compared by ratio; the least spread of those, natural logarithm; how much the largest control counts.
_OFFSET, _FLOOR, _TAIL = 3.0, 0.3, 0.5
#: Places an outline is read at, at most; how far from the fill what lies around begins and ends; how far inside the fill begins.
_MOST, _RING, _INSIDE = 2500, (6, 36), 3
#: Places that must be known, and what a reading counts where fewer than the second are.
LEAST_PLACES, _FEW, _COUNTS = 3, 5, 0.75
#: Edges that are shown, at most, how far apart, how far each is followed either way.
_SHOWN, _APART, _FAR = 6, 12.0, 28


@dataclass(frozen=True)
class Waves:
    """How much things in a fill bend to and fro.

    Attributes:
        far: by how many natural spreads more than where it is laid over untouched ground, or than around it.
        turning: degrees by which edges turn one way and back again over 9 samples, on average over a fill's edges (sharper turns than 15 count as 15).
        nature: (places,) the same at untouched places.
        traces: what bends most, each (n, 2) points (x, y) in pixels. swings: (traces,) half the way between extremes about the chord, pixels.
    """

    far: float
    turning: float
    nature: np.ndarray
    traces: list[np.ndarray]
    swings: np.ndarray


class _Ways:
    """Which way edges run. `along`: (2, height, width) unit vector, either sign; `turns`: radians it turns by a sample, signed as `along`; `sure`: 0..1 how much of one
    direction; `power`: gradient energy, levels squared."""

    def __init__(self, luma: np.ndarray) -> None:
        soft = cv2.GaussianBlur(luma, (0, 0), _EDGES)
        gx, gy = (cv2.Sobel(soft, cv2.CV_32F, *order, scale=1 / 8) for order in ((1, 0), (0, 1)))
        held = 1 / (1 + (gx * gx + gy * gy) / _STRONG ** 2)
        xx, xy, yy = (cv2.GaussianBlur(plane * held, (0, 0), _WAYS) for plane in (gx * gx, gx * gy, gy * gy))
        self.power = xx + yy
        total = self.power + 0.05
        double = np.stack([(xx - yy) / total, 2 * xy / total])
        self.sure = np.hypot(*double)
        u, v = double / (self.sure + 1e-3)
        angle = 0.5 * np.arctan2(double[1], double[0]) + np.pi / 2
        self.along = np.stack([np.cos(angle), np.sin(angle)])
        # The angle's gradient through that of its double's sine and cosine, which do not jump at half a turn.
        self.turns = sum(0.5 * (u * cv2.Sobel(v, cv2.CV_32F, *order, scale=1 / 8) - v * cv2.Sobel(u, cv2.CV_32F, *order, scale=1 / 8)) * way
                         for order, way in zip(((1, 0), (0, 1)), self.along, strict=True))

    def to_and_fro(self, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """At some places, how much each counts, 0..1, and by how many degrees what runs through it turns one way before it and the other way behind it, the less of both."""
        here = [self._at(plane, x, y) for plane in (*self.along, self.sure, self.power)]
        norm = np.hypot(here[0], here[1]) + 1e-6
        ways = np.stack([here[0], here[1]]) / norm
        sure, power, turns = here[2], here[3], []
        for side in (_REACH, -_REACH):
            px, py = x + side * ways[0], y + side * ways[1]
            there = [self._at(plane, px, py) for plane in (*self.along, self.sure, self.power, self.turns)]
            turns.append(there[4] * np.sign(there[0] * ways[0] + there[1] * ways[1]))
            sure, power = np.minimum(sure, there[2]), np.minimum(power, there[3])
        first, second = turns
        less = np.where(first * second < 0, np.minimum(np.minimum(np.abs(first), np.abs(second)), _SHARP), 0.0)
        return (np.clip(sure - _CLEAR, 0, 1) / (1 - _CLEAR)) ** 2 * power / (power + _WEAK ** 2), np.degrees(less * _REACH)

    @staticmethod
    def _at(plane: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        at = (np.clip(np.round(axis).astype(np.int32), 0, size - 1) for axis, size in ((y, plane.shape[0]), (x, plane.shape[1])))
        return np.asarray(plane[tuple(at)], float)

    def traced(self, x: float, y: float, inside: np.ndarray) -> np.ndarray:
        """The edge through a place, followed both ways to where it leaves an area, (n, 2)."""
        halves = []
        for sign in (1.0, -1.0):
            at, way, points = np.array([x, y]), None, []
            for _ in range(_FAR):
                column, row = np.clip(np.round(at).astype(int), 0, np.array(inside.shape[::-1]) - 1)
                if not inside[row, column]:
                    break
                step = self.along[:, row, column]
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


def waves(luma: np.ndarray, area: np.ndarray, apart: np.ndarray, places: list[tuple[int, int]]) -> Waves | None:
    """How much more what lies in an area bends to and fro than its ground does.

    Args:
        luma: float32 (height, width), 0..255. area: bool, likewise. apart: bool, what is no untouched ground.
        places: (dx, dy) pixels, at which the area lies over untouched ground.

    Returns:
        None where the area is too small, or too few places are known.
    """
    if len(places) < LEAST_PLACES:
        return None
    across = float(np.sqrt(cv2.countNonZero(area.view(np.uint8))))
    fine = max(1, round(across / _ACROSS))
    # What is wide bends slowly too.
    read = [_at(luma, area, apart, places, every) for every in (fine, 2 * fine) if every == fine or across / every >= _LEAST]
    known = [one for one in read if one is not None]
    return max(known, key=lambda one: one.far) if known else None


def _at(luma: np.ndarray, area: np.ndarray, apart: np.ndarray, places: list[tuple[int, int]], every: int) -> Waves | None:
    """The same of a picture made so many times smaller."""
    x, y, w, h = cv2.boundingRect(area.view(np.uint8))
    moves = np.array([(0, 0), *places])
    margin = (_RING[1] + 12) * every
    first, last = np.array([x, y]), np.array([x + w, y + h])
    (left, top), (right, bottom) = np.maximum(0, first + moves.min(axis=0) - margin), last + moves.max(axis=0) + margin
    crop = (slice(top, bottom), slice(left, right))
    size = (luma[crop].shape[1] // every, luma[crop].shape[0] // every)
    small = lambda plane: plane if every == 1 else cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
    part, own = np.ascontiguousarray(small(luma[crop])), small(area[crop].view(np.uint8) * np.uint8(255)) > 127
    inside = cv2.distanceTransform(own.view(np.uint8), cv2.DIST_L2, 5) > _INSIDE
    if not inside.any():
        return None
    away = cv2.distanceTransform((~own).view(np.uint8), cv2.DIST_L2, 5)
    ring = (away > _RING[0]) & (away < _RING[1]) & ~(small(apart[crop].view(np.uint8) * np.uint8(255)) > 0)
    ways = _Ways(part)
    xs, ys = _some(inside)
    read = [ways.to_and_fro(xs + dx, ys + dy) for dx, dy in moves / every]
    around = ways.to_and_fro(*_some(ring)) if ring.any() else (np.zeros(1), np.zeros(1))
    usual = [*read[1:], around]
    ordinary = sum(float(weights @ values) for weights, values in usual) / max(sum(float(weights.sum()) for weights, _ in usual), 1e-6)
    mean = lambda weights, values: (float(weights @ values) + _PRIOR * len(values) * ordinary) / (float(weights.sum()) + _PRIOR * len(values))
    turning = np.array([mean(*one) for one in (*read, around)])
    logs = np.log(turning + _OFFSET)
    expected = max(0.0, float(logs[-1] - np.median(logs[1:-1])))
    far = float(excess(logs[0] - expected, logs[1:-1], _FLOOR, _TAIL)) * (_COUNTS if len(places) < _FEW else 1.0)
    traces = _traces(ways, xs, ys, read[0], own)
    back = lambda points: (points + 0.5) * every - 0.5 + (left, top)
    return Waves(far, float(turning[0]), turning[1:-1], [back(trace) for trace in traces], np.array([_swing(trace) * every for trace in traces]))


def _traces(ways: _Ways, x: np.ndarray, y: np.ndarray, read: tuple[np.ndarray, np.ndarray], inside: np.ndarray) -> list[np.ndarray]:
    """What bends most, the clearest first."""
    strength = read[0] * read[1]
    chosen: list[int] = []
    for at in np.argsort(-strength):
        if len(chosen) == _SHOWN or strength[at] < 0.25 * strength.max() or strength[at] <= 0:
            break
        if all(np.hypot(x[at] - x[other], y[at] - y[other]) > _APART for other in chosen):
            chosen.append(int(at))
    return [trace for at in chosen if len(trace := ways.traced(float(x[at]), float(y[at]), inside)) > 2 * _REACH]
