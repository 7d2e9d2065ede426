"""What rulings of a shot mean: each speaks of a range of frames of one region."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby

from ..errors import Refused

#: What can be ruled of a range; the last takes back what was ruled there.
RULINGS = ("passes", "rework", "taken back")
#: Of a region in an attempt, of an attempt, of a shot.
STATES = ("passes", "rework", "undecided")


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
