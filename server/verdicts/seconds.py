"""Second looks: another supervisor rules without seeing what was ruled before, or a guest answers in
words. What follows from it for the region: the core's `rules.verdicts`.
"""

from __future__ import annotations

from django.db import transaction

from history.models import record
from jobs.models import DeliverySize, Job, Membership
from people.models import Person
from work.clock import now
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import NotAllowed

from .events import ruling as ruling_event
from .models import Cell, SecondLook
from .ruling import Stale, name_of, rule, take_back

#: Whose eyes can be asked for.
ASKABLE = (Membership.Role.SUPERVISOR, Membership.Role.GUEST)


def _held(cell_id: int) -> Cell:
    return (
        Cell.objects.select_for_update()
        .select_related("attempt__picture__job", "region", "current")
        .get(pk=cell_id)
    )


def waiting_in(cell: Cell) -> SecondLook | None:
    """The second look that is waited for in a cell's region."""
    return (
        SecondLook.objects.waiting()
        .filter(cell__region=cell.region_id)
        .select_related("asked", "person", "cell__attempt", "cell__region")
        .first()
    )


@transaction.atomic
def ask_second(cell: Cell, asked: Person, words: str, person: Person) -> SecondLook:
    """Ask somebody else to look at a cell.

    Raises:
        Refused: one asks oneself, or somebody who is neither supervisor nor guest of the job.
        NotAllowed: somebody is asked about this region already.
    """
    row = _held(cell.pk)
    ruling_event.send(sender=Cell, cell=row)
    if asked.pk == person.pk:
        raise Refused("A second look is somebody else's.")
    if row.attempt.picture.job.role_of(asked) not in ASKABLE:
        raise Refused(f"{asked.called} is neither supervisor nor guest of this job.")
    waiting = waiting_in(row)
    if waiting is not None:
        raise NotAllowed(f"{waiting.asked.called} is asked about this region already")
    made = SecondLook.objects.create(cell=row, asked=asked, words=words.strip(), person=person)
    _moved_on(row)
    record(
        row.attempt.picture,
        person,
        "second look asked for",
        name_of(row),
        after={"of": asked.called, "words": made.words},
    )
    return made


def _moved_on(cell: Cell) -> None:
    """Whoever rules by what they saw before is warned."""
    cell.revision += 1
    cell.save(update_fields=["revision"])


@transaction.atomic
def answer_second(
    look: SecondLook, ruling: str, size: DeliverySize | None, words: str
) -> SecondLook:
    """Keep what was answered, word for word.

    Args:
        ruling: a supervisor's; "" for words only.

    Raises:
        NotAllowed: it is not waited for any more.
    """
    cell = _held(look.cell_id)
    row = SecondLook.objects.select_for_update().select_related("asked").get(pk=look.pk)
    if row.answered_at is not None or row.withdrawn_at is not None:
        raise NotAllowed("nobody waits for this answer any more")
    row.ruling, row.size, row.answer, row.answered_at = ruling, size, words.strip(), now()
    row.save()
    _moved_on(cell)
    record(
        cell.attempt.picture,
        row.asked,
        "second look given",
        name_of(cell),
        after={"ruling": ruling, "size": size.name if size else None, "words": row.answer},
    )
    return row


@transaction.atomic
def withdraw_second(look: SecondLook, person: Person) -> None:
    """Ask no longer.

    Raises:
        NotAllowed: it was answered already, or withdrawn.
    """
    cell = _held(look.cell_id)
    row = SecondLook.objects.select_for_update().select_related("asked").get(pk=look.pk)
    if row.answered_at is not None or row.withdrawn_at is not None:
        raise NotAllowed("nobody waits for this answer any more")
    row.withdrawn_at = now()
    row.save()
    _moved_on(cell)
    record(
        cell.attempt.picture,
        person,
        "second look withdrawn",
        name_of(cell),
        before={"of": row.asked.called},
    )


@transaction.atomic
def rule_or_answer(
    cell_id: int, person: Person, ruling: str, seen_revision: int | None, size: DeliverySize | None
) -> None:
    """Rule on a cell; of whoever was asked about it, the ruling is their second look.

    Raises:
        Stale: the cell has changed since.
        Refused: they were asked about another cell of the region, and shall look there first.
    """
    cell = _held(cell_id)
    look = waiting_in(cell)
    if look is None or look.asked_id != person.pk:
        rule(cell_id, person, ruling, seen_revision, size)
        return
    if look.cell_id != cell.pk:
        raise Refused(
            f"{look.person.called} asks you about attempt {look.cell.attempt.number}; rule there first."
        )
    if seen_revision is not None and seen_revision != cell.revision:
        raise Stale
    answer_second(look, ruling, size, "")


@transaction.atomic
def take_back_or_reopen(cell_id: int, person: Person, seen_revision: int | None) -> None:
    """Take the standing verdict back, or one's own second look that nobody ruled after.

    Raises:
        Stale: the cell has changed since, or nothing stands.
    """
    cell = _held(cell_id)
    look = cell.second_looks.standing().filter(asked=person).last()
    ruled_since = cell.current is not None and (
        look is not None
        and look.answered_at is not None
        and cell.current.made_at > look.answered_at
    )
    if look is None or look.answered_at is None or not look.ruling or ruled_since:
        take_back(cell_id, person, seen_revision)
        return
    if seen_revision is not None and seen_revision != cell.revision:
        raise Stale
    before, look.ruling, look.size, look.answered_at = look.ruling, "", None, None
    look.save()
    _moved_on(cell)
    record(cell.attempt.picture, person, "second look taken back", name_of(cell), before=before)


def withdraw_of_leaving(*, job: Job, person: Person, **_: object) -> None:
    """Whoever leaves a job is not waited for."""
    for look in SecondLook.objects.waiting().filter(cell__attempt__picture__job=job, asked=person):
        withdraw_second(look, look.person)
