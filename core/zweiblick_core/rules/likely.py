"""The ruling that is likely, from what people ruled on the like of it; and how a run of rulings went.
Nothing is ever ruled by it.
"""

from __future__ import annotations

import hashlib
from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from statistics import median

from .tallying import Share, share
from .verdicts import PASSING

#: Cells are alike whose overalls are no further apart than this.
ALIKE = 0.1
#: Before anybody ruled, the machine's overall is taken for the chance; it weighs as so many rulings
#: (a beta prior: Gelman et al., Bayesian Data Analysis, 3rd ed., section 2.4).
PRIOR = 8
#: From here on, or below its complement, a ruling is sure enough to be offered without a look at
#: every one; one in so many of these is asked in full all the same.
SURE, IN_FULL_ONE_IN = 0.9, 5
#: Rulings in a run that took less than this, as a median over so many, are called hasty.
HASTY_SECONDS, HASTY_OF = 1.5, 10


@dataclass(frozen=True)
class Likely:
    """`chance` that people pass it; `ruling`: passes or rework; `passed` of the `of` that are alike."""

    ruling: str
    chance: float
    passed: int
    of: int

    @property
    def sure(self) -> bool:
        """Whether it is sure enough to be offered."""
        return self.chance >= SURE or self.chance <= 1 - SURE


class Past:
    """What people ruled: (overall, whether it passed) of each cell."""

    def __init__(self, rulings: Iterable[tuple[float, bool]]):
        rows = sorted(rulings)
        self._overalls = [overall for overall, _ in rows]
        self._passed = [0]
        for _, held in rows:
            self._passed.append(self._passed[-1] + held)

    def likely(self, overall: float) -> Likely:
        """Args: overall: 0..1, how well the machine thinks it holds."""
        low = bisect_left(self._overalls, overall - ALIKE)
        high = bisect_right(self._overalls, overall + ALIKE)
        of, passed = high - low, self._passed[high] - self._passed[low]
        # One more that passed and one that did not (Laplace): nothing is certain beforehand.
        chance = (PRIOR * overall + passed + 1) / (PRIOR + of + 2)
        return Likely("passes" if chance >= 0.5 else "rework", round(chance, 3), passed, of)


def asked_in_full(run: int, cell: int, likely: Likely) -> bool:
    """Whether a ruling is asked without being offered: always where it is not sure, and by lot
    where it is, so that what was offered is held against what was thought.
    """
    lot = hashlib.sha256(f"run {run}, cell {cell}".encode()).digest()[:4]
    return not likely.sure or int.from_bytes(lot, "big") % IN_FULL_ONE_IN == 0


@dataclass(frozen=True)
class Stop:
    """One stop of a run: what was likely, whether it was offered, what was ruled ("" while
    nothing), in how many seconds.
    """

    likely: str
    sure: bool
    in_full: bool
    ruled: str
    seconds: float | None


def agreement(stops: Iterable[Stop]) -> Share:
    """How often a ruling that was asked in full was the sure one that had not been shown."""
    tried = [stop for stop in stops if stop.in_full and stop.sure and stop.ruled]
    return share(
        sum((stop.ruled in PASSING) == (stop.likely in PASSING) for stop in tried), len(tried)
    )


def hasty(stops: Sequence[Stop]) -> bool:
    """Whether a run went faster than one can look."""
    took = [stop.seconds for stop in stops if stop.ruled and stop.seconds is not None]
    return len(took) >= HASTY_OF and median(took) < HASTY_SECONDS
