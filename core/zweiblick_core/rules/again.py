"""Trust in oneself: some rulings are shown again on another day, unannounced; how well a person agrees
with themselves is said to nobody else.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from .verdicts import PASSING

#: A ruling is shown again after so many hours at the earliest: another day, another eye.
HOURS = 20
#: One stop in so many of a run is one that was ruled on before; from `LEAST` stops on.
ONE_IN, LEAST = 12, 6
_Z = 1.96


@dataclass(frozen=True)
class Kappa:
    """Agreement beyond chance (Cohen, A coefficient of agreement for nominal scales, 1960), with its
    95 % interval by the large-sample standard error of the same paper; `same` of `of` were ruled
    alike. `kappa` is None where all rulings were the same, so that chance alone agrees.
    """

    kappa: float | None
    low: float
    high: float
    same: int
    of: int


def kappa(pairs: Iterable[tuple[str, str]]) -> Kappa:
    """Args: pairs: (ruling before, ruling again); what counts is whether it passes."""
    rows = np.array([(a in PASSING, b in PASSING) for a, b in pairs], bool).reshape(-1, 2)
    n = len(rows)
    same = int((rows[:, 0] == rows[:, 1]).sum())
    if n == 0:
        return Kappa(None, -1.0, 1.0, 0, 0)
    first, second = rows.mean(axis=0)
    chance = first * second + (1 - first) * (1 - second)
    if chance >= 1:
        return Kappa(None, -1.0, 1.0, same, n)
    observed = same / n
    found = (observed - chance) / (1 - chance)
    spread = _Z * np.sqrt(observed * (1 - observed) / n) / (1 - chance)
    return Kappa(
        round(float(found), 3),
        round(float(max(-1.0, found - spread)), 3),
        round(float(min(1.0, found + spread)), 3),
        same,
        n,
    )


def shown_again(run: int, stops: int, ruled: Sequence[int]) -> dict[int, int]:
    """Which cells that were ruled on before are shown again, by the place at which they are put
    into a run. Drawn by lot once for each run.

    Args:
        stops: how many others the run has; ruled: cells that may be shown again.
    """
    if stops < LEAST or not ruled:
        return {}
    lot = np.random.default_rng(
        int.from_bytes(hashlib.sha256(f"run {run}, again".encode()).digest()[:8], "big")
    )
    count = min(len(ruled), max(1, stops // ONE_IN))
    cells = lot.choice(np.array(ruled), count, replace=False)
    places = lot.choice(stops, count, replace=False)
    return {int(place): int(cell) for place, cell in zip(places, cells, strict=True)}
