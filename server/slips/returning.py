"""A retoucher's answer: the file is put by at once, and read and judged by a worker. A dry run
examines it as the answer would be, without handing it in.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from django.db import transaction

from attempts.fitting import refuse_stored
from attempts.intake import Facts
from images.decoding import read_bounded
from people.models import Person
from store.places import arrivals
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import NotAllowed, advance

from .answering import Answer, answering_event, fitting, take_back
from .matching import answered_by, called
from .models import Return, Slip
from .rehearsing import rehearsed


@dataclass(frozen=True)
class Given:
    """What comes with a file: its name, how long it took, what it cost, and by region which changes
    were followed. `dry`: it is to be looked at only.
    """

    name: str
    seconds: float | None = None
    cost: Decimal | None = None
    followed: dict[int, list[str]] = field(default_factory=dict[int, list[str]])
    dry: bool = False


#: States in which a file is taken.
_TAKES = ("sent", "working", "returned", "rechecked")


def stored_name(key: str) -> str:
    """Where a returned file waits."""
    return f"{key[:2]}/{key}"


def _open_slip(slip: Slip) -> Slip:
    """The slip's row, held; it takes a file now: the first, or, while nobody who rules has looked
    at what came back, another instead.

    Raises:
        NotAllowed: it takes no result now. Refused: another file is being examined.
    """
    held = Slip.objects.select_for_update().select_related("picture__job").get(pk=slip.pk)
    event = answering_event(held)
    if event == "replaced" and held.worker_id is None:
        raise NotAllowed("what nobody by hand returned is not replaced by hand")
    advance("slip", held.state, event)
    if held.returns.filter(settled=False).exists():
        raise Refused("a file for this slip is just being looked at; wait for that")
    return held


def _known(slip: Slip, followed: dict[int, list[str]]) -> dict[str, list[str]]:
    parts = {part.region_id: {one["what"] for one in part.changes} for part in slip.regions.all()}
    for region, what in followed.items():
        if region not in parts or not set(what) <= parts[region]:
            raise Refused("only changes that the slip asks for can be followed")
    return {str(region): what for region, what in followed.items()}


@transaction.atomic
def ask_return(slip: Slip, person: Person, given: Given, chunks: Any) -> Return:
    """Put a file by and have it judged.

    Raises:
        NotAllowed: the slip takes no result now.
        Refused: another file is being judged, this one was brought in before, or a change was
            followed that the slip does not ask for.
    """
    held = _open_slip(slip)
    followed = _known(held, given.followed)
    row = Return(
        slip=held,
        person=person,
        name=given.name[:180],
        seconds=given.seconds,
        cost=given.cost,
        dry=given.dry,
        followed=followed,
    )
    written = arrivals().write(stored_name(row.key), chunks)
    row.sha256, row.size = written.sha256, written.size
    try:
        refuse_stored(held.picture.job, row.sha256, row.name)
    except Refused:
        arrivals().remove(stored_name(row.key))
        raise
    row.save()
    _let_go(held, but=row)
    ask("dry run" if row.dry else "return", str(row.pk), held.picture)
    return row


@transaction.atomic
def hand_in(slip: Slip, person: Person, followed: dict[int, list[str]]) -> Return:
    """Hand in the file of the last dry run as it is.

    Raises:
        NotAllowed: there is none, or the slip takes no result now.
    """
    held = _open_slip(slip)
    row = held.returns.select_for_update().last()
    if row is None or not row.dry or row.reason or row.person_id != person.pk:
        raise NotAllowed("no file of a dry run waits here")
    row.dry, row.settled, row.followed = False, False, _known(held, followed) or row.followed
    row.save()
    ask("return", str(row.pk), held.picture)
    return row


def _let_go(slip: Slip, but: Return) -> None:
    """Files of former dry runs are kept no longer."""
    former = slip.returns.filter(dry=True, settled=True).exclude(pk=but.pk)
    keys = list(former.values_list("key", flat=True))

    def remove() -> None:
        for key in keys:
            arrivals().remove(stored_name(key))

    transaction.on_commit(remove)


def run_return(lease: Lease) -> None:
    """Judge the file; it becomes an attempt, or the row says why not. A dry run's row says what the
    recheck would.
    """
    row = Return.objects.select_related("slip__picture__job", "person").get(pk=lease.work.subject)
    if row.settled:
        with lease.writing():
            return
    lease.progress(0.1, "reading")
    data = arrivals().bytes_of(stored_name(row.key), row.sha256)
    answer = _fitting(row, data)
    if answer is None:
        with lease.writing():
            _move(row, data)
        return
    if row.dry:
        report = rehearsed(row.slip, answer, lease.progress)
        with lease.writing():
            Return.objects.filter(pk=row.pk).update(settled=True, report=report)
        return
    facts = Facts(
        "retouched by hand",
        "by hand",
        row.person.called,
        row.seconds,
        row.cost,
        {"slip": row.slip.round},
    )
    followed = {int(region): what for region, what in row.followed.items()}
    with lease.writing():
        if Slip.objects.get(pk=row.slip_id).state in _TAKES:
            take_back(row.slip, answer, facts, row.person, followed)
        Return.objects.filter(pk=row.pk).update(settled=True)
    arrivals().remove(stored_name(row.key))


def _fitting(row: Return, data: bytes) -> Answer | None:
    """The file as the slip's answer; None where it answers another slip.

    Raises:
        Refused: it answers neither.
    """
    reason = None
    try:
        answer = fitting(row.slip, data, row.name)
        if answer.elsewhere["same"]:
            return answer
    except Refused as error:
        answer, reason = None, error
    row.moved = _other(row, data)
    if row.moved is not None:
        return None
    if answer is None:
        assert reason is not None
        raise reason
    return answer


def _other(row: Return, data: bytes) -> Slip | None:
    try:
        found = answered_by(read_bounded(data), row.name, row.person)
    except Refused:
        return None
    return found if found != row.slip else None


def _move(row: Return, data: bytes) -> None:
    """Hand a file in where it belongs. What was said to be followed was said of other regions."""
    assert row.moved is not None
    given = Given(row.name, row.seconds, row.cost, dry=row.dry)
    where = called(row.moved)
    reason = f"{row.name} answers {where}; it was handed in there."
    try:
        ask_return(row.moved, row.person, given, [data])
    except (Refused, NotAllowed) as error:
        reason = f"{row.name} answers {where}, which does not take it: {error}."
    Return.objects.filter(pk=row.pk).update(settled=True, reason=reason, moved=row.moved)
    arrivals().remove(stored_name(row.key))


def return_failed(work: Work) -> None:
    """The file is no answer; the retoucher sees why and can hand in another."""
    row = Return.objects.filter(pk=work.subject, settled=False).first()
    if row is not None:
        Return.objects.filter(pk=row.pk).update(settled=True, reason=work.error)
        arrivals().remove(stored_name(row.key))


def let_go_of_closed() -> None:
    """Files of dry runs whose slips take no answer any more are kept no longer."""
    rows = Return.objects.filter(dry=True, settled=True, reason="").exclude(
        slip__state__in=(*_TAKES, "question")
    )
    for row in rows[:200]:
        arrivals().remove(stored_name(row.key))
        Return.objects.filter(pk=row.pk).update(reason="the slip takes no answer any more")
