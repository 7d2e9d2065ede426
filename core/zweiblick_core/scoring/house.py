"""What a house's own answers make of the probabilities: a curve over their log odds (Platt 1999)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize

from ..errors import Refused
from .asking import log_odds
from .model import Curve

#: So many answers are needed, and so many of each sort, before they say anything.
LEAST, LEAST_OF_EACH = 60, 12
#: How strongly the curve is held to leaving everything as it is, in answers: few move it little.
_HELD = 8.0


@dataclass(frozen=True)
class Tenth:
    """Of findings whose probability lay in one tenth: the mean of what was said, the share that was
    confirmed, how many.
    """

    said: float
    so: float
    count: int


def curve_of_answers(answers: Sequence[tuple[float, bool]]) -> Curve:
    """The curve over log odds that fits what people answered.

    Args:
        answers: (the probability that was said, whether it was confirmed) of each finding.

    Raises:
        Refused: too few answers, or too few of one sort.
    """
    there = sum(confirmed for _, confirmed in answers)
    if len(answers) < LEAST or min(there, len(answers) - there) < LEAST_OF_EACH:
        raise Refused(
            f"{len(answers)} findings were answered, {there} of them confirmed; at least {LEAST} are needed,"
            f" {LEAST_OF_EACH} of each sort"
        )
    odds = np.array([log_odds(said) for said, _ in answers])
    so = np.array([confirmed for _, confirmed in answers], float)

    def loss(curve: np.ndarray) -> float:
        likely = curve[0] + curve[1] * odds
        missed = np.logaddexp(0.0, likely) - so * likely
        return float(missed.sum() + _HELD * (curve[0] ** 2 + (curve[1] - 1) ** 2))

    # A curve that falls would say that the surer a finding, the less it is there.
    offset, slope = minimize(loss, (0.0, 1.0), bounds=((-4, 4), (0.1, 4))).x
    return Curve(float(offset), float(slope))


def mapped(curve: Curve, likely: float) -> float:
    """A probability as a house's curve has it, 0..1."""
    return float(curve.likely(log_odds(likely)))


def unmapped(curve: Curve, likely: float) -> float:
    """What a probability was before the curve, 0..1."""
    return mapped(Curve(-curve.offset / curve.slope, 1 / curve.slope), likely)


def reliability(answers: Sequence[tuple[float, bool]]) -> list[Tenth]:
    """Of each tenth of probabilities that has any."""
    tenths: dict[int, list[tuple[float, bool]]] = {}
    for said, so in answers:
        tenths.setdefault(min(int(said * 10), 9), []).append((said, so))
    return [
        Tenth(
            sum(said for said, _ in some) / len(some),
            sum(so for _, so in some) / len(some),
            len(some),
        )
        for _, some in sorted(tenths.items())
    ]


def missed(answers: Sequence[tuple[float, bool]]) -> float:
    """Mean squared error of the probabilities (Brier 1950), 0..1; 0 without answers."""
    return sum((said - so) ** 2 for said, so in answers) / len(answers) if answers else 0.0
