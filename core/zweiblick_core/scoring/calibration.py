"""How sure a reading is, and whether it is reported."""

from __future__ import annotations

import math

from ..report import Reading
from .model import MODEL

#: Scores nearer to zero or one than this say no more.
_NEAR = 1e-4


def confidence(score: float, kind: str = "") -> float:
    """The probability that a person would agree, 0..1, from the score 0..1: a logistic curve over
    its log odds (Platt 1999).
    """
    some = min(max(score, _NEAR), 1 - _NEAR)
    odds = min(math.log(some / (1 - some)), MODEL.most_log_odds)
    likely = MODEL.offset + MODEL.slope * odds + MODEL.hints.get(kind, 0.0)
    return 1 / (1 + math.exp(-likely))


def is_reported(reading: Reading) -> bool:
    """Whether a reading is a finding: more likely there than not, or a hint."""
    return reading.score >= (MODEL.hinted if reading.kind in MODEL.hints else MODEL.reported)
