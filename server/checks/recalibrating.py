"""What people answered to findings, and the curve that it makes of later probabilities."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from zweiblick_core import __version__ as core_version
from zweiblick_core.errors import Refused
from zweiblick_core.scoring import MODEL
from zweiblick_core.scoring.house import curve_of_answers, unmapped
from zweiblick_core.scoring.model import Curve

from .models import FindingRuling, Recalibration


def answers() -> list[tuple[float, bool]]:
    """Of each finding that a person answered: the probability that the model gave, and whether it
    was there (*acceptable* is there, and may stay). What came over from another check says nothing
    of its own.
    """
    rows = (
        FindingRuling.objects.filter(
            carried_from=None, finding__checked__check_run__options__model=MODEL.name
        )
        .order_by("id")
        .values_list(
            "finding_id",
            "answer",
            "finding__confidence",
            "finding__checked__check_run__options__recalibrated",
        )
    )
    curves = {one.pk: curve_in(one) for one in Recalibration.objects.all()}
    newest: dict[int, tuple[float, bool]] = {}
    for finding, answer, said, by in rows:
        newest.pop(finding, None)
        if answer != FindingRuling.Answer.UNREAD:
            likely = unmapped(curves[by], said) if by in curves else said
            newest[finding] = (likely, answer != FindingRuling.Answer.NOT_THERE)
    return list(newest.values())


def in_force() -> Recalibration | None:
    """The one that new checks use, if there is one for this model."""
    return Recalibration.objects.filter(ended_at=None, model=MODEL.name).order_by("-id").first()


@transaction.atomic
def recalibrate() -> Recalibration:
    """Fit a curve to all answers, and use it for checks from now on. Stored reports stay.

    Raises:
        Refused: too few answers.
    """
    given = answers()
    curve = curve_of_answers(given)
    Recalibration.objects.filter(ended_at=None).update(ended_at=timezone.now())
    return Recalibration.objects.create(
        model=MODEL.name,
        core_version=core_version,
        offset=curve.offset,
        slope=curve.slope,
        answers=len(given),
        there=sum(there for _, there in given),
    )


@transaction.atomic
def undo() -> Recalibration | None:
    """End the one in force; the one before it that was not undone is in force again, and returned.

    Raises:
        Refused: none is in force.
    """
    current = in_force()
    if current is None:
        raise Refused("no recalibration is in force")
    Recalibration.objects.filter(pk=current.pk).update(ended_at=timezone.now(), undone=True)
    before = (
        Recalibration.objects.filter(pk__lt=current.pk, model=MODEL.name, undone=False)
        .order_by("-id")
        .first()
    )
    if before is not None:
        Recalibration.objects.filter(pk=before.pk).update(ended_at=None)
    return before


def curve_in(recalibration: Recalibration) -> Curve:
    """As the core reads it."""
    return Curve(recalibration.offset, recalibration.slope)
