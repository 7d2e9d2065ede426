"""What changed outside every region belongs to the attempt: it is ruled on there, and holds the
attempt up until it is.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..visibility import STEPS

#: What a person says of a change outside. *Agreed base*: it is wanted, and further attempts are
#: judged against it. *Unread*: an answer taken back.
ANSWERS = ("confirmed", "not there", "acceptable", "agreed base", "unread")
LET_STAND = ("not there", "acceptable", "agreed base")


@dataclass(frozen=True)
class Change:
    """One change outside every region, at one size.

    Attributes:
        answer: of `ANSWERS`.
        severity: 0..1, how visible it is at the size; bar: the client's, from which it fails.
    """

    answer: str
    severity: float
    bar: float = 0.0


def holds_up(change: Change) -> bool:
    """Whether a change keeps its attempt from being done: it can be seen, the client minds, and
    nobody lets it stand.
    """
    seen = change.severity >= STEPS[1] and change.severity >= change.bar
    return seen and change.answer not in LET_STAND


def held_up(changes: Iterable[Change]) -> bool:
    """Whether any of an attempt's changes does."""
    return any(holds_up(change) for change in changes)
