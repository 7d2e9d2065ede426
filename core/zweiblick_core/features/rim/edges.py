"""What differs right across a boundary, from pixel to pixel: hard steps that no wider band shows so
well.

A fill that was pasted in ends between two pixels. From one pixel to the next nature changes little,
and to either side alike; so for every pair of neighbours across the boundary
the difference is taken, as it is and less the mean slope on either side, and their location sought
along 40 px, 110 px and all of it. The few pairs at which something
strong crosses the boundary must not rule: each counts for no more than is usual (Huber 1964). What
    the same pairs come to when the outline is placed over untouched parts is what is
natural.

A ring that lies along the boundary has a hard outer edge too, but farther in it is gone. So the
slopes inside are weighed: what a ring of that height would make of them against
none, by their likelihood under what slopes are here by nature (Neyman and Pearson 1933).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache, cached_property

import numpy as np
from scipy.linalg import toeplitz
from scipy.spatial import cKDTree

from ...scene.boundary import Rim
from .nulls import LEAST_CONTROLS, LENGTHS, Controls, beyond, euclidean, means_along

#: What a pair may count for, of the middle size of such differences.
_MOST = 0.8
#: Differences (CIELAB) below the first are nothing a person sees, however even the ground; at the
#: second they are.
UNSEEN, SEEN = 0.5, 0.9
_TAIL, _FLOOR, _LEAST = 0.8, 0.04, 0.45
#: How far inside a ring that lies along the boundary has faded, pixels; and what rings are thought
#: of: how deep they lie and how wide they are.
FADED = 12
_SHAPES = ((3.0, 2.5), (3.0, 4.0), (0.0, 4.0), (0.0, 7.0), (4.0, 6.0))
#: What a stretch of each of `LENGTHS` may count for: a short edge in the picture itself may happen
#: to run along an outline, a long one hardly.
_WORTH = (0.5, 0.75, 1.0)
_WAYS = 2


@dataclass(frozen=True)
class Pairs:
    """Neighbours across a boundary. `inner`: (m, 2) row and column inside; `out`: (m, 2) the step
    outward; `at`: (m,) the nearest sample of the rim.
    """

    inner: np.ndarray
    out: np.ndarray
    at: np.ndarray

    def of(self, indices: np.ndarray, size: int) -> Pairs:
        """Those of some samples of the rim of `size`, counted from the first of them."""
        place = np.full(size, -1)
        place[indices] = np.arange(len(indices))
        chosen = self.some(place[self.at] >= 0)
        return Pairs(chosen.inner, chosen.out, place[chosen.at])

    def some(self, chosen: np.ndarray | slice) -> Pairs:
        """Those that are chosen, by number or bool."""
        return Pairs(self.inner[chosen], self.out[chosen], self.at[chosen])

    def seen(self, frame: tuple[int, int], moved: tuple[int, int] = (0, 0)) -> Pairs:
        """Those whose neighbours lie within a frame (height, width) when moved by (x, y)."""
        first, last = (self.inner + np.array(moved[::-1]) + k * self.out for k in (-FADED - 1, 3))
        ok = np.logical_and.reduce(
            [(one >= 0).all(axis=1) & (one < np.array(frame)).all(axis=1) for one in (first, last)]
        )
        return self.some(ok)


@dataclass(frozen=True)
class Edge:
    """Along one rim. `far`: (n,) how far outside what is natural; `level`: (n,) by which of the
    ways and lengths; `amounts`: (ways * lengths, n) in natural spreads; `null`:
    (controls, ways * lengths); `differences`: (m, ways, 3) CIELAB of `pairs`; `tempered`: (ways *
    lengths, n) CIELAB, what `amounts` were
    made of; `placed`: each control, its pairs and how far (x, y) they were moved."""

    far: np.ndarray
    level: np.ndarray
    amounts: np.ndarray
    null: np.ndarray
    pairs: Pairs
    differences: np.ndarray
    tempered: np.ndarray
    controls: Controls
    placed: list[tuple[Rim, Pairs, tuple[int, int]]]

    def step(self, indices: np.ndarray, size: int) -> np.ndarray:
        """Inside less outside over some samples of the rim; (3,) CIELAB."""
        some = (
            np.isin(self.pairs.at, indices)
            if len(indices) < size
            else np.ones(len(self.pairs.at), bool)
        )
        return location(self.differences[some, 1]) if some.sum() >= 8 else np.zeros(3)

    def ring(self, indices: np.ndarray, size: int, step: np.ndarray) -> Ring | None:
        """Whether a `step` (CIELAB) over some samples is the outer edge of a ring that has faded
        farther in; None where too few pairs are known.
        """
        some = self.pairs.some(
            np.isin(self.pairs.at, indices)
            if len(indices) < size
            else np.ones(len(self.pairs.at), bool)
        )
        amount = float(np.linalg.norm(step))
        if len(some.at) < 8 or amount < 1e-3:
            return None
        way = step / amount
        natural = self.natural_slopes @ way
        own = np.delete(slopes(self.controls.window.lab_result, some) @ way, FADED)
        # By nature slopes of neighbouring pixels go together alike everywhere across a rim.
        count = natural.shape[1]
        together = np.array(
            [np.mean(natural[:, : count - k] * natural[:, k:]) for k in range(count)]
        ) * np.exp(-((np.arange(count) / 10.0) ** 2))
        value, vector = np.linalg.eigh(toeplitz(together))
        second = (vector * np.maximum(value, 0.05 * value.max())) @ vector.T
        keep = np.delete(np.arange(count), FADED)
        inverse = np.linalg.inv(
            second[np.ix_(keep, keep)] / self.controls.pieces + 0.02**2 * np.eye(2 * FADED)
        )
        # Where this ground, as far as it was left as it is, varies more than that, or other places
        # do, so may the fill.
        outward = slice(FADED, None)
        usual = np.quantile(
            np.einsum("ni,ij,nj->n", natural[:, keep], inverse, natural[:, keep]), 0.84
        ) / (2 * FADED)
        here = (
            float(
                own[outward]
                @ np.linalg.inv(np.linalg.inv(inverse)[outward, outward])
                @ own[outward]
            )
            / FADED
        )
        inverse = inverse / max(1.0, float(usual), here)
        best: Ring | None = None
        for shape in _SHAPES:
            wanted = amount * _ring_slopes(*shape)
            power = float(wanted @ inverse @ wanted)
            odds = float(wanted @ inverse @ own) - 0.5 * power
            if best is None or odds > best.odds:
                best = Ring(odds, odds / power + 0.5, power**-0.5, *shape)
        # Compression draws some of a step inward, which no untouched place shows.
        return (
            replace(best, odds=0.5 * best.odds)
            if best is not None and self.controls.window.lossy
            else best
        )

    @cached_property
    def natural_slopes(self) -> np.ndarray:
        """`slopes` at untouched places, (controls, 2 * FADED + 1, 3)."""
        return np.array(
            [
                slopes(self.controls.window.lab_original, some, place)
                for _, some, place in self.placed
            ]
        )

    def shown(self, rim: Rim, way: int) -> tuple[np.ndarray, np.ndarray]:
        """By one of the ways, as it is seen, whatever single pairs count for: differences along the
        rim over the shortest of `LENGTHS`, (n,) CIELAB; and 21 quantiles of
        the same on controls."""
        plain = lambda differences, pairs, along: euclidean(
            _means(differences[:, way], pairs, along, LENGTHS[:1])[0]
        )
        natural = [
            plain(read(self.controls.window.lab_original, some, place), some, control)
            for control, some, place in self.placed
        ]
        return plain(self.differences, self.pairs, rim), np.quantile(
            np.concatenate(natural), np.linspace(0, 1, 21)
        )


@dataclass(frozen=True)
class Ring:
    """How a step would be the edge of a ring. `odds`: natural logarithm of how much likelier the
    slopes inside are beside a ring than beside a step; `share`: how much of the
    step is gone farther in, and `natural`: by how much that is uncertain; `centre`, `width`: where
    the likeliest ring lies inside and how wide it is, pixels.
    """

    odds: float
    share: float
    natural: float
    centre: float
    width: float


def location(differences: np.ndarray) -> np.ndarray:
    """The robust location of (m, ...) differences (Huber 1964), by reweighting; (...)."""
    usual = _MOST * np.median(np.abs(differences), axis=0) + 0.05
    found = np.median(differences, axis=0)
    for _ in range(8):
        weight = 1 / np.maximum(1.0, np.abs(differences - found) / usual)
        found = (weight * differences).sum(axis=0) / weight.sum(axis=0)
    return np.asarray(found)


def pairs_of(area: np.ndarray, rim: Rim) -> Pairs:
    """Neighbouring pixels across the boundary of an area (bool) along one of its rims."""
    (x0, y0), (x1, y1) = (
        np.floor(rim.points.min(axis=0)).astype(int) - 6,
        np.ceil(rim.points.max(axis=0)).astype(int) + 7,
    )
    top, left = max(0, y0), max(0, x0)
    part = np.pad(area[top : max(y1, 0), left : max(x1, 0)], 2, mode="edge")
    inner, out = [], []
    for dy, dx in ((0, 1), (0, -1), (1, 0), (-1, 0)):
        moved = lambda k, dy=dy, dx=dx: part[
            2 + k * dy : part.shape[0] - 2 + k * dy, 2 + k * dx : part.shape[1] - 2 + k * dx
        ]
        # Two deep on either side, so that a slope is known.
        ys, xs = np.nonzero(moved(0) & moved(-1) & ~moved(1) & ~moved(2))
        inner.append(np.stack([ys + top, xs + left], -1))
        out.append(np.broadcast_to((dy, dx), (len(ys), 2)))
    places, ways = np.concatenate(inner), np.concatenate(out)
    away, at = cKDTree(rim.points).query(
        places[:, ::-1] + 0.5 * ways[:, ::-1], distance_upper_bound=max(4.0, rim.step)
    )
    near = np.isfinite(away)
    usable = np.zeros(len(places), bool)
    usable[near] = rim.usable[at[near]]
    return Pairs(places[usable], ways[usable], at[usable])


def read(lab: np.ndarray, pairs: Pairs, moved: tuple[int, int] = (0, 0)) -> np.ndarray:
    """Differences across (m, ways, 3): from pixel to pixel, and less the mean slope on either side."""
    at = lambda k: lab[
        pairs.inner[:, 0] + moved[1] + k * pairs.out[:, 0],
        pairs.inner[:, 1] + moved[0] + k * pairs.out[:, 1],
    ]
    inner, outer, deeper, farther = (at(k) for k in (0, 1, -1, 2))
    across = inner - outer
    return np.stack([across, across - 0.5 * (deeper - inner + outer - farther)], 1)


def slopes(lab: np.ndarray, pairs: Pairs, moved: tuple[int, int] = (0, 0)) -> np.ndarray:
    """From pixel to pixel across a boundary, outward, from `FADED` px inside to as far outside: the
    robust location of differences along it; (2 * FADED + 1, 3) CIELAB, the
    boundary's own in the middle."""
    every = pairs.some(slice(None, None, max(1, len(pairs.at) // 200)))
    limits = np.array(lab.shape[:2]) - 1
    rows = []
    for k in range(-FADED, FADED + 2):
        y, x = np.clip(every.inner + np.array(moved[::-1]) + k * every.out, 0, limits).T
        rows.append(lab[y, x])
    return location(np.diff(np.stack(rows, 1), axis=1))


@cache
def _ring_slopes(centre: float, width: float) -> np.ndarray:
    """The slopes that a ring whose edge is a step of one makes, outward, without the boundary's
    own; (2 * FADED,).
    """
    depth = np.arange(FADED, -1, -1) + 0.5
    ring = np.exp(-(((depth - centre) / width) ** 2))
    return np.concatenate([np.diff(ring / ring[-1]), np.zeros(FADED)])


def _means(
    differences: np.ndarray, pairs: Pairs, rim: Rim, lengths: tuple[int, ...] = LENGTHS
) -> list[np.ndarray]:
    """Means along a rim of (m, ...) differences, one (n, ...) for each length; zero where no pair
    is near.
    """
    columns = differences.reshape(len(differences), -1)
    sums = np.stack([np.bincount(pairs.at, column, minlength=len(rim)) for column in columns.T], -1)
    counts = np.bincount(pairs.at, minlength=len(rim)).astype(float)
    means = [
        total / np.maximum(count, 1e-6)[:, None] * (count > 1e-3)[:, None]
        for total, count in zip(
            means_along(sums, rim, lengths), means_along(counts, rim, lengths), strict=True
        )
    ]
    return [mean.reshape(len(rim), *differences.shape[1:]) for mean in means]


def _along(differences: np.ndarray, pairs: Pairs, rim: Rim, usual: np.ndarray) -> list[np.ndarray]:
    """Means along a rim of tempered differences, one (n, ways, 3) for each of `LENGTHS`."""
    return _means(np.clip(differences, -usual, usual), pairs, rim)


def edge_of(controls: Controls, rim: Rim, area: np.ndarray) -> Edge | None:
    """Hard steps along a rim of an area; None where the outline finds too little room elsewhere."""
    frame, first = area.shape, controls.rims[0]
    if len(controls.placed) < LEAST_CONTROLS or not controls.origins:
        return None
    own = pairs_of(area, first)
    whole = (own if rim is first else pairs_of(area, rim)).seen(frame)
    if len(whole.at) < 24:
        return None
    placed = []
    for control, (indices, place) in zip(controls.placed, controls.origins, strict=True):
        some = own.of(indices, len(first)).seen(frame, place)
        if len(some.at) >= 12:
            placed.append((control, some, read(controls.window.lab_original, some, place), place))
    if len(placed) < LEAST_CONTROLS:
        return None
    usual = np.median(np.abs(np.concatenate([one[2] for one in placed])), axis=0) * _MOST + 0.02
    on_controls = [
        _along(differences, some, control, usual) for control, some, differences, _ in placed
    ]
    differences = read(controls.window.lab_result, whole)
    judged = _along(differences, whole, rim, usual)
    amounts, tempered, null = [], [], []
    for way in range(_WAYS):
        for level in range(len(LENGTHS)):
            rows = np.concatenate(
                [one[level][:: max(1, len(one[level]) // 200), way] for one in on_controls]
            )
            second = rows.T @ rows / len(rows)
            second = 0.9 * second + 0.1 * np.diag(np.diag(second)) + _FLOOR**2 * np.eye(3)
            value, vector = np.linalg.eigh(second)
            whiten = (vector / np.sqrt(value)) @ vector.T
            amounts.append(euclidean(judged[level][:, way] @ whiten))
            tempered.append(euclidean(judged[level][:, way]))
            null.append(
                [
                    float(np.percentile(euclidean(one[level][:, way] @ whiten), 98))
                    for one in on_controls
                ]
            )
    natural = np.array(null).T
    if controls.pieces > 1:
        # Whole outlines are drawn from pieces: the largest of as many as make one up.
        rng = np.random.default_rng(20267)
        drawn = natural[rng.integers(0, len(natural), (40, controls.pieces))].max(axis=1)
        for k in range(len(LENGTHS) - 1, natural.shape[1], len(LENGTHS)):
            drawn[:, k] = natural[rng.integers(0, len(natural), 40), k] / np.sqrt(controls.pieces)
        natural = drawn
    worth = np.tile(_WORTH, _WAYS)
    stacked = np.stack(amounts)
    # An excess in so many of its parts: amounts are drawn towards what is usual.
    usual_amount = np.median(natural, axis=0)
    far, which = beyond(
        usual_amount[:, None] + worth[:, None] * (stacked - usual_amount[:, None]),
        natural,
        rim.usable,
        _LEAST,
        _TAIL,
    )
    return Edge(
        far,
        which,
        stacked,
        natural,
        whole,
        differences,
        np.stack(tempered),
        controls,
        [(control, some, place) for control, some, _, place in placed],
    )
