"""What was signed off stays as it was signed, until it is reopened."""

from __future__ import annotations

from attempts.models import Attempt
from jobs.models import Picture, Release
from verdicts.models import Cell
from zweiblick_core.errors import Refused

from .models import SignOff


def _refuse_signed(picture_id: int) -> None:
    signed = SignOff.objects.filter(standing_id=picture_id).select_related("person").first()
    if signed is not None:
        raise Refused(f"This picture is signed off by {signed.person.called}; reopen it first.")


def refuse_ruling_of_signed(*, cell: Cell, **_: object) -> None:
    """Raises: Refused: the cell's picture is signed off."""
    _refuse_signed(cell.attempt.picture_id)


def refuse_correction_of_signed(*, attempt: Attempt, **_: object) -> None:
    """Raises: Refused: the attempt's picture is signed off."""
    _refuse_signed(attempt.picture_id)


def refuse_attempt_that_left(*, attempt: Attempt, **_: object) -> None:
    """Raises: Refused: the attempt was signed off, or a guest saw it."""
    _refuse_signed(attempt.picture_id)
    if Release.objects.filter(attempt=attempt).exists():
        raise Refused(f"Attempt {attempt.number} was shown to a guest; it stays.")


def refuse_picture_that_left(*, picture: Picture, **_: object) -> None:
    """Raises: Refused: the picture is signed off, or a guest saw it."""
    _refuse_signed(picture.pk)
    if Release.objects.filter(picture=picture).exists():
        raise Refused("This picture was shown to a guest; it stays.")


def refuse_work_on_signed(*, picture: Picture, **_: object) -> None:
    """Raises: Refused: the picture is signed off."""
    _refuse_signed(picture.pk)
