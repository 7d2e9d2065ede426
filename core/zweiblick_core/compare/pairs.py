"""Blind pairs of attempts: which pair to show next, and what many of them say together."""

from __future__ import annotations

import random
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

#: Every attempt is taken to have once held its own against an average one: without it, one that
#: never lost would be infinitely better.
_PRIOR = 0.5
#: Half the width of a 90 % interval of a normal distribution, in deviations.
_NINETY = 1.645


@dataclass(frozen=True)
class Choice:
    """One blind pair: the two attempts, and the better of them, None for no difference."""

    first: int
    second: int
    better: int | None


@dataclass(frozen=True)
class Strength:
    """How well an attempt does in pairs. `chance`: of being found better than an average one, 0..1;
    low, high: its 90 % interval; `pairs`: how many it was in.
    """

    attempt: int
    chance: float
    low: float
    high: float
    pairs: int


def _sums(attempts: Sequence[int], choices: Iterable[Choice]) -> tuple[np.ndarray, np.ndarray]:
    """Wins (n,) and meetings (n, n); no difference is half a win for both."""
    place = {attempt: i for i, attempt in enumerate(attempts)}
    wins, met = np.zeros(len(attempts)), np.zeros((len(attempts), len(attempts)))
    for one in choices:
        if one.first not in place or one.second not in place or one.first == one.second:
            continue
        i, j = place[one.first], place[one.second]
        met[i, j] += 1
        met[j, i] += 1
        share = 0.5 if one.better is None else float(one.better == one.first)
        wins[i] += share
        wins[j] += 1 - share
    return wins, met


def strengths(attempts: Sequence[int], choices: Iterable[Choice]) -> list[Strength]:
    """The strengths of Bradley and Terry 1952, best first, by the iteration of Hunter 2004;
    intervals from the curvature of the likelihood.

    Attempts that were in no pair have the widest interval, and stand where they stood.
    """
    wins, met = _sums(attempts, choices)
    n = len(attempts)
    if not n:
        return []
    power = np.ones(n)
    for _ in range(500):
        # The average opponent of the prior has strength one.
        share = (met / (power[:, None] + power[None])).sum(axis=1) + 2 * _PRIOR / (power + 1)
        new = (wins + _PRIOR) / share
        done = np.abs(np.log(new / power)).max() < 1e-9
        power = new
        if done:
            break
    log = np.log(power)
    expected = power[:, None] / (power[:, None] + power[None])
    weight = met * expected * (1 - expected)
    own = 2 * _PRIOR * power / (power + 1) ** 2
    curvature = np.diag(weight.sum(axis=1) + own) - weight
    spread = np.sqrt(np.maximum(np.diag(np.linalg.inv(curvature)), 0))
    chance = lambda value: float(1 / (1 + np.exp(-value)))
    found = [
        Strength(
            attempt,
            round(chance(log[i]), 4),
            round(chance(log[i] - _NINETY * spread[i]), 4),
            round(chance(log[i] + _NINETY * spread[i]), 4),
            int(met[i].sum()),
        )
        for i, attempt in enumerate(attempts)
    ]
    return sorted(found, key=lambda one: -one.chance)


def next_pair(
    attempts: Sequence[int], choices: Sequence[Choice], seed: int = 0
) -> tuple[int, int] | None:
    """Left and right of the pair that tells most: seldom shown together, and near each other so
    far. Sides are random; None below two attempts.
    """
    if len(attempts) < 2:
        return None
    _, met = _sums(attempts, choices)
    known = {one.attempt: one.chance for one in strengths(attempts, choices)}
    chance = random.Random(f"{seed}:{len(choices)}")
    last = {choices[-1].first, choices[-1].second} if choices else set()

    def tells(pair: tuple[int, int]) -> tuple[float, float]:
        i, j = attempts.index(pair[0]), attempts.index(pair[1])
        p, q = known[pair[0]], known[pair[1]]
        ahead = p * (1 - q) / max(1e-9, p * (1 - q) + q * (1 - p))
        # The same two again at once would be known again.
        return ahead * (1 - ahead) / (1 + met[i, j]) / (
            4 if set(pair) == last else 1
        ), chance.random()

    pair = max(combinations(attempts, 2), key=tells)
    return pair if chance.random() < 0.5 else (pair[1], pair[0])


def agreement(first: dict[int, float], second: dict[int, float]) -> float | None:
    """Kendall's tau-b of two orders over what both rate, -1..1; None where either has fewer than
    two different values.
    """
    both = [key for key in first if key in second]
    same = other = ties_first = ties_second = 0
    for a, b in combinations(both, 2):
        x, y = np.sign(first[a] - first[b]), np.sign(second[a] - second[b])
        same += int(x * y > 0)
        other += int(x * y < 0)
        ties_first += int(x == 0 and y != 0)
        ties_second += int(y == 0 and x != 0)
    size = float(np.sqrt(float(same + other + ties_first) * (same + other + ties_second)))
    return None if size == 0 else round((same - other) / size, 4)
