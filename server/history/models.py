"""Who said or did what, when; before and after. Only ever appended to, which the database sees to
(`protection`).
"""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models

from jobs.models import STAFF, Job, Picture
from people.models import Person

from .events import recorded


class EntryQuerySet(models.QuerySet["Entry"]):
    def visible_to(self, person: Person) -> EntryQuerySet:
        return self.filter(
            job__memberships__person=person, job__memberships__role__in=STAFF
        ).distinct()


class Entry(models.Model):
    """`person` is None for what the machine did; `picture` for what concerns a job as a whole."""

    job = models.ForeignKey(Job, models.PROTECT, related_name="history")
    picture = models.ForeignKey(Picture, models.PROTECT, null=True, related_name="history")
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    what = models.CharField(max_length=80)
    about = models.CharField(max_length=120)
    before = models.JSONField(null=True)
    after = models.JSONField(null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    objects = EntryQuerySet.as_manager()

    class Meta:
        ordering = ["-id"]


def _append(
    job: Job,
    picture: Picture | None,
    person: Person | None,
    what: str,
    about: str,
    before: Any,
    after: Any,
) -> Entry:
    entry = Entry.objects.create(
        job=job,
        picture=picture,
        person=person,
        what=what,
        about=about[:120],
        before=before,
        after=after,
    )
    recorded.send(sender=Entry, entry=entry)
    return entry


def record(
    picture: Picture,
    person: Person | None,
    what: str,
    about: str,
    before: Any = None,
    after: Any = None,
) -> Entry:
    """Append one entry about a picture; `person` is None for what the machine did."""
    return _append(picture.job, picture, person, what, about, before, after)


def record_job(
    job: Job,
    person: Person | None,
    what: str,
    about: str = "",
    before: Any = None,
    after: Any = None,
) -> Entry:
    """Append one entry about a job as a whole."""
    return _append(job, None, person, what, about, before, after)
