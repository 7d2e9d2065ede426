"""What came back was looked at by somebody who rules: from then on it is not replaced."""

from __future__ import annotations

from django.utils import timezone

from jobs.models import Membership, Picture
from people.models import Person

from .models import Slip


def looked_at(picture: Picture, person: Person) -> None:
    """A person has seen a picture with all that came back for it. Whoever works slips says nothing
    by that.
    """
    if picture.job.role_of(person) != Membership.Role.SUPERVISOR:
        return
    Slip.objects.filter(
        picture=picture, state__in=("returned", "rechecked"), looked_at=None
    ).update(looked_at=timezone.now())
