"""Correcting a job and who takes part in it; everything with history."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import ProtectedError

from history.models import record_job
from jobs.events import judged_for_changed, leaving
from jobs.models import DeliverySize, Job, Membership
from people.models import Person
from zweiblick_core.errors import Refused
from zweiblick_core.rules.rights import USES
from zweiblick_core.visibility import parse_size


@dataclass(frozen=True)
class SizeEdit:
    """A delivery size as it is to be: one there is (`id`) or a new one (None)."""

    id: int | None
    name: str
    spec: str


@dataclass(frozen=True)
class JobEdit:
    """A job as it is to be; what is None stays. `deadline` counts only with `deadline_given`;
    `sizes`: all of them, the first is judged for.
    """

    name: str | None = None
    client: str | None = None
    use: str | None = None
    deadline: datetime | None = None
    deadline_given: bool = False
    sizes: list[SizeEdit] | None = None


def edit_job(job: Job, edit: JobEdit, person: Person) -> Job:
    """Correct a job.

    Raises:
        Refused: a size is none, is named like another, or rulings stand at one that is to go; a use
            that there is not; no name. Nothing is changed then.
    """
    if edit.use is not None and edit.use not in USES:
        raise Refused(f"a job is for one of: {', '.join(USES)}")
    if edit.name is not None and not edit.name.strip():
        raise Refused("A job needs a name.")
    try:
        with transaction.atomic():
            row = Job.objects.select_for_update().get(pk=job.pk)
            before = said_of(row)
            for name in ("name", "client", "use"):
                value = getattr(edit, name)
                if value is not None:
                    setattr(row, name, value.strip())
            if edit.deadline_given:
                row.deadline = edit.deadline
            row.save()
            if edit.sizes is not None:
                _set_sizes(row, edit.sizes)
            after = said_of(row)
            changed = [name for name in after if after[name] != before[name]]
            if changed:
                record_job(
                    row,
                    person,
                    "job edited",
                    "",
                    before={name: before[name] for name in changed},
                    after={name: after[name] for name in changed},
                )
    except IntegrityError as error:
        raise Refused("Two delivery sizes have the same name.") from error
    return row


def said_of(job: Job) -> dict[str, Any]:
    """What history says of a job."""
    return {
        "name": job.name,
        "client": job.client,
        "use": job.use,
        "deadline": job.deadline.isoformat() if job.deadline else None,
        "sizes": [[size.name, size.spec] for size in DeliverySize.objects.filter(job=job)],
    }


def _set_sizes(job: Job, wanted: list[SizeEdit]) -> None:
    if not wanted:
        raise Refused("A job needs one delivery size at least.")
    judged_for = job.sizes.first()
    for size in wanted:
        parse_size(size.spec)
    rows = {size.pk: size for size in DeliverySize.objects.filter(job=job)}
    kept = {size.id for size in wanted if size.id is not None}
    if not kept <= set(rows):
        raise Refused("The job has no such delivery size.")
    if len({size.name.strip().lower() for size in wanted}) < len(wanted):
        raise Refused("Two delivery sizes have the same name.")
    for pk, row in rows.items():
        if pk not in kept:
            try:
                row.delete()
            except ProtectedError as error:
                raise Refused(
                    f"rulings were given at “{row.name}”; it stays, so that they can be understood"
                ) from error
    # Names change places: out of each other's way first.
    for number, size in enumerate(wanted):
        if size.id is not None:
            DeliverySize.objects.filter(pk=size.id).update(name=f"\x00{number}")
    for position, size in enumerate(wanted):
        row = rows[size.id] if size.id is not None else DeliverySize(job=job)
        row.name, row.spec, row.position = size.name.strip(), size.spec, position
        row.save()
    if judged_for is None or judged_for.spec != wanted[0].spec:
        judged_for_changed.send(sender=Job, job=job)


def set_role(job: Job, member: Person, role: str, person: Person) -> None:
    """Give somebody another role in a job.

    Raises:
        Refused: they take no part, or it would be left without a supervisor.
    """
    with transaction.atomic():
        row = _member(job, member)
        if row.role == role:
            return
        _refuse_last(row)
        leaving.send(sender=Membership, job=row.job, person=member)
        before, row.role = row.role, role
        row.save()
        record_job(row.job, person, "role changed", member.called, before=before, after=role)


def remove(job: Job, member: Person, person: Person) -> None:
    """Take somebody out of a job; what they said and did stays.

    Raises:
        Refused: they take no part, have slips to work, or it would be left without a supervisor.
    """
    with transaction.atomic():
        row = _member(job, member)
        _refuse_last(row)
        leaving.send(sender=Membership, job=row.job, person=member)
        role = row.role
        row.delete()
        record_job(row.job, person, "taken out", member.called, before=role)


def _member(job: Job, member: Person) -> Membership:
    # The job is held, so that two supervisors never take each other out at once.
    Job.objects.select_for_update().get(pk=job.pk)
    row = Membership.objects.filter(job=job, person=member).select_related("job").first()
    if row is None:
        raise Refused(f"{member.called} takes no part in this job")
    return row


def _refuse_last(row: Membership) -> None:
    if row.role != Membership.Role.SUPERVISOR:
        return
    others = Membership.objects.filter(job=row.job, role=Membership.Role.SUPERVISOR)
    if not others.exclude(pk=row.pk).exists():
        raise Refused("A job keeps one supervisor at least.")
