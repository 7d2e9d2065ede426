"""Files that arrived for a job and are not brought in yet: nothing of them is part of the job until
a person has said what belongs to what.
"""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from jobs.models import Job, Membership


def new_key() -> str:
    return uuid.uuid4().hex


class ArrivalQuerySet(models.QuerySet):
    def visible_to(self, person) -> ArrivalQuerySet:
        """Only a job's supervisors bring in."""
        return self.filter(
            job__memberships__person=person, job__memberships__role=Membership.Role.SUPERVISOR
        ).distinct()


class Arrival(models.Model):
    """`facts`: what was read of the file; `fits`: original arrival or picture -> what its register
    said.
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="arrivals")
    key = models.CharField(max_length=32, unique=True, default=new_key)
    name = models.CharField(max_length=200)
    sha256 = models.CharField(max_length=64)
    size = models.PositiveBigIntegerField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    format = models.CharField(max_length=8)
    depth = models.PositiveSmallIntegerField()
    facts = models.JSONField(default=dict)
    fits = models.JSONField(default=dict)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    objects = ArrivalQuerySet.as_manager()

    class Meta:
        ordering = ["name", "id"]
        constraints = [models.UniqueConstraint(fields=["job", "sha256"], name="arrived_once")]
