"""Files that arrived for a job and are not brought in yet: nothing of them is part of the job until
a person has said what belongs to what.
"""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from jobs.models import Job, Membership, Picture
from people.models import Person


def new_key() -> str:
    return uuid.uuid4().hex


class ArrivalQuerySet(models.QuerySet["Arrival"]):
    def visible_to(self, person: Person) -> ArrivalQuerySet:
        """Only a job's supervisors bring in."""
        return self.filter(
            job__memberships__person=person, job__memberships__role=Membership.Role.SUPERVISOR
        ).distinct()


class Arrival(models.Model):
    """`state`: as in the core's table "arrival"; `reason`: why it was refused. `facts`: what was
    read of the file; `fits`: original arrival or picture -> what its register said. `taken_by`:
    what is just being brought in with it.
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="arrivals")
    key = models.CharField(max_length=32, unique=True, default=new_key)
    name = models.CharField(max_length=200)
    sha256 = models.CharField(max_length=64)
    size = models.PositiveBigIntegerField()
    state = models.CharField(max_length=12, default="reading")
    reason = models.TextField(blank=True)
    taken_by = models.ForeignKey(
        "arrivals.Incoming", models.SET_NULL, null=True, related_name="arrivals"
    )
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    format = models.CharField(max_length=8, blank=True)
    depth = models.PositiveSmallIntegerField(default=8)
    facts = models.JSONField(default=dict)
    fits = models.JSONField(default=dict)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    objects = ArrivalQuerySet.as_manager()

    class Meta:
        ordering = ["name", "id"]
        constraints = [models.UniqueConstraint(fields=["job", "sha256"], name="arrived_once")]


class IncomingQuerySet(models.QuerySet["Incoming"]):
    def visible_to(self, person: Person) -> IncomingQuerySet:
        return self.filter(
            job__memberships__person=person, job__memberships__role=Membership.Role.SUPERVISOR
        ).distinct()


class Incoming(models.Model):
    """A picture that is being brought in, or a further result of one (`picture` is given from the
    start then). `wanted`: arrivals and facts, as asked for; `settled`: it was stored, or `reason`
    says why not.
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="incoming")
    picture = models.ForeignKey(Picture, models.CASCADE, null=True, related_name="+")
    wanted = models.JSONField()
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    settled = models.BooleanField(default=False)
    reason = models.TextField(blank=True)
    made_at = models.DateTimeField(auto_now_add=True)
    objects = IncomingQuerySet.as_manager()

    class Meta:
        ordering = ["id"]


class UploadQuerySet(models.QuerySet["Upload"]):
    def of(self, person: Person) -> UploadQuerySet:
        """One's own, in jobs that one supervises still; footage also where one works slips of shots."""
        roles = {"person": person, "job__memberships__person": person}
        supervised = models.Q(job__memberships__role=Membership.Role.SUPERVISOR, **roles)
        answers = models.Q(
            job__memberships__role=Membership.Role.RETOUCHER, what="footage", **roles
        )
        return self.filter(supervised | answers).distinct()


class Upload(models.Model):
    """A file that is under way in parts: `received` bytes of `size`, in `parts` by where they
    begin. `what`: it is received as, a picture or footage. `sha256`: as it was announced; empty where nobody could tell.
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="uploads")
    key = models.CharField(max_length=32, unique=True, default=new_key)
    name = models.CharField(max_length=200)
    what = models.CharField(max_length=10, default="picture")
    sha256 = models.CharField(max_length=64, blank=True)
    size = models.PositiveBigIntegerField()
    received = models.PositiveBigIntegerField(default=0)
    parts = models.JSONField(default=list)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    touched_at = models.DateTimeField(auto_now=True)
    objects = UploadQuerySet.as_manager()

    class Meta:
        ordering = ["id"]
