"""Taking pictures over and handing them over."""

from __future__ import annotations

from django.db import transaction

from history.models import record
from jobs.models import Membership, Picture
from people.models import Person
from zweiblick_core.errors import Refused

from .models import Charge


@transaction.atomic
def put_in_charge(picture: Picture, to: Person | None, person: Person, words: str = "") -> None:
    """Put a supervisor in charge of a picture, or nobody; nothing happens where they are already.

    Raises:
        Refused: who is to be in charge is no supervisor of the job.
    """
    row = Picture.every.select_for_update().select_related("job").get(pk=picture.pk)
    if to is not None and row.job.role_of(to) != Membership.Role.SUPERVISOR:
        raise Refused(f"{to.called} is no supervisor of this job")
    before = Charge.objects.filter(picture=row).select_related("person").first()
    if (before.person_id if before else None) == (to.pk if to else None):
        return
    if to is None:
        Charge.objects.filter(picture=row).delete()
    else:
        Charge.objects.update_or_create(picture=row, defaults={"person": to})
    record(
        row,
        person,
        "in charge",
        to.called if to else "nobody",
        before=before.person.called if before else None,
        after={"person": to.called if to else None, "words": words.strip()},
    )
