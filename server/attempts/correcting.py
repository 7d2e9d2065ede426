"""What is known of an attempt or a picture is corrected, and what came in by mistake is withdrawn;
nothing is erased, and history says who.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.db import transaction

from history.models import record
from jobs.models import Job, Picture
from people.models import Person
from work.clock import now
from zweiblick_core.errors import Refused

from .events import correcting, withdrawing_attempt, withdrawing_picture
from .intake import locked_picture
from .models import Attempt, AttemptSource, Method, MethodRun


@dataclass(frozen=True)
class Correction:
    """An attempt's facts as they are to be, all of them. `made_from`: numbers of attempts that came
    before it.
    """

    method: str
    kind: str
    maker: str
    seconds: float | None
    cost: Decimal | None
    settings: dict[str, Any]
    made_from: list[int]
    left_house: bool | None
    cropped_when: str = ""


def said_of(attempt: Attempt) -> dict[str, Any]:
    """What history says of an attempt's facts."""
    run = attempt.run
    return {
        "method": run.method.name,
        "kind": run.method.kind,
        "maker": attempt.maker,
        "seconds": run.seconds,
        "cost": str(run.cost) if run.cost is not None else None,
        "settings": run.settings,
        "made from": sorted(
            set(
                AttemptSource.objects.filter(attempt=attempt).values_list(
                    "source__number", flat=True
                )
            )
        ),
        "left the house": run.left_house,
        "cropped": run.cropped_when or None,
    }


@transaction.atomic
def correct_attempt(attempt: Attempt, wanted: Correction, person: Person) -> Attempt:
    """Correct what is known of how an attempt came to be. Takes of the same run keep theirs.

    Raises:
        Refused: it has no method, was made from what is none of the picture's earlier attempts, or
            the picture is signed off.
    """
    picture = locked_picture(attempt.picture_id)
    row: Attempt = Attempt.objects.select_related("run__method", "picture").get(pk=attempt.pk)
    correcting.send(sender=Attempt, attempt=row)
    if not wanted.method.strip():
        raise Refused("An attempt needs a method.")
    sources = _sources(picture, row, wanted.made_from)
    before = said_of(row)
    method, _ = Method.objects.get_or_create(
        name=wanted.method.strip(), defaults={"kind": wanted.kind}
    )
    if method.kind != wanted.kind:
        raise Refused(
            f"“{method.name}” is known as {method.kind}; give another method a name of its own."
        )
    run = row.run
    if run.attempts.exclude(pk=row.pk).exists():
        run = MethodRun(state=run.state, made_at=run.made_at)
    run.method, run.settings, run.seconds = method, wanted.settings, wanted.seconds
    run.cost, run.left_house = wanted.cost, wanted.left_house
    run.cropped_when = wanted.cropped_when
    run.save()
    row.run, row.maker = run, wanted.maker.strip()
    row.save()
    if before["made from"] != sorted(wanted.made_from):
        _refuse_assembled(row)
        row.sources.all().delete()
        for source in sources:
            AttemptSource.objects.create(attempt=row, source=source)
    after = said_of(row)
    changed = [name for name in after if after[name] != before[name]]
    if changed:
        record(
            picture,
            person,
            "attempt corrected",
            f"attempt {row.number}",
            before={name: before[name] for name in changed},
            after={name: after[name] for name in changed},
        )
    return row


def _sources(picture: Picture, attempt: Attempt, numbers: list[int]) -> list[Attempt]:
    found = list(picture.attempts.filter(number__in=numbers, number__lt=attempt.number))
    if len(found) < len(set(numbers)):
        raise Refused("An attempt is made from attempts of its picture that came before it.")
    return found


def _refuse_assembled(attempt: Attempt) -> None:
    if attempt.sources.exclude(region=None).exists():
        raise Refused("What was put together here is known to be made from its parts.")


@transaction.atomic
def withdraw_attempt(attempt: Attempt, person: Person) -> None:
    """It stands nowhere any more; what was said of it stays on record.

    Raises:
        Refused: a slip works on it, it was signed off or shown to a guest.
    """
    picture = locked_picture(attempt.picture_id)
    row = Attempt.every.select_related("picture").get(pk=attempt.pk)
    if row.withdrawn_at is not None:
        return
    withdrawing_attempt.send(sender=Attempt, attempt=row)
    row.withdrawn_at = now()
    row.save()
    record(picture, person, "attempt withdrawn", f"attempt {row.number}")


@transaction.atomic
def take_attempt_in_again(attempt: Attempt, person: Person) -> None:
    """A withdrawn attempt stands again, as it was."""
    picture = locked_picture(attempt.picture_id)
    row = Attempt.every.select_related("picture").get(pk=attempt.pk)
    if row.withdrawn_at is None:
        return
    row.withdrawn_at = None
    row.save()
    record(picture, person, "attempt taken in again", f"attempt {row.number}")


@transaction.atomic
def rename_picture(picture: Picture, name: str, person: Person) -> None:
    """Raises: Refused: no name."""
    row = locked_picture(picture.pk)
    if not name.strip():
        raise Refused("A picture needs a name.")
    before, row.name = row.name, name.strip()
    if before != row.name:
        row.save()
        record(row, person, "picture renamed", row.name, before=before, after=row.name)


@transaction.atomic
def withdraw_picture(picture: Picture, person: Person) -> None:
    """It stands nowhere any more; all that was said of it stays on record.

    Raises:
        Refused: a slip of it is out, it is signed off or was shown to a guest.
    """
    row = locked_picture(picture.pk)
    if row.withdrawn_at is not None:
        return
    withdrawing_picture.send(sender=Picture, picture=row)
    row.withdrawn_at = now()
    row.save()
    record(row, person, "picture withdrawn", row.name)


@transaction.atomic
def take_picture_in_again(picture: Picture, person: Person) -> None:
    """A withdrawn picture stands again, as it was."""
    row = locked_picture(picture.pk)
    if row.withdrawn_at is None:
        return
    row.withdrawn_at = None
    row.save()
    record(row, person, "picture taken in again", row.name)


def withdrawn_pictures(job: Job) -> list[Picture]:
    """A job's pictures that were withdrawn."""
    return list(Picture.every.filter(job=job).exclude(withdrawn_at=None).order_by("number"))
