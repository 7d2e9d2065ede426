"""What a set of verdicts means: for a cell, a region, a picture."""

from __future__ import annotations

import hashlib
from collections.abc import Container, Iterable, Mapping
from dataclasses import dataclass

PASSING = ("passes", "passes at size")
FAILING = ("rework", "rebuild")
RULINGS = PASSING + FAILING


@dataclass(frozen=True)
class Verdict:
    """One standing verdict.

    Attributes:
        ruling: of `RULINGS`.
        demand: how much the size asks for that it was given at (output pixels for one pixel of the
            original, by
            pixels a degree: larger shows more); None for the rulings that hold at every size.
        given: its place in the order of all verdicts and attempts of the picture; later is larger.
    """

    ruling: str
    demand: float | None
    given: float


@dataclass(frozen=True)
class CellFacts:
    """One cell as the rules see it: which attempt and region, when the attempt came, the standing
    verdict, how well the machine thinks it holds.
    """

    attempt: int
    region: int
    came: float
    verdict: Verdict | None
    overall: float | None = None


@dataclass(frozen=True)
class SecondLook:
    """Another pair of eyes was asked for at one cell of a region.

    Attributes:
        attempt: of that cell.
        answered: the place of the answer in the order of all verdicts; None while it is waited for.
        ruling: what was answered, given without knowing the asker's; None: words only.
    """

    attempt: int
    answered: float | None
    ruling: Verdict | None = None


def holds(verdict: Verdict | None, demand: float) -> bool:
    """Whether a verdict lets the cell through at a size that demands so much.

    *Passes* holds at every size. *Passes at size* holds at that size and at those that show less.
    """
    if verdict is None or verdict.ruling not in PASSING:
        return False
    return verdict.ruling == "passes" or (
        verdict.demand is not None and verdict.demand >= demand * (1 - 1e-9)
    )


def contested(look: SecondLook, cells: Iterable[CellFacts], demand: float) -> bool:
    """Whether a second look calls for another ruling: it says otherwise than the cell's standing
    verdict, or something in words, and nobody has ruled there since.
    """
    own = next((cell.verdict for cell in cells if cell.attempt == look.attempt), None)
    if look.answered is None or own is None or own.given > look.answered:
        return False
    return look.ruling is None or holds(look.ruling, demand) != holds(own, demand)


def region_state(
    cells: Iterable[CellFacts], demand: float, second: SecondLook | None = None
) -> str:
    """`holds`, `rebuild`, `rework`, `asked` or `undecided` at a size.

    While a second look is waited for the region is `asked`; where it calls for another ruling, the
    region is undecided.

    People decide regions, not cells. One cell that holds decides for the region. A failing verdict
    speaks of its own cell only: the region fails, by the newest of them, once no attempt that
    nobody ruled on ranks above all that were ruled on, and none has come in since. A pass at a
    smaller size decides nothing at a larger one.
    """
    some = list(cells)
    if second is not None and second.answered is None:
        return "asked"
    if second is not None and contested(second, some, demand):
        return "undecided"
    if any(holds(cell.verdict, demand) for cell in some):
        return "holds"
    failing = [cell for cell in some if cell.verdict is not None and cell.verdict.ruling in FAILING]
    if not failing:
        return "undecided"
    newest = max(failing, key=lambda cell: cell.verdict.given if cell.verdict else 0.0)
    assert newest.verdict is not None
    open_cells = [cell for cell in some if cell.verdict is None]
    if any(cell.came > newest.verdict.given for cell in open_cells):
        return "undecided"
    ranked = order_of_attempts({cell.attempt: cell.overall for cell in some})
    ruled = {cell.attempt for cell in some if cell.verdict is not None}
    if ranked[0] not in ruled and any(
        cell.attempt == ranked[0] and cell.overall is not None for cell in open_cells
    ):
        return "undecided"
    return newest.verdict.ruling


def holder(cells: Iterable[CellFacts], demand: float) -> int | None:
    """The attempt in which a region holds; of several the one that the machine ranks best, then the
    newest.
    """
    held = [cell for cell in cells if holds(cell.verdict, demand)]
    best = max(
        held,
        key=lambda cell: (cell.overall if cell.overall is not None else -1.0, cell.came),
        default=None,
    )
    return best.attempt if best else None


