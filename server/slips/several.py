"""Slips of many pictures: written at once from all that waits to be sent back, sent at once to one
recipient.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from django.db import transaction

from attempts.intake import locked_picture
from checks.models import CheckedRegion
from jobs.models import Membership, Picture
from people.models import Person
from verdicts.models import Cell
from zweiblick_core.errors import Refused
from zweiblick_core.rules.slips import Failed, to_send_back, worked_attempt
from zweiblick_core.rules.verdicts import PASSING

from .models import OPEN, Slip, SlipRegion
from .sending import send_slip
from .writing import Edit, Recipient, edit_slip, failed_cells, write_for

#: So many are written or sent at once.
MOST = 100


@dataclass(frozen=True)
class Waiting:
    """What of one picture waits to be sent back: of each region the failed cell that ranks best."""

    picture: Picture
    cells: list[Cell]


def _overall(cells: Iterable[Cell]) -> dict[tuple[int, int], float | None]:
    """(attempt, region): how well it holds, as the newest finished check says."""
    rows = (
        CheckedRegion.objects.filter(
            check_run__attempt__in={cell.attempt_id for cell in cells}, check_run__state="done"
        )
        .order_by("check_run_id")
        .values_list("check_run__attempt_id", "region_version__region_id", "overall")
    )
    return {(attempt, region): overall for attempt, region, overall in rows}


def waiting(pictures: list[Picture]) -> list[Waiting]:
    """What waits to be sent back: regions that failed, hold in no attempt, and are on no slip that
    is out. In a number of queries that does not grow with the pictures.
    """
    failed = failed_cells(pictures)
    regions = {cell.region_id for cell in failed}
    held = set(
        Cell.objects.filter(
            region__in=regions, attempt__withdrawn_at=None, current__ruling__in=PASSING
        ).values_list("region_id", flat=True)
    )
    out = set(
        SlipRegion.objects.filter(region__in=regions, slip__state__in=OPEN).values_list(
            "region_id", flat=True
        )
    )
    open_ = [cell for cell in failed if cell.region_id not in held | out]
    overall = _overall(open_)
    by_picture: dict[int, list[Cell]] = defaultdict(list)
    for cell in open_:
        by_picture[cell.attempt.picture_id].append(cell)
    found = []
    for picture in pictures:
        rows = {cell.pk: cell for cell in by_picture.get(picture.pk, ())}
        chosen = to_send_back(
            Failed(
                cell.pk,
                cell.region_id,
                cell.attempt_id,
                overall.get((cell.attempt_id, cell.region_id)),
            )
            for cell in rows.values()
        )
        if chosen:
            found.append(Waiting(picture, [rows[one.cell] for one in chosen]))
    return found


def supervised(person: Person) -> list[Picture]:
    """The standing pictures of the jobs that somebody supervises, the nearest deadline first."""
    jobs = Membership.objects.filter(person=person, role=Membership.Role.SUPERVISOR).values("job")
    return list(
        Picture.objects.filter(job__in=jobs).select_related("job").order_by("job", "number")
    )


@transaction.atomic
def write_slips(pictures: list[Picture], person: Person) -> list[Slip]:
    """A slip for each of some pictures, from what waits there; all or none.

    Raises:
        Refused: nothing of one of them waits, or there are too many.
    """
    if len(pictures) > MOST:
        raise Refused(f"{MOST} slips are written at once at most")
    held = [locked_picture(pk) for pk in sorted({picture.pk for picture in pictures})]
    found = waiting(held)
    without = {picture.pk for picture in held} - {one.picture.pk for one in found}
    if without:
        names = ", ".join(picture.name for picture in held if picture.pk in without)
        raise Refused(f"nothing waits to be sent back of {names}")
    return [_written(one, person) for one in found]


def _written(one: Waiting, person: Person) -> Slip:
    attempts = {cell.attempt_id: cell.attempt for cell in one.cells}
    works_on = worked_attempt(
        [Failed(cell.pk, cell.region_id, cell.attempt_id, None) for cell in one.cells]
    )
    return write_for(one.picture, attempts[works_on], one.cells, person)


@transaction.atomic
def send_slips(
    slips: list[Slip], person: Person, to: Recipient, due: date | None, note: str | None
) -> list[Slip]:
    """Send slips that were written to one recipient; all or none.

    Args:
        note: words on each of them; None: each keeps its own.

    Raises:
        Refused: one of them cannot go there; they are to leave the house, for which what leaves of
            each must be seen first; or there are too many.
        NotAllowed: one of them was sent already.
    """
    if to.tier:
        raise Refused("what leaves the house is seen first: send those one by one")
    if len(slips) > MOST:
        raise Refused(f"{MOST} slips are sent at once at most")
    sent = []
    # In one order always, so that two people who send at once do not wait for each other.
    for slip in sorted(slips, key=lambda one: one.pk):
        edit_slip(slip, person, Edit(note=note, to=to, due=due, due_given=True))
        sent.append(send_slip(slip, person))
    return sent
