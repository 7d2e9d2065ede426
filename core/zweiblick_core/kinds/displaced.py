"""Ground that does not go on across the boundary, but would if the fill were laid elsewhere: a fill that was put in some pixels aside or turned.

Whatever crosses the boundary, straight or curved, must meet itself there. On the unrolled rim lightness is read along the boundary from either side, each carried to the boundary
along the way its own edges run (structure tensor, Bigun and Granlund 1987). Where one side must be moved along the boundary to match the other, something jumps; a fill that
lies aside makes every place jump as one displacement of it says, a turned one as one angle says. How much better the two sides match under the best such displacement than as
they are is compared with what the same outline yields when laid over untouched parts of the original.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from scipy import ndimage

from ..calibrate import excess
from ..rims import REACH, Rim
from .rim_nulls import LEAST_CONTROLS, Controls

#: Farthest displacement sought, pixels; widest turn, degrees.
FAR, TURN = 9, 10
#: Distances from the boundary that are read on either side, pixels.
_NEAR, _DEEP = 2, 7
#: Steepest way of an edge against the boundary's normal that is followed, pixels along for one across.
_STEEP = 1.5
#: Lightness is compared less its mean over so many pixels of boundary: steps of tone are others' matter.
_EVEN = 31.0
#: Squared differences count for no more than so many natural ones: one strong edge must not rule.
_MOST = 12.0
#: Part of all that does not match which a displacement must explain to count in full.
_SHARE = 0.2
#: Least spreads of what matching gains by nature, in natural squared differences: by a displacement, by a turn.
_FLOORS = (0.2, 0.18)
#: Parallels that tell how much neighbours differ, pixels from the boundary; how many times that across it means that nothing jumps, and that something may; below which it was
#: blended.
_BESIDE, _AS_IT_IS, _BLENDED = (-7, -5, -3, 3, 5, 7), (0.92, 1.0), 0.8
_LAGS = np.arange(-FAR, FAR + 1)
_SHIFTS = np.array([(dx, dy) for dx in _LAGS for dy in _LAGS if dx * dx + dy * dy <= FAR * FAR])
_TURNS = np.radians(np.arange(-TURN, TURN + 0.1, 1.0))


@dataclass(frozen=True)
class Crossing:
    """What crosses a boundary. `outer`, `inner`: (n,) evened-out L*, carried to it from either side; `ways`: (n, 2) pixels along for one outward, of edges outside and inside."""

    rim: Rim
    outer: np.ndarray
    inner: np.ndarray
    ways: np.ndarray


@dataclass(frozen=True)
class Displaced:
    """How a fill lies off.

    Attributes:
        far: how much more is gained by moving it than is by nature, in spreads.
        within: whether the best lies within what was sought: what matches nothing matches something best at the end of it.
        turned: whether by a turn, else by a displacement.
        shift: (dx, dy) pixels, how far it lies from where it would go on. turn: radians, likewise.
        jumps: (n,) pixels along the boundary by which what crosses it jumps, as that says.
        gains: (n,) how much better each place matches so, in natural squared differences.
        nature: (controls,) what is gained by nature in the same way.
        crossing: what was compared. costs: (n, 2 * FAR + 1) natural squared differences of each place, by how far one side is moved along, pixels.
    """

    far: float
    within: bool
    turned: bool
    shift: np.ndarray
    turn: float
    jumps: np.ndarray
    gains: np.ndarray
    nature: np.ndarray
    gained: float
    crossing: Crossing
    costs: np.ndarray

    def goes_on(self, point: np.ndarray, jump: float) -> bool:
        """Whether what crosses the boundary near a point (x, y) goes on better as it is than after a jump of about so many pixels."""
        near = np.hypot(*(self.crossing.rim.points - point).T) < 9
        if not near.any():
            return False
        mean = self.costs[near].mean(axis=0)
        size = np.abs(_LAGS)
        return bool(mean[FAR] <= mean[(size >= max(1.0, jump - 2)) & (size <= jump + 2)].min(initial=np.inf))


def crossing_of(strip: np.ndarray, rim: Rim) -> Crossing:
    """From a strip (n, 2 * REACH + 1, 3) of CIELAB."""
    n, pad = len(strip), 40
    index = np.arange(-pad, n + pad)
    index = index % n if rim.closed else np.clip(index, 0, n - 1)
    wide = np.ascontiguousarray(strip[..., 0][index, REACH - _DEEP - 1:REACH + _DEEP + 2])
    wide = cv2.GaussianBlur(wide, (0, 0), 0.7)
    # Slopes in pixels: samples may lie farther apart than those across.
    along, across = np.gradient(wide, axis=0) / rim.step, np.gradient(wide, axis=1)
    rows = np.arange(len(wide), dtype=np.float32)[:, None]
    sides, ways = [], []
    for columns in (np.arange(_NEAR, _DEEP + 1), -np.arange(_NEAR, _DEEP + 1)):
        at = columns + _DEEP + 1
        some = slice(int(at.min()), int(at.max()) + 1)
        count = max(3, int(9 / rim.step) | 1)
        product, power = (ndimage.uniform_filter1d(plane.sum(axis=1), count) for plane in (along[:, some] * across[:, some], along[:, some] ** 2))
        way = np.clip(-product / (power + 0.3), -_STEEP, _STEEP).astype(np.float32)
        x = np.broadcast_to(at.astype(np.float32), (len(wide), len(at)))
        carried = cv2.remap(wide, np.ascontiguousarray(x), rows + way[:, None] * columns.astype(np.float32) / np.float32(rim.step), cv2.INTER_LINEAR,
                            borderMode=cv2.BORDER_REPLICATE).mean(axis=1)
        sides.append((carried - ndimage.uniform_filter1d(carried, max(3, int(_EVEN / rim.step) | 1)))[pad:-pad])
        ways.append(way[pad:-pad])
    return Crossing(rim, sides[0], sides[1], np.stack(ways, -1))


def _differences(crossing: Crossing) -> np.ndarray:
    """Squared difference of either side with the inner one moved along by each of -FAR..FAR pixels, (n, lags); nought where edges graze the boundary: where such a one meets it
    cannot be told."""
    n, moves = len(crossing.outer), np.round(_LAGS / crossing.rim.step).astype(int)
    index = np.arange(n)[:, None] + moves
    index = index % n if crossing.rim.closed else np.clip(index, 0, n - 1)
    sure = np.clip((_STEEP - np.abs(crossing.ways).max(axis=1)) / 0.4, 0, 1)
    return np.asarray((crossing.inner[index] - crossing.outer[:, None]) ** 2 * sure[:, None])


def tangents_of(rim: Rim) -> np.ndarray:
    """Unit vectors (n, 2) along a boundary, the way its samples follow each other."""
    along = np.stack([-rim.normals[:, 1], rim.normals[:, 0]], -1)
    return along if float((np.diff(rim.points, axis=0) * along[1:]).sum()) >= 0 else -along


def _jumping(crossing: Crossing) -> np.ndarray:
    """(n, 2): times a displacement in pixels, how far along the boundary what crosses it there jumps. What crosses aslant jumps for a displacement across it too."""
    return np.asarray(tangents_of(crossing.rim) - crossing.ways.mean(axis=1)[:, None] * crossing.rim.normals)


def _turning(crossing: Crossing) -> np.ndarray:
    """Pixels along the boundary for a turn of one radian (from x towards y) about the outline's middle, (n,)."""
    aside = crossing.rim.points - crossing.rim.points.mean(axis=0)
    return np.asarray((np.stack([-aside[:, 1], aside[:, 0]], -1) * _jumping(crossing)).sum(axis=1))


