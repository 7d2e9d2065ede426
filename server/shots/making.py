"""Shots made of footage, and further attempts at them: whole or not at all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db import transaction
from django.db.models import Max

from history.models import record_job
from jobs.models import Job
from people.models import Person
from zweiblick_core.errors import Refused
from zweiblick_core.rules.pairing import pair

from .checking import ask_check, ask_regions
from .models import Footage, Shot, ShotAttempt


@dataclass(frozen=True)
class Brought:
    """An attempt that is brought in: its footage, and what is known of how it was made."""

    footage: int
    method: str
    maker: str = ""


@dataclass(frozen=True)
class Family:
    """What belongs together by its names. `original`, `masks`: footage, None where there is none."""

    name: str
    original: Footage | None
    results: list[Footage]
    masks: Footage | None


def families(waiting: Sequence[Footage]) -> list[Family]:
    """Footage that waits, paired by name as files of pictures are."""
    by_name = {row.name: row for row in waiting if row.state == "ready"}
    return [
        Family(
            group.name,
            by_name.get(group.original or ""),
            [by_name[name] for name in group.results],
            by_name.get(group.mask or ""),
        )
        for group in pair(by_name)
    ]


def _waiting(job: Job, pk: int, holds: str) -> Footage:
    row = (
        Footage.objects.waiting().select_for_update().select_related("blob").filter(job=job, pk=pk)
    ).first()
    if row is None:
        raise Refused("Some footage is not there any more, or belongs to a shot already.")
    if row.state != "ready":
        raise Refused(f"{row.name}: is not ready")
    if row.holds != holds:
        raise Refused(f"{row.name}: holds {row.holds}, not {holds}")
    return row


@transaction.atomic
def make_shot(
    job: Job,
    name: str,
    original: int,
    attempts: Sequence[Brought],
    masks: int | None,
    person: Person,
) -> Shot:
    """Make a shot of footage that waits.

    Raises:
        Refused: some of it is not there, is no footage of this sort, or is of another size.
    """
    Job.objects.select_for_update().get(pk=job.pk)
    if not name.strip():
        raise Refused("A shot needs a name.")
    first = _waiting(job, original, "frames")
    outlines = _waiting(job, masks, "masks") if masks is not None else None
    if outlines is not None and (outlines.width, outlines.height) != (first.width, first.height):
        raise Refused(
            f"{outlines.name}: is {outlines.width} x {outlines.height}, {first.name} {first.width} x {first.height}"
        )
    number = (job.shots.aggregate(most=Max("number"))["most"] or 0) + 1
    shot = Shot.objects.create(
        job=job, number=number, name=name.strip()[:160], original=first, masks=outlines
    )
    record_job(job, person, "shot brought in", shot.name, after={"frames": first.frames})
    for brought in attempts:
        _add(shot, brought, person)
    ask_regions(shot)
    return shot


@transaction.atomic
def add_attempt(shot: Shot, brought: Brought, person: Person) -> ShotAttempt:
    """Bring a further attempt in, and have it examined.

    Raises:
        Refused: its footage is not there, or holds masks.
    """
    row = Shot.objects.select_for_update().get(pk=shot.pk)
    attempt = _add(row, brought, person)
    if row.regions.exists():
        ask_check(attempt)
    else:
        ask_regions(row)
    return attempt


def _add(shot: Shot, brought: Brought, person: Person) -> ShotAttempt:
    footage = _waiting(shot.job, brought.footage, "frames")
    if footage.pk == shot.original_id:
        raise Refused(f"{footage.name}: is the original")
    if not brought.method.strip():
        raise Refused(f"{footage.name}: say which method made it")
    number = (shot.attempts.aggregate(most=Max("number"))["most"] or 0) + 1
    attempt = ShotAttempt.objects.create(
        shot=shot,
        number=number,
        footage=footage,
        method=brought.method.strip()[:120],
        maker=brought.maker[:120],
    )
    record_job(
        shot.job,
        person,
        "attempt at a shot brought in",
        f"{shot.name}, attempt {number}",
        after={"method": attempt.method, "file": footage.name},
    )
    return attempt


@transaction.atomic
def forget_footage(footage: Footage) -> None:
    """Forget footage that is part of no shot. Its bytes go once nothing refers to them.

    Raises:
        Refused: it belongs to a shot.
    """
    row = Footage.objects.waiting().select_for_update().filter(pk=footage.pk).first()
    if row is None:
        raise Refused(f"{footage.name}: belongs to a shot")
    row.delete()
