"""The range of what is natural."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Natural:
    """What the same measure reads in untouched parts of the same picture: 5th to 95th percentile of
    `n` readings.
    """

    low: float
    high: float
    n: int
    null: str
