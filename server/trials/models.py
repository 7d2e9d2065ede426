"""Trials: running methods on a region from within. Each run that is finished is an attempt."""

from __future__ import annotations

from django.db import models

from attempts.models import Attempt
from jobs.models import Membership, Picture
from people.models import Person
from regions.models import RegionVersion


class TrialQuerySet(models.QuerySet["Trial"]):
    def visible_to(self, person: Person) -> TrialQuerySet:
        return self.filter(
            picture__job__memberships__person=person,
            picture__job__memberships__role=Membership.Role.SUPERVISOR,
        ).distinct()


class Trial(models.Model):
    """One run of one method on one region. `base`: the attempt it is made from; None: the
    original. `settings`: as the method takes them, with grow, feather, grain, tone, seed and the
    boxes that nothing is taken from; "also": further region versions that are worked in the same
    attempt, "order": in which order they were, in words. States are in the core's table "trial".
    """

    picture = models.ForeignKey(Picture, models.CASCADE, related_name="trials")
    # None: of the whole picture, as putting the original back outside is.
    region_version = models.ForeignKey(RegionVersion, models.PROTECT, null=True, related_name="+")
    base = models.ForeignKey(Attempt, models.PROTECT, null=True, related_name="trials")
    method = models.CharField(max_length=120)
    settings = models.JSONField(default=dict)
    person = models.ForeignKey(Person, models.PROTECT, related_name="+")
    state = models.CharField(max_length=12, default="waiting")
    attempt = models.OneToOneField(Attempt, models.PROTECT, null=True, related_name="trial")
    reason = models.TextField(blank=True)
    made_at = models.DateTimeField(auto_now_add=True)
    objects = TrialQuerySet.as_manager()

    class Meta:
        ordering = ["id"]
