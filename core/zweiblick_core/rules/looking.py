"""What must be seen before something is said, and in which order findings are looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

#: What must have been seen of a cell before findings are shown: people first, machine second.
OPENS_MARKS = ("original", "attempt")
#: From this share of a region under visible findings on, one ruling is offered: it does not hold.
COVERED = 0.5
#: A size that shows more than this many output pixels for one of the original is passed only once
#: the picture was seen at 100 %.
SEEN_WHOLE = 0.5


@dataclass(frozen=True)
class Weighed:
    """One finding as the order sees it: its number, its group, how visible it is at the size
    (0..1), how sure the machine is (0..1).
    """

    finding: int
    group: str
    severity: float
    confidence: float

    @property
    def weight(self) -> float:
        """What is hardly sure weighs hardly anything, however much it would show."""
        return self.severity * self.confidence


def order_of_findings(findings: Sequence[Weighed]) -> list[int]:
    """Findings in the order they are walked: groups worst first, within a group worst first."""
    worst: dict[str, float] = {}
    for one in findings:
        worst[one.group] = max(worst.get(one.group, 0.0), one.weight)
    ordered = sorted(findings, key=lambda one: (-worst[one.group], one.group, -one.weight))
    return [one.finding for one in ordered]


def covers(shares: Mapping[str, float]) -> dict[str, bool]:
    """By size, whether findings cover so much of a region that one ruling is offered."""
    return {size: share >= COVERED for size, share in shares.items()}


def must_be_seen_whole(scale: float) -> bool:
    """Whether passing at a size asks for a look at 100 %. `scale`: output pixels for one of the
    original.
    """
    return scale > SEEN_WHOLE
