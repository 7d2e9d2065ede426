"""What rulings of a shot mean: each speaks of a range of frames of one region."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import groupby

from ..errors import Refused
from .slips import grew

#: What can be ruled of a range; the last takes back what was ruled there.
RULINGS = ("passes", "rework", "taken back")
#: Of a region in an attempt, of an attempt, of a shot.
STATES = ("passes", "rework", "undecided")

#: Frames from one to another, both included, counted from 0.
Range = tuple[int, int]


@dataclass(frozen=True)
class Ruled:
    """A ruling of the frames `first` to `last`, both included, counted from 0 in the original.
    `outdated`: its outlines were drawn otherwise since.
    """

    first: int
    last: int
    ruling: str
    outdated: bool = False


def refuse_range(first: int, last: int, frames: int) -> None:
    """Raises: Refused: it is no range of a shot of so many frames."""
    if not 0 <= first <= last < frames:
        raise Refused(f"frames {first} to {last}: the shot has frames 0 to {frames - 1}")


def in_ranges(number: int, ranges: Iterable[Range]) -> bool:
    """Whether one of the ranges has a frame."""
    return any(first <= number <= last for first, last in ranges)


def ranges_of(numbers: Iterable[int]) -> list[Range]:
    """Ascending numbers of frames as ranges that do not adjoin."""
    found: list[Range] = []
    for number in numbers:
        if found and number == found[-1][1] + 1:
            found[-1] = (found[-1][0], number)
        else:
            found.append((number, number))
    return found


def meets(first: int, last: int, ranges: Iterable[Range]) -> bool:
    """Whether the frames first to last share one with the ranges."""
    return any(first <= end and start <= last for start, end in ranges)


def failed_ranges(stands: Iterable[Ruled]) -> list[Range]:
    """The frames that a slip takes: those ruled *rework*."""
    return [(one.first, one.last) for one in stands if one.ruling == "rework"]


def carried_over(stands: Iterable[Ruled], kept: Sequence[Range]) -> list[Range]:
    """The frames whose pass goes over to a returned attempt: those proven the same to the bit."""
    passing = {
        number
        for one in stands
        if one.ruling == "passes"
        for number in range(one.first, one.last + 1)
        if in_ranges(number, kept)
    }
    return ranges_of(sorted(passing))


#: What became of a flaw that a range was sent back for, from the best to the worst.
OUTCOMES = ("fixed", "new flaw", "still there", "worse")


@dataclass(frozen=True)
class Flaw:
    """A flaw of a shot, as its check said. `far`: how far its measure lies beyond what is natural, in the
    widths of that.
    """

    kind: str
    first: int
    last: int
    far: float


def outcome(
    before: Iterable[Flaw], after: Iterable[Flaw], sent: Sequence[Range]
) -> tuple[str, list[tuple[str, str]]]:
    """What became of a region that was sent back for some frames: only flaws that lie in these count.

    Returns:
        The worst word of `OUTCOMES`, and one for each kind of flaw, those that are new last.
    """
    worst = lambda flaws: {
        kind: max(one.far for one in flaws if one.kind == kind)
        for kind in dict.fromkeys(one.kind for one in flaws)
    }
    had = worst([one for one in before if meets(one.first, one.last, sent)])
    has = worst([one for one in after if meets(one.first, one.last, sent)])
    words: list[tuple[str, str]] = []
    for kind, far in had.items():
        if kind not in has:
            words.append((kind, "fixed"))
        else:
            words.append((kind, "worse" if grew(far, has[kind]) else "still there"))
    words += [(kind, "new flaw") for kind in has if kind not in had]
    return max((word for _, word in words), key=OUTCOMES.index, default="fixed"), words


def standing(given: Iterable[Ruled], frames: int) -> list[Ruled]:
    """What stands after all rulings, in the order in which they were given: of each frame the newest,
    in ranges that neither overlap nor adjoin others of the same ruling.

    What passed for other outlines than those that stand says nothing of these; what failed still fails.
    """
    by_frame: list[str | None] = [None] * frames
    for one in given:
        gone = one.ruling == "taken back" or (one.outdated and one.ruling == "passes")
        ruling = None if gone else one.ruling
        by_frame[one.first : one.last + 1] = [ruling] * (one.last + 1 - one.first)
    found: list[Ruled] = []
    for ruling, run in groupby(range(frames), key=lambda number: by_frame[number]):
        numbers = list(run)
        if ruling is not None:
            found.append(Ruled(numbers[0], numbers[-1], ruling))
    return found


def region_state(stands: Iterable[Ruled], frames: int) -> str:
    """`rework` if any frame is to be reworked, `passes` if every frame passes, otherwise `undecided`."""
    ranges = list(stands)
    if any(one.ruling == "rework" for one in ranges):
        return "rework"
    passing = sum(one.last - one.first + 1 for one in ranges if one.ruling == "passes")
    return "passes" if passing == frames else "undecided"


def shot_state(regions: Iterable[str]) -> str:
    """The state of an attempt at a shot by those of its regions: `rework`, `undecided` or `passes`."""
    states = list(regions)
    if "rework" in states:
        return "rework"
    return "passes" if states and all(one == "passes" for one in states) else "undecided"
