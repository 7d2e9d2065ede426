"""The agreed base: an attempt whose changes outside the regions are wanted, so that the picture's
others are judged against it.
"""

from __future__ import annotations

from attempts.models import Attempt
from jobs.models import Picture

from .carrying import standing_outside
from .models import Check


def agreed_base(picture: Picture) -> Attempt | None:
    """The attempt that was agreed on last; None while none is."""
    said = [
        (ruling.pk, check.attempt)
        for check in Check.objects.filter(
            attempt__picture=picture,
            attempt__withdrawn_at=None,
            outside_rulings__answer="agreed base",
        )
        .distinct()
        .defer("report")
        .select_related("attempt__image__blob")
        .prefetch_related("outside_rulings")
        for ruling in standing_outside(check).values()
        if ruling.answer == "agreed base"
    ]
    return max(said, key=lambda one: one[0])[1] if said else None


def may_be_base(attempt: Attempt) -> bool:
    """Whether an attempt has its original's frame: others are laid over it pixel by pixel."""
    original = attempt.picture.original
    return (attempt.image.width, attempt.image.height) == (original.width, original.height)
