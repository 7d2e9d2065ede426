"""A retoucher's answer: the file is put by at once, and read and judged by a worker."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.db import transaction

from attempts.fitting import refuse_stored
from attempts.intake import Facts
from people.models import Person
from store.places import arrivals
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import advance

from .models import Return, Slip
from .sending import fitting, take_back


def stored_name(key: str) -> str:
    """Where a returned file waits."""
    return f"{key[:2]}/{key}"


@transaction.atomic
def ask_return(
    slip: Slip,
    person: Person,
    name: str,
    chunks: Any,
    seconds: float | None,
    cost: Decimal | None,
) -> Return:
    """Put a file by and have it judged.

    Raises:
        NotAllowed: the slip takes no result now.
        Refused: another file is being judged, or this one was brought in before.
    """
    held = Slip.objects.select_for_update().select_related("picture__job").get(pk=slip.pk)
    advance("slip", held.state, "returned")
    if held.returns.filter(settled=False).exists():
        raise Refused("a file for this slip is just being looked at; wait for that")
    row = Return(slip=held, person=person, name=name[:180], seconds=seconds, cost=cost)
    written = arrivals().write(stored_name(row.key), chunks)
    row.sha256, row.size = written.sha256, written.size
    try:
        refuse_stored(held.picture.job, row.sha256, row.name)
    except Refused:
        arrivals().remove(stored_name(row.key))
        raise
    row.save()
    ask("return", str(row.pk), held.picture)
    return row


def run_return(lease: Lease) -> None:
    """Judge the file; it becomes an attempt, or the row says why not."""
    row = Return.objects.select_related("slip__picture__job", "person").get(pk=lease.work.subject)
    if row.settled:
        with lease.writing():
            return
    lease.progress(0.1, "reading")
    data = arrivals().bytes_of(stored_name(row.key), row.sha256)
    whole = fitting(row.slip, data, row.name)
    facts = Facts(
        "retouched by hand",
        "by hand",
        row.person.called,
        row.seconds,
        row.cost,
        {"slip": row.slip.round},
    )
    with lease.writing():
        if row.slip.state in ("sent", "working"):
            take_back(row.slip, data, row.name, facts, row.person, whole)
        Return.objects.filter(pk=row.pk).update(settled=True)
    arrivals().remove(stored_name(row.key))


def return_failed(work: Work) -> None:
    """The file is no answer; the retoucher sees why and can hand in another."""
    row = Return.objects.filter(pk=work.subject, settled=False).first()
    if row is not None:
        Return.objects.filter(pk=row.pk).update(settled=True, reason=work.error)
        arrivals().remove(stored_name(row.key))
