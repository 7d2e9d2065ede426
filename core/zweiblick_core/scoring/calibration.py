"""How likely something is wrong at a reading, and whether it is reported."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ..report import Abstention, Reading
from .asking import KINDS, NAMES, Strength, log_odds, rows_of
from .model import MODEL


def weigh(
    readings: Sequence[Reading],
    abstained: Mapping[str, Abstention],
    context: Mapping[str, float] | None,
) -> None:
    """Give a region's readings their `likely`.

    Args:
        readings: of one region, of every kind that could tell. abstained: of every other.
        context: as of `context_of`; None where not every kind was asked: what the others would have
            seen is not known then, and each reading is weighed by its score alone.
    """
    weighed = [reading for reading in readings if context and reading.kind in KINDS]
    if weighed and context:
        rows = rows_of(
            [(reading.kind, strength_of(reading)) for reading in weighed],
            {kind: one.leaning for kind, one in abstained.items()},
            context,
        )
        own = np.minimum(rows[:, NAMES.index("own odds")], MODEL.most_log_odds)
        sure = MODEL.stack.likely(MODEL.trees.log_odds(rows), own)
        for reading, likely in zip(weighed, sure, strict=True):
            reading.likely = float(likely)
    for reading in readings:
        if reading.likely is None:
            reading.likely = alone(reading.score)


def strength_of(reading: Reading) -> Strength:
    """How strong a reading is."""
    natural = reading.measure.natural
    return Strength(reading.score, reading.measure.value, natural.low, natural.high)


def alone(score: float) -> float:
    """The probability that something is wrong, 0..1, where a score 0..1 is all that is known."""
    return float(MODEL.alone.likely(min(log_odds(score), MODEL.most_log_odds)))


def is_reported(reading: Reading) -> bool:
    """Whether a reading is a finding: it stands out, and is likely right; or is a hint."""
    hinted = MODEL.hints.get(reading.kind)
    if hinted is not None:
        return reading.score >= hinted
    assert reading.likely is not None
    return reading.score >= MODEL.stands_out and reading.likely >= MODEL.reported
