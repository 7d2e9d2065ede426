"""What control placements measure: its range, and how far a value lies beyond it."""

from __future__ import annotations

import numpy as np

from .natural import Natural


def natural_range(values: np.ndarray, null: str) -> Natural:
    """5th to 95th percentile."""
    low, high = np.percentile(values, [5, 95])
    return Natural(float(low), float(high), len(values), null)


def excess(value: np.ndarray, values: np.ndarray, floor: float, tail: float = 0.5) -> np.ndarray:
    """How far a value lies above a null: (value - median) / spread.

    Args:
        value: (...). values: (n,) the null. floor: the least spread.
        tail: the spread is at least this part of the way from the median to the largest null value.

    The spread is that of the upper half, because nulls of absolute measures have long upper tails.
    What one control in twenty does by nature, a fill may do too: so the
    largest counts by itself (of `tail` 0, .33, .5 and .8 a half gave the fewest false alarms at
    equal recall on the training photographs for detail, .8 for tone and grain).
    """
    median, spread = _of_null(values, floor, tail)
    return (value - median) / spread


def _of_null(values: np.ndarray, floor: float, tail: float) -> tuple[float, float]:
    median, largest = float(np.median(values)), float(np.max(values))
    upper = float(np.percentile(values, 84)) - median
    return median, max(upper, floor, tail * (largest - median))


def least_reported(values: np.ndarray, floor: float, half: float, tail: float = 0.5) -> float:
    """The value whose `excess` is `half`: what a flaw must amount to in this picture to be reported."""
    median, spread = _of_null(values, floor, tail)
    return median + half * spread


def score_of(far: np.ndarray, half: float | np.ndarray, width: float) -> np.ndarray:
    """Excesses to 0..1 by a logistic curve: 0.5 at `half`."""
    return 1.0 / (1.0 + np.exp(-np.clip((far - half) / width, -30, 30)))
