"""Who said or did what, when; before and after. Only ever appended to."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from jobs.models import STAFF, Job, Picture


class EntryQuerySet(models.QuerySet):
    def visible_to(self, person) -> EntryQuerySet:
        return self.filter(
            job__memberships__person=person, job__memberships__role__in=STAFF
        ).distinct()


class Entry(models.Model):
    job = models.ForeignKey(Job, models.CASCADE, related_name="history")
    picture = models.ForeignKey(Picture, models.CASCADE, null=True, related_name="history")
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


def record(picture: Picture, person, what: str, about: str, before=None, after=None) -> Entry:
    """Append one entry; `person` is None for what the machine did."""
    return Entry.objects.create(
        job=picture.job,
        picture=picture,
        person=person,
        what=what,
        about=about,
        before=before,
        after=after,
    )