def _matched(costs: np.ndarray, crossing: Crossing) -> tuple[np.ndarray, np.ndarray, float]:
    """What matching gains by the best displacement and by the best turn, (2,); the displacement; the turn."""
    every = max(1, round(2 / crossing.rim.step))
    some = ndimage.uniform_filter1d(costs, every, axis=0)[::every] if every > 1 else costs
    some = np.ascontiguousarray(some.T)
    columns = np.arange(some.shape[1])
    jumping, turning = _jumping(crossing)[::every][:len(columns)], _turning(crossing)[::every][:len(columns)]
    as_it_is = float(some[FAR].mean())

    def of(moves: np.ndarray) -> np.ndarray:
        return np.asarray(some[np.clip(np.round(moves).astype(np.int32) + FAR, 0, 2 * FAR), columns].mean(axis=1))

    by_shift, by_turn = of(_SHIFTS @ jumping.T), of(_TURNS[:, None] * turning)
    best, turned = int(by_shift.argmin()), int(by_turn.argmin())
    return np.array([as_it_is - by_shift[best], as_it_is - by_turn[turned]]), _SHIFTS[best].astype(float), float(_TURNS[turned])


def _jumps_more(strip: np.ndarray, usable: np.ndarray) -> float:
    """How much more lightness changes right across a boundary than across its parallels close by; 1 where all goes on."""
    lightness = strip[usable][..., 0]
    changes = np.abs(np.stack([lightness[:, REACH + at + 1] - lightness[:, REACH + at - 1] for at in (0, *_BESIDE)], 1))
    if not len(changes):
        return 1.0
    held = np.minimum(changes, 2.5 * float(np.median(changes[:, 1:])) + 1.0)
    return float(held[:, 0].mean() / max(float(held[:, 1:].mean()), 1e-3))