#: One folded cell in so many is asked for all the same: what ranks low is never seen,
#: and so never proves the ranking wrong.
ASKED_ONE_IN = 20


def asked_anyway(cell: int, state: str) -> bool:
    """Whether a folded cell is asked for all the same. Drawn by lot once for each cell: its number
    decides, so that it stays asked for until it is ruled on.
    """
    return (
        state == "not needed"
        and int.from_bytes(hashlib.sha256(f"asked anyway {cell}".encode()).digest()[:4], "big")
        % ASKED_ONE_IN
        == 0
    )


def cell_state(
    cell: CellFacts,
    cells_of_region: Iterable[CellFacts],
    demand: float,
    second: SecondLook | None = None,
) -> str:
    """The verdict's own word where one stands; else `not needed` once the region is decided; else
    `undecided`.

    A pass given at a size that shows less than this one is `undecided` here: it was never said to
    hold at this size.
    """
    some = list(cells_of_region)
    if second is not None and cell.attempt == second.attempt:
        if second.answered is None:
            return "asked"
        if contested(second, some, demand):
            return "undecided"
    if cell.verdict is not None:
        if cell.verdict.ruling in FAILING or holds(cell.verdict, demand):
            return cell.verdict.ruling
        return "undecided"
    return "undecided" if region_state(some, demand, second) == "undecided" else "not needed"


def done_attempt(
    cells: Iterable[CellFacts],
    regions: Iterable[int],
    demand: float,
    held_up: Container[int] = (),
    seconds: Mapping[int, SecondLook] | None = None,
) -> int | None:
    """The ONE attempt in which every region passes; None if there is none. The newest, if several
    do. What changed outside every region is ruled on by itself: an attempt that it holds up
    (`held_up`) is not done; nor is any while a second look at a region (`seconds`) is waited for or
    calls for another ruling.

    Regions that hold in different attempts do not make a picture done: no single file could be
        delivered.
    """
    wanted, some = set(regions), list(cells)
    for region, look in (seconds or {}).items():
        here = [cell for cell in some if cell.region == region]
        if region in wanted and (look.answered is None or contested(look, here, demand)):
            return None
    if not wanted:
        return None
    passed: dict[int, set[int]] = {}
    came: dict[int, float] = {}
    for cell in some:
        if holds(cell.verdict, demand):
            passed.setdefault(cell.attempt, set()).add(cell.region)
            came[cell.attempt] = cell.came
    complete = [
        attempt for attempt, held in passed.items() if wanted <= held and attempt not in held_up
    ]
    return max(complete, key=lambda attempt: came[attempt], default=None)


def picture_state(
    cells: Iterable[CellFacts],
    regions: Iterable[int],
    demand: float,
    held_up: Container[int] = (),
    seconds: Mapping[int, SecondLook] | None = None,
) -> str:
    """`done`, `changed outside` (all hold in one attempt, which what changed outside them holds
    up), `to assemble` (all hold, in different attempts), `sent back` (all decided, some failed),
    `asked` (a second look is waited for, and nothing else), `undecided` or `empty`.
    """
    looks = seconds or {}
    some, wanted = list(cells), list(regions)
    if not wanted or not some:
        return "empty"
    if done_attempt(some, wanted, demand, held_up, looks) is not None:
        return "done"
    if done_attempt(some, wanted, demand, (), looks) is not None:
        return "changed outside"
    states = [
        region_state([cell for cell in some if cell.region == region], demand, looks.get(region))
        for region in wanted
    ]
    for waiting in ("undecided", "asked"):
        if waiting in states:
            return waiting
    return "to assemble" if all(state == "holds" for state in states) else "sent back"


def order_of_attempts(overall: Mapping[int, float | None]) -> list[int]:
    """Attempts, the one that holds best first; those not yet examined last, newest first."""
    return sorted(
        overall,
        key=lambda attempt: (overall[attempt] is None, -(overall[attempt] or 0.0), -attempt),
    )
