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


def holds(verdict: Verdict | None, demand: float) -> bool:
    """Whether a verdict lets the cell through at a size that demands so much.

    *Passes* holds at every size. *Passes at size* holds at that size and at those that show less.
    """
    if verdict is None or verdict.ruling not in PASSING:
        return False
    return verdict.ruling == "passes" or (
        verdict.demand is not None and verdict.demand >= demand * (1 - 1e-9)
    )


def region_state(cells: Iterable[CellFacts], demand: float) -> str:
    """`holds`, `rebuild`, `rework` or `undecided` at a size.

    People decide regions, not cells. One cell that holds decides for the region. A failing verdict
    speaks of its own cell only: the region fails, by the newest of them, once no attempt that
    nobody ruled on ranks above all that were ruled on, and none has come in since. A pass at a
    smaller size decides nothing at a larger one.
    """
    some = list(cells)
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


def cell_state(cell: CellFacts, cells_of_region: Iterable[CellFacts], demand: float) -> str:
    """The verdict's own word where one stands; else `not needed` once the region is decided; else
    `undecided`.

    A pass given at a size that shows less than this one is `undecided` here: it was never said to
    hold at this size.
    """
    if cell.verdict is not None:
        if cell.verdict.ruling in FAILING or holds(cell.verdict, demand):
            return cell.verdict.ruling
        return "undecided"
    return "undecided" if region_state(cells_of_region, demand) == "undecided" else "not needed"


def done_attempt(
    cells: Iterable[CellFacts],
    regions: Iterable[int],
    demand: float,
    held_up: Container[int] = (),
) -> int | None:
    """The ONE attempt in which every region passes; None if there is none. The newest, if several
    do. What changed outside every region is ruled on by itself: an attempt that it holds up
    (`held_up`) is not done.

    Regions that hold in different attempts do not make a picture done: no single file could be
        delivered.
    """
    wanted = set(regions)
    if not wanted:
        return None
    passed: dict[int, set[int]] = {}
    came: dict[int, float] = {}
    for cell in cells:
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
) -> str:
    """`done`, `changed outside` (all hold in one attempt, which what changed outside them holds
    up), `to assemble` (all hold, in different attempts), `sent back` (all decided, some failed),
    `undecided` or `empty`.
    """
    some, wanted = list(cells), list(regions)
    if not wanted or not some:
        return "empty"
    if done_attempt(some, wanted, demand, held_up) is not None:
        return "done"
    if done_attempt(some, wanted, demand) is not None:
        return "changed outside"
    states = [
        region_state([cell for cell in some if cell.region == region], demand) for region in wanted
    ]
    if "undecided" in states:
        return "undecided"
    return "to assemble" if all(state == "holds" for state in states) else "sent back"


def order_of_attempts(overall: Mapping[int, float | None]) -> list[int]:
    """Attempts, the one that holds best first; those not yet examined last, newest first."""
    return sorted(
        overall,
        key=lambda attempt: (overall[attempt] is None, -(overall[attempt] or 0.0), -attempt),
    )
