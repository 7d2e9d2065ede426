"""What is out on a slip is somebody's work: the region is not withdrawn meanwhile, and who works on
it stays in the job.
"""

from __future__ import annotations

from django.db.models import Q

from attempts.models import Attempt
from jobs.models import Job, Picture
from people.models import Person
from regions.models import Region
from zweiblick_core.errors import Refused

from .models import OPEN, Slip, SlipRegion


def refuse_while_out(*, region: Region, **_: object) -> None:
    """Raises: Refused: an open slip has the region."""
    out = (
        SlipRegion.objects.filter(region=region, slip__state__in=OPEN)
        .exclude(slip__state="returned")
        .select_related("slip")
        .first()
    )
    if out is not None:
        raise Refused(
            f"region {region.number}, {region.name}, is out on slip {out.slip.round}; withdraw that slip first"
        )


def refuse_attempt_on_slip(*, attempt: Attempt, **_: object) -> None:
    """Raises: Refused: an open slip works on the attempt, or it answers one."""
    out = Slip.objects.filter(state__in=OPEN).filter(Q(attempt=attempt) | Q(returned=attempt))
    slip = out.first()
    if slip is not None:
        raise Refused(
            f"slip {slip.round} has attempt {attempt.number}; settle or withdraw that slip first"
        )


def refuse_picture_on_slip(*, picture: Picture, **_: object) -> None:
    """Raises: Refused: a slip of the picture is open."""
    slip = Slip.objects.filter(picture=picture, state__in=OPEN).first()
    if slip is not None:
        raise Refused(f"slip {slip.round} of this picture is open; settle or withdraw it first")


def refuse_renewal_while_out(*, picture: Picture, **_: object) -> None:
    """Raises: Refused: whoever works a slip of the picture works from its original."""
    slip = Slip.objects.filter(picture=picture, state__in=OPEN).first()
    if slip is not None:
        raise Refused(
            f"slip {slip.round} of this picture is open, and its work rests on the original;"
            " settle or withdraw it first"
        )


def refuse_while_worked(*, job: Job, person: Person, **_: object) -> None:
    """Raises: Refused: the person has slips of the job to work."""
    count = Slip.objects.filter(
        picture__job=job, worker=person, state__in=("sent", "working", "question")
    ).count()
    if count:
        slips = "a slip" if count == 1 else f"{count} slips"
        raise Refused(f"{person.called} has {slips} to work; hand that over or withdraw it first")
