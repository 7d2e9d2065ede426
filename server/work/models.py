"""Long work is a row here. MariaDB is the truth about it; the broker only says that there is some."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from jobs.models import STAFF, Picture
from people.models import Person


class WorkQuerySet(models.QuerySet["Work"]):
    def visible_to(self, person: Person) -> WorkQuerySet:
        return self.filter(
            Q(picture__job__memberships__person=person, picture__job__memberships__role__in=STAFF)
        ).distinct()


class Work(models.Model):
    """`token` is a fencing token: it grows with every lease, and results are only written under the
    newest one.
    """

    kind = models.CharField(max_length=20)
    subject = models.CharField(max_length=64)
    picture = models.ForeignKey(Picture, models.CASCADE, null=True, related_name="work")
    state = models.CharField(max_length=12, default="waiting")
    progress = models.FloatField(default=0.0)
    words = models.CharField(max_length=80, blank=True)
    token = models.PositiveIntegerField(default=0)
    leased_until = models.DateTimeField(null=True)
    tries = models.PositiveSmallIntegerField(default=0)
    error = models.TextField(blank=True)
    dispatched_at = models.DateTimeField(null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    finished_at = models.DateTimeField(null=True)
    objects = WorkQuerySet.as_manager()

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["kind", "subject"], name="work_once")]
        indexes = [models.Index(fields=["state", "leased_until"])]
