"""How long a round usually takes, and whether what is out will be back in time."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from scipy.stats import binom

#: From so many rounds on something is said.
LEAST = 3


@dataclass(frozen=True)
class Usual:
    """The median of `of` rounds, seconds, with the interval in which the true median lies at 95 %
    (distribution-free, by order statistics: David and Nagaraja, Order Statistics, 3rd ed., section
    7.1); from the shortest to the longest where they are too few for that.
    """

    seconds: float
    low: float
    high: float
    of: int


def usual(rounds: Iterable[float]) -> Usual | None:
    """Args: rounds: seconds each took. None below `LEAST` of them."""
    took = np.sort(np.fromiter(rounds, float))
    n = len(took)
    if n < LEAST:
        return None
    # The largest k for which the k-th smallest and k-th largest hold the median often enough.
    k = int(binom.ppf(0.025, n, 0.5))
    low, high = (took[k - 1], took[n - k]) if k >= 1 else (took[0], took[-1])
    return Usual(float(np.median(took)), float(low), float(high), n)


def late(out: float, left: float | None, usually: Usual | None) -> bool:
    """Whether what has been out for so long will usually come back too late.

    Args:
        out: seconds since it was sent; left: seconds until it is needed, None without a day.
    """
    if left is None:
        return False
    if left <= 0:
        return True
    return usually is not None and max(0.0, usually.seconds - out) > left
