"""What happened since somebody was last at the Desk."""

from __future__ import annotations

from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from history.models import Entry
from jobs.models import Membership
from people.models import Person

from .models import Visit

#: Away for longer than this, somebody comes back; before that it is one visit.
AWAY = timedelta(minutes=30)
#: What others, and the machine, do that a supervisor wants to hear of.
NEWS = (
    "attempt brought in",
    "check failed",
    "in charge",
    "order failed",
    "remark made",
    "second look asked for",
    "second look given",
    "signed off",
    "reopened",
    "slip asked",
    "slip declined",
    "slip failed",
    "slip rechecked",
)
#: So many are listed; older ones stand in the pictures' histories.
LISTED = 60


@transaction.atomic
def visit(person: Person) -> Visit:
    """Note that somebody is at the Desk."""
    now = timezone.now()
    row, new = Visit.objects.select_for_update().get_or_create(person=person, defaults={"at": now})
    if not new:
        if now - row.at > AWAY:
            row.before = row.at
        row.at = now
        row.save()
    return row


def news(person: Person, since: Visit) -> list[Entry]:
    """What happened in a supervisor's jobs since their last visit, but for what they did
    themselves; the newest first. One query.
    """
    if since.before is None:
        return []
    jobs = Membership.objects.filter(person=person, role=Membership.Role.SUPERVISOR).values("job")
    return list(
        Entry.objects.filter(
            job__in=jobs,
            picture__isnull=False,
            picture__withdrawn_at=None,
            what__in=NEWS,
            made_at__gt=since.before,
        )
        .exclude(person=person)
        .select_related("picture", "person")[:LISTED]
    )
