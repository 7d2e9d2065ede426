"""When a picture can be signed off, and what must be known of it then."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Standing:
    """How a picture stands for one attempt that is to leave.

    Attributes:
        attempt: its number.
        examined: whether its newest check is done.
        failing: names of the delivery sizes at which not every region holds in it.
        out: rounds of the slips that are still out.
        terms: why what it is made from cannot be used in this job; one for each reason.
        outside: how many changes outside every region hold it up: to be seen, and not let stand.
        signed: whether the picture is signed off already.
        unanswered: remarks of guests that nobody answered yet.
    """

    attempt: int
    examined: bool
    failing: Sequence[str]
    out: Sequence[int]
    terms: Sequence[str]
    outside: int
    signed: bool = False
    unanswered: int = 0


def refuse_signing(standing: Standing) -> list[str]:
    """Why it cannot be signed off, one sentence each; empty where it can."""
    reasons = []
    if standing.signed:
        return ["It is signed off already; reopen it first."]
    if not standing.examined:
        reasons.append(f"Attempt {standing.attempt} is not examined yet.")
    if standing.failing:
        sizes = " and ".join(standing.failing)
        reasons.append(f"Not every region holds in attempt {standing.attempt} at {sizes}.")
    if standing.out:
        rounds = ", ".join(str(one) for one in standing.out)
        reasons.append(f"Slip {rounds} is still out; withdraw it or wait for it.")
    if standing.unanswered:
        remarks = (
            "A remark waits" if standing.unanswered == 1 else f"{standing.unanswered} remarks wait"
        )
        reasons.append(f"{remarks} for an answer.")
    reasons += [f"It cannot be used: {words}." for words in standing.terms]
    if standing.outside:
        places = "place" if standing.outside == 1 else "places"
        reasons.append(
            f"It changed {standing.outside} {places} outside every region; let that stand or put the original back."
        )
    return reasons
