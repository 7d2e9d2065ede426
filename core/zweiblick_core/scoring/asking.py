"""What a model is asked about a reading: its own strength, what every other kind saw, the context."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..features.context import CONTEXT
from ..report import KINDS as ALL_KINDS

#: Kinds that a region can be called; overreach lies outside and untouched is its own fact.
KINDS = tuple(kind for kind in ALL_KINDS if kind not in ("overreach", "untouched"))
#: What an abstention counts as, log odds: less than any reading.
ABSTAINED = -7.0
#: Scores nearer to zero or one than this, and log odds beyond this, say no more.
_NEAR, _MOST = 1e-4, 6.0

#: A region's numbers, in their order.
REGION = (*(f"{kind} {what}" for kind in KINDS for what in ("odds", "beyond")), *CONTEXT)
#: Of one kind of a region, before the region's: its own two, the strongest two of all others, and
#: how far it is ahead of them. All but the others' grow with the kind's own reading.
OWN = ("own odds", "own beyond", "ahead", "strongest other", "second other")
#: How many of `OWN` grow with it.
GROWING = 3
#: What makes no reading likelier: an outline along an edge that goes on beyond the region meets what
#: differs by nature.
LESSENING = ("along", "leaving")
#: What makes none less likely.
RAISING = ("departs",)
#: What is asked of a model for one kind of a region.
NAMES = (*OWN, *REGION, *(f"is {kind}" for kind in KINDS))


@dataclass(frozen=True)
class Strength:
    """How strong a reading is: its score 0..1; what was measured; what is natural, low to high."""

    score: float
    value: float
    low: float
    high: float


def log_odds(score: float) -> float:
    """Of a score 0..1, within 6 of zero."""
    some = min(max(score, _NEAR), 1 - _NEAR)
    return min(max(math.log(some / (1 - some)), -_MOST), _MOST)


def strongest(readings: Mapping[str, list[Strength]]) -> dict[str, Strength]:
    """Of each kind that has readings."""
    return {kind: max(some, key=lambda one: one.score) for kind, some in readings.items() if some}


def numbers(
    seen: Mapping[str, Strength], leanings: Mapping[str, float], context: Mapping[str, float]
) -> np.ndarray:
    """A region in the order of `REGION`, float (n,).

    Args:
        seen: of each kind that could tell. leanings: of each that abstained, 0..0.5.
        context: as of `context_of`.
    """
    values: list[float] = []
    for kind in KINDS:
        if kind in seen:
            one = seen[kind]
            beyond = max(one.value - one.high, one.low - one.value, 0.0)
            values += [
                log_odds(one.score),
                math.log1p(beyond / max(one.high - one.low, 1e-6)),
            ]
        else:
            values += [ABSTAINED + leanings.get(kind, 0.0), 0.0]
    values += [math.log(context[name]) if name == "area" else context[name] for name in CONTEXT]
    return np.array(values)


def asked(region: np.ndarray, kind: str) -> np.ndarray:
    """A region's numbers as a model is asked about one kind: in the order of `NAMES`, float (n,)."""
    at = KINDS.index(kind)
    odds = region[: 2 * len(KINDS) : 2]
    second, strongest_other = np.sort(np.delete(odds, at))[-2:]
    own = (odds[at], region[2 * at + 1], odds[at] - strongest_other, strongest_other, second)
    # Its own strength stands in front alone, so that nothing falls as it grows.
    others = region.copy()
    others[2 * at : 2 * at + 2] = ABSTAINED, 0.0
    return np.concatenate([own, others, np.arange(len(KINDS)) == at])


def rows_of(
    readings: Sequence[tuple[str, Strength]],
    leanings: Mapping[str, float],
    context: Mapping[str, float],
) -> np.ndarray:
    """What a model is asked about each of a region's readings, float (n, len(NAMES)).

    Args:
        readings: (kind, strength), of `KINDS`. leanings: of each kind that abstained, 0..0.5.
        context: as of `context_of`.
    """
    seen: dict[str, list[Strength]] = {}
    for kind, strength in readings:
        seen.setdefault(kind, []).append(strength)
    best = strongest(seen)
    rows = [
        asked(numbers({**best, kind: strength}, leanings, context), kind)
        for kind, strength in readings
    ]
    return np.stack(rows) if rows else np.zeros((0, len(NAMES)))
