"""Orders to an outside removal service: what left the house, what it cost, what came of it."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from attempts.models import Attempt
from jobs.models import Job, Membership, Picture
from people.models import Person
from regions.models import RegionVersion
from work.keys import new_key


class Service(models.Model):
    """What is known of the service: its account as it said last, and whether it is left alone for a
    while (see `breaker`). One row.
    """

    name = models.CharField(max_length=60, unique=True)
    account = models.JSONField(null=True)
    asked_at = models.DateTimeField(null=True)
    failures = models.PositiveIntegerField(default=0)
    resting_until = models.DateTimeField(null=True)


class Budget(models.Model):
    """How many credits a job may spend outside."""

    job = models.OneToOneField(Job, models.CASCADE, related_name="outside_budget")
    credits = models.PositiveIntegerField()


class OrderQuerySet(models.QuerySet["Order"]):
    def visible_to(self, person: Person) -> OrderQuerySet:
        return self.filter(
            picture__job__memberships__person=person,
            picture__job__memberships__role=Membership.Role.SUPERVISOR,
        ).distinct()


class Order(models.Model):
    """One region, sent to the service. `base`: the attempt it is made from; None: the original.
    `key`: the service takes an order once for a key, however often it is sent. `remote`: its id
    there, empty until it was taken. `credits`: what it holds of the job's budget: what it will
    cost, then what was charged. `box`: what leaves of the picture, [x, y, width, height] in the
    base's own frame. States are in the core's table "order".
    """

    picture = models.ForeignKey(Picture, models.CASCADE, related_name="orders")
    region_version = models.ForeignKey(RegionVersion, models.PROTECT, related_name="+")
    base = models.ForeignKey(Attempt, models.PROTECT, null=True, related_name="+")
    tier = models.CharField(max_length=40)
    terms = models.CharField(max_length=60)
    key = models.CharField(max_length=32, unique=True, default=new_key)
    remote = models.CharField(max_length=80, blank=True)
    box = models.JSONField()
    credits = models.PositiveIntegerField()
    state = models.CharField(max_length=12, default="waiting")
    reason = models.TextField(blank=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    sent_at = models.DateTimeField(null=True)
    finished_at = models.DateTimeField(null=True)
    objects = OrderQuerySet.as_manager()

    class Meta:
        ordering = ["id"]


class Take(models.Model):
    """One result of an order, stored once. `attempt` None: the service gave the same picture twice;
    it is an attempt already. Takes of several orders together can be one attempt.
    """

    order = models.ForeignKey(Order, models.CASCADE, related_name="takes")
    number = models.PositiveSmallIntegerField()
    sha256 = models.CharField(max_length=64)
    attempt = models.ForeignKey(Attempt, models.PROTECT, null=True, related_name="takes")

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["order", "number"], name="take_numbered_once")
        ]
