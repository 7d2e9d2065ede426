"""Verdicts are appended; a cell points to the one that stands. Second looks are asked for beside them."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from attempts.models import Attempt
from checks.models import Check
from jobs.models import STAFF, DeliverySize
from people.models import Person
from regions.models import Region, RegionVersion


class CellQuerySet(models.QuerySet["Cell"]):
    def visible_to(self, person: Person) -> CellQuerySet:
        return self.filter(
            attempt__picture__job__memberships__person=person,
            attempt__picture__job__memberships__role__in=STAFF,
        ).distinct()


class Cell(models.Model):
    """One region in one attempt. `revision` grows with every change, so that a stale ruling is
    noticed.
    """

    attempt = models.ForeignKey(Attempt, models.CASCADE, related_name="cells")
    region = models.ForeignKey(Region, models.CASCADE, related_name="cells")
    current = models.ForeignKey("verdicts.Verdict", models.PROTECT, null=True, related_name="+")
    revision = models.PositiveIntegerField(default=0)
    objects = CellQuerySet.as_manager()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["attempt", "region"], name="cell_once")]


class Verdict(models.Model):
    class Ruling(models.TextChoices):
        PASSES = "passes"
        PASSES_AT_SIZE = "passes at size"
        REWORK = "rework"
        REBUILD = "rebuild"
        TAKEN_BACK = "taken back"

    cell = models.ForeignKey(Cell, models.CASCADE, related_name="verdicts")
    ruling = models.CharField(max_length=16, choices=Ruling)
    # The examination that lay before the person; named so because `check` is a method of Django's
    # models.
    examination = models.ForeignKey(Check, models.PROTECT, null=True, related_name="+")
    region_version = models.ForeignKey(RegionVersion, models.PROTECT, related_name="+")
    size = models.ForeignKey(DeliverySize, models.PROTECT, null=True, related_name="+")
    # A pass that came over from an earlier attempt, the pixels being proven the same.
    carried_from = models.ForeignKey("self", models.PROTECT, null=True, related_name="+")
    supersedes = models.ForeignKey("self", models.PROTECT, null=True, related_name="+")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    # Said of it, then or later; the only thing of a verdict that changes. History says by whom.
    words = models.TextField(blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class SecondLookQuerySet(models.QuerySet["SecondLook"]):
    def visible_to(self, person: Person) -> SecondLookQuerySet:
        """Whoever was asked, and the job's supervisors."""
        return self.filter(
            models.Q(asked=person)
            | models.Q(
                cell__attempt__picture__job__memberships__person=person,
                cell__attempt__picture__job__memberships__role="supervisor",
            )
        ).distinct()

    def waiting(self) -> SecondLookQuerySet:
        return self.filter(answered_at=None, withdrawn_at=None)

    def standing(self) -> SecondLookQuerySet:
        return self.filter(withdrawn_at=None)


class SecondLook(models.Model):
    """Another pair of eyes that was asked for at one cell: a supervisor, whose `ruling` is given
    without seeing anybody else's, or a guest, who answers in words.
    """

    cell = models.ForeignKey(Cell, models.CASCADE, related_name="second_looks")
    asked = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    words = models.TextField(blank=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    ruling = models.CharField(max_length=16, blank=True)
    size = models.ForeignKey(DeliverySize, models.PROTECT, null=True, related_name="+")
    answer = models.TextField(blank=True)
    answered_at = models.DateTimeField(null=True)
    withdrawn_at = models.DateTimeField(null=True)
    objects = SecondLookQuerySet.as_manager()

    class Meta:
        ordering = ["id"]
