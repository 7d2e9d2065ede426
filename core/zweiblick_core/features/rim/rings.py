"""Rings of colour along a rim, and how they are read where two sides have their own texture."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ...scene.boundary import REACH, Rim
from .nulls import (
    FLOOR,
    LENGTHS,
    PARALLELS,
    Controls,
    Spread,
    Temper,
    blocks_along,
    euclidean,
    grown,
    locally,
    means_along,
    read_by,
)

#: Rings tried: (distance of the middle from the boundary, half-width), pixels.
WIDTHS = (1, 3)
RINGS = tuple((c, half) for half in WIDTHS for c in (-5, -3, -1, 1, 3))
#: How far to either side of a ring's middle colours are compared, pixels.
ACROSS = 9
#: Parallels whose sides end short of the rim: a strong ring must not be taken for unrest beside
#: itself.
_BESIDE = tuple((k, c) for k in range(len(WIDTHS)) for c in PARALLELS if 14 <= abs(c) <= 21)
#: Natural spreads that one sample of a ring may count for, in two runs: a faint ring is reported by
#: calm places (2.5 against 7: glow 8 found with AUC .75 instead of .68 on
#: training photographs), a strong one by its strength.
MOST = (2.5, 7.0)


@dataclass(frozen=True)
class Lines:
    """One strip measured. `ring`: (levels, n) in natural spreads, by each of `MOST` at each of
    `LENGTHS`; `reported`: the same as it is reported; `which`: of `RINGS`, where it lies,
    (levels, n); `signed`: (levels, n, 3) CIELAB; plain amounts (n,) in CIELAB at the shortest
    length, and their parallels (n, p).
    """

    ring: np.ndarray
    reported: np.ndarray
    which: np.ndarray
    signed: np.ndarray
    plain: np.ndarray
    beside: np.ndarray


@dataclass(frozen=True)
class Rings:
    """How rings are read from the colours across the boundary: best linear unbiased estimates
    (Aitken 1935), blind to a level, a slope and a step at the boundary. What
    wanders least by nature counts most.

    Attributes:
        own: (`RINGS`, 2 * `ACROSS` + 1, 3), what each distance from a ring's middle counts for.
        parallels: (2 widths, 2 * `ACROSS` + 1, 3), the same for the parallels, where no step lies.
    """

    own: np.ndarray
    parallels: np.ndarray
    _all: np.ndarray = field(init=False)
    _shown: np.ndarray = field(init=False)

    def __post_init__(self) -> None:
        at = [(centre, WIDTHS.index(half)) for centre, half in RINGS]
        weights = {
            "_all": [_across_strip(self.own[k], centre) for k, (centre, _) in enumerate(at)]
            + [_across_strip(self.parallels[k], centre) for k, centre in _BESIDE],
            "_shown": [_across_strip(self.parallels[k], centre) for centre, k in at],
        }
        for name, columns in weights.items():
            object.__setattr__(self, name, np.stack(columns, -1))

    def __call__(self, planes: np.ndarray) -> np.ndarray:
        """Each of `RINGS` and then those on the parallels, CIELAB, (n, k + p, 3)."""
        return read_by(planes, self._all)

    def shown(self, planes: np.ndarray) -> np.ndarray:
        """Each of `RINGS` not blind to steps, (n, k, 3): where a fringe ends hard at the boundary,
        this says where it lies and what colour it has.
        """
        return read_by(planes, self._shown)


def _across_strip(weights: np.ndarray, centre: int) -> np.ndarray:
    """Weights about a ring's middle (2 * ACROSS + 1, 3), placed across a whole strip; (3, 2 * REACH +
    1).
    """
    whole = np.zeros((3, 2 * REACH + 1), np.float32)
    whole[:, REACH + centre - ACROSS : REACH + centre + ACROSS + 1] = weights.T
    return whole


def learn_rings(strips: list[tuple[np.ndarray, tuple[int, ...], Rim]]) -> Rings:
    """From natural colours across rims: strips and the distances at which nothing was done to them."""
    rows = []
    for strip, centres, rim in strips:
        some = blocks_along(strip, rim)
        rows += [some[:, REACH + c - ACROSS : REACH + c + ACROSS + 1] for c in centres]
    natural = np.concatenate(rows)
    at = np.arange(-ACROSS, ACROSS + 1, dtype=float)
    # Edges as strong as anything here must not rule what is usual.
    covariance = []
    for c in range(3):
        own = natural[..., c] - natural[..., c].mean(axis=1, keepdims=True)
        size = np.abs(own).max(axis=1)
        own = own[size <= np.quantile(size, 0.9)]
        second = own.T @ own / max(len(own), 1)
        covariance.append(second + (0.05 * np.trace(second) / len(at) + FLOOR**2) * np.eye(len(at)))

    def solved(half: int, boundary: int | None) -> np.ndarray:
        wanted = np.exp(-((at / (0.75 * (half + 0.5))) ** 2) / 2)
        nothing = [
            np.ones_like(at),
            at / ACROSS,
            *([np.sign(at - boundary)] if boundary is not None else []),
        ]
        found = []
        for second in covariance:
            weights = np.linalg.solve(
                second + 1e5 * sum(np.outer(one, one) for one in nothing), wanted
            )
            found.append(weights / (wanted @ weights))
        return np.stack(found, -1)

    return Rings(
        np.stack([solved(half, -centre) for centre, half in RINGS]),
        np.stack([solved(half, None) for half in WIDTHS]),
    )


@dataclass(eq=False)
class Course:
    """Rings along one rim. `read`: each of `RINGS`, then those on the parallels, (n, k + p, 3)
    CIELAB; `means`: of them along it, each sample tempered, by each of `MOST`
    one for each of `LENGTHS`."""

    planes: np.ndarray
    rim: Rim
    read: np.ndarray
    means: list[list[np.ndarray]] = field(default_factory=list)

    def tempered(self, temper: Temper) -> list[np.ndarray]:
        """Its means by one more of `MOST`."""
        self.means.append(means_along(temper(self.read), self.rim))
        return self.means[-1]


def course_of(controls: Controls, rim: Rim, ring: Rings) -> Course:
    """A rim of these controls as rings are read along it."""
    planes = controls.planes(rim)
    return Course(planes, rim, ring(planes))


def lines(
    course: Course,
    ring: Rings,
    spreads: list[Spread],
    toward: np.ndarray | None,
    judged: bool = True,
) -> Lines:
    """Measure one strip; for a control, which is not `judged`, what would be reported is not worked
    out.
    """
    rim, many = course.rim, len(RINGS)
    own = course.read[:, :many]
    plain, shown = (
        (means_along(own, rim), means_along(ring.shown(course.planes), rim))
        if judged
        else (None, None)
    )
    levels, reported, which_levels, signed_levels = [], [], [], []
    for spread, means in zip(spreads, course.means, strict=True):
        near, beside = [one[:, :many] for one in means], [one[:, many:] for one in means]
        for level in range(len(LENGTHS)):
            amounts = spread.amount(near[level], level)
            if toward is not None:
                # One direction only is less given to chance than three, so its reading may count
                # for more.
                amounts = np.maximum(amounts, 0.8 + spread.toward(near[level], level, toward))
            best = amounts.argmax(axis=1)
            tempered = np.take_along_axis(near[level], best[:, None, None], axis=1)[:, 0]
            levels.append(locally(amounts.max(axis=1), spread.amount(beside[level], level)))
            if plain is None or shown is None:
                continue
            reported.append(
                levels[-1]
                * grown(
                    np.take_along_axis(plain[level], best[:, None, None], axis=1)[:, 0], tempered
                )
            )
            which_levels.append(euclidean(shown[level]).argmax(axis=1))
            signed_levels.append(
                np.take_along_axis(shown[level], which_levels[-1][:, None, None], axis=1)[:, 0]
            )
    if not judged:
        nothing = np.empty(0)
        return Lines(np.stack(levels), nothing, nothing, nothing, nothing, nothing)
    shortest = (
        means_along(own, rim, LENGTHS[:1])[0],
        means_along(course.read[:, many:], rim, LENGTHS[:1])[0],
    )
    return Lines(
        np.stack(levels),
        np.stack(reported),
        np.stack(which_levels),
        np.stack(signed_levels),
        euclidean(shortest[0]).max(axis=1),
        euclidean(shortest[1]),
    )