def displaced(controls: Controls) -> Displaced | None:
    """How the fill of the longest boundary lies off its ground; None where too little is known of how things go on here."""
    if len(controls.placed) < LEAST_CONTROLS:
        return None
    natural = [crossing_of(controls.strip(rim), rim) for rim in controls.placed]
    differences = [_differences(one) for one in natural]
    usual = 1.5 * float(np.mean([np.median(one[:, FAR]) for one in differences])) + 0.3
    costs = [np.minimum(one / usual, _MOST) for one in differences]
    nature = np.array([_matched(cost, one)[0] for cost, one in zip(costs, natural, strict=True)])
    rim = controls.rims[0]
    own = crossing_of(controls.strip(rim), rim)
    cost = np.minimum(_differences(own) / usual, _MOST)
    gained, shift, turn = _matched(cost, own)
    far = [float(excess(np.array(gained[k]), nature[:, k], _FLOORS[k])) for k in (0, 1)]
    turned = far[1] > far[0]
    jumps = turn * _turning(own) if turned else _jumping(own) @ shift
    at = np.clip(np.round(jumps).astype(int) + FAR, 0, 2 * FAR)
    inside = (float(np.hypot(*shift)) < FAR - 1.5, abs(turn) < np.radians(TURN - 0.5))
    within = inside[turned] and (inside[not turned] or gained[int(not turned)] < 0.9 * gained[int(turned)])
    explained = float(gained[int(turned)]) / max(float(cost[:, FAR].mean()), 1e-6)
    gains = cost[:, FAR] - cost[np.arange(len(cost)), at]
    # Where neighbours across the boundary differ by as much as neighbours do anywhere, neither more nor, as where they were blended, less, all goes on as it is: edges that
    # bend within a few pixels are carried to the wrong place.
    more = _jumps_more(controls.strip(rim), rim.usable)
    jumping = 1.0 if more < _BLENDED else float(np.clip((more - _AS_IT_IS[0]) / (_AS_IT_IS[1] - _AS_IT_IS[0]), 0, 1))
    return Displaced(far[turned] * min(1.0, explained / _SHARE) * jumping, within, turned, shift, turn, jumps, gains, nature[:, int(turned)], float(gained[int(turned)]), own, cost)
