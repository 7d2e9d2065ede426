"""What became of a region that was sent back: fixed, still there, worse, new flaw. Only what lies
beyond the natural spread counts as a change.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

#: From the best to the worst; a region's word is the worst of its findings' words.
WORDS = ("fixed", "to be looked at", "new flaw", "still there", "worse")
#: Sending a region back a third time is no good any more: rebuild by hand.
MOST_ROUNDS = 3


@dataclass(frozen=True)
class Seen:
    """A finding before or after: kind, bbox [x, y, w, h], its measure's value and natural range,
    severity at the size judged for.
    """

    kind: str
    bbox: Sequence[float]
    value: float
    low: float
    high: float
    severity: float = 0.0
    #: Outlined by a person: no measure tells that it is gone.
    by_person: bool = False

    @property
    def spread(self) -> float:
        """How wide what is natural is, in the measure's own unit; never zero."""
        return max(abs(self.high - self.low), 1e-6)

    @property
    def beyond(self) -> float:
        """How far it lies outside nature, in natural spreads; a measure may leave its range at
        either end.
        """
        return max(self.value - self.high, self.low - self.value, 0.0) / self.spread


@dataclass(frozen=True)
class Outcome:
    """`word` of `WORDS`; `kinds`: for each finding's kind what became of it, as (kind, word) in the
    order sent, new ones last.
    """

    word: str
    kinds: tuple[tuple[str, str], ...]


def _meets(first: Sequence[float], second: Sequence[float], gap: float = 6.0) -> bool:
    return (
        first[0] - gap < second[0] + second[2]
        and second[0] - gap < first[0] + first[2]
        and first[1] - gap < second[1] + second[3]
        and second[1] - gap < first[1] + first[3]
    )


def grew(before: float, after: float) -> bool:
    """Whether a flaw lies farther beyond what is natural than before, by more than chance; both in
    natural spreads.
    """
    return after - before > max(1.0, 0.25 * before)


def compared(before: Seen, after: Seen) -> str:
    """One flaw that is there again: "worse" or "still there".

    Worse is what moved away from nature by more than a natural spread and by a quarter of what it
    was; or what is plainly more visible.
    Less than that is chance: the same place measured twice differs by about as much.
    """
    grown = after.beyond - before.beyond
    if grew(before.beyond, after.beyond) and after.severity >= before.severity - 0.02:
        return "worse"
    return "worse" if after.severity - before.severity > 0.25 and grown > 0 else "still there"


def outcome(
    before: Iterable[Seen], after: Iterable[Seen], others_before: Iterable[Seen] = ()
) -> Outcome:
    """What became of a region.

    Args:
        before: what it was sent back for.
        after: what the check of the returned attempt found there.
        others_before: what else had been found there before (answered *not there* or *acceptable*):
            not new when it is there again.
    """
    sent, found, known = list(before), list(after), list(others_before)
    words: list[tuple[str, str]] = []
    used: set[int] = set()
    for flaw in sent:
        again = [
            i
            for i, other in enumerate(found)
            if other.kind == flaw.kind and _meets(flaw.bbox, other.bbox)
        ]
        used |= set(again)
        if not again:
            # What only a person saw, only a person can call fixed.
            words.append((flaw.kind, "to be looked at" if flaw.by_person else "fixed"))
            continue
        if flaw.by_person:
            words.append((flaw.kind, "still there"))
            continue
        words.append((flaw.kind, max((compared(flaw, found[i]) for i in again), key=WORDS.index)))
    for i, other in enumerate(found):
        if i not in used and not any(
            other.kind == old.kind and _meets(old.bbox, other.bbox) for old in known
        ):
            words.append((other.kind, "new flaw"))
    worst = max((word for _, word in words), key=WORDS.index, default="fixed")
    return Outcome(worst, tuple(words))


def may_send(rulings: dict[int, str]) -> list[int]:
    """Regions that a slip takes: those ruled *rework* or *rebuild*. Keys are regions, values the
    standing ruling of the cell in question.
    """
    return [region for region, ruling in rulings.items() if ruling in ("rework", "rebuild")]


@dataclass(frozen=True)
class Failed:
    """A cell that is ruled *rework* or *rebuild*. `overall`: 0..1, None while it was not examined."""

    cell: int
    region: int
    attempt: int
    overall: float | None


def to_send_back(failed: Iterable[Failed]) -> list[Failed]:
    """Of each region the cell that is worked again: the one that ranks best. Where some are alike,
    the newest attempt's, since it knows what was asked before.
    """
    best: dict[int, Failed] = {}
    for one in failed:
        rank = (one.overall is not None, one.overall or 0.0, one.attempt)
        held = best.get(one.region)
        if held is None or rank > (held.overall is not None, held.overall or 0.0, held.attempt):
            best[one.region] = one
    return [best[region] for region in sorted(best)]


def worked_attempt(chosen: Sequence[Failed]) -> int:
    """The attempt that a slip works on: the one most of its regions come from, the newest of
    several.
    """
    attempts = [one.attempt for one in chosen]
    return max(attempts, key=lambda attempt: (attempts.count(attempt), attempt))


def stop_words(rounds: int) -> str | None:
    """When to stop sending back, in words; None while another round may help."""
    if rounds >= MOST_ROUNDS:
        return f"this was sent back {rounds} times: each further pass wears texture out; rebuild by hand from the original"
    return None


def carries(ruling: str | None, same: bool) -> bool:
    """Whether a verdict goes over to a later attempt: a pass, and only where the pixels are proven
    the same.
    """
    return same and ruling in ("passes", "passes at size")
