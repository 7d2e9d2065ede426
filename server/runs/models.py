"""Runs: undecided regions of many pictures, ruled on one after another."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from people.models import Person
from verdicts.models import Cell


class RunQuerySet(models.QuerySet["Run"]):
    def of(self, person: Person) -> RunQuerySet:
        """One's own."""
        return self.filter(person=person)


class Run(models.Model):
    """`asked`: what was looked for and in which order, as the Desk says it."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="runs")
    asked = models.JSONField(default=dict)
    made_at = models.DateTimeField(auto_now_add=True)
    objects = RunQuerySet.as_manager()

    class Meta:
        ordering = ["-id"]


class RunStop(models.Model):
    """One region, in the attempt that ranks best there. `likely`, `chance`, `passed`, `of`: what the
    core said when the run began; `in_full`: it was not offered; `ruled`: what the person ruled,
    in so many `seconds`. `again`: they had ruled on it before, as this says, and see it once more.
    """

    run = models.ForeignKey(Run, models.CASCADE, related_name="stops")
    number = models.PositiveIntegerField()
    cell = models.ForeignKey(Cell, models.CASCADE, related_name="+")
    likely = models.CharField(max_length=16)
    chance = models.FloatField()
    passed = models.PositiveIntegerField()
    of = models.PositiveIntegerField()
    sure = models.BooleanField()
    in_full = models.BooleanField()
    ruled = models.CharField(max_length=16, blank=True)
    seconds = models.FloatField(null=True)
    again = models.CharField(max_length=16, blank=True)

    class Meta:
        ordering = ["run", "number"]
        constraints = [
            models.UniqueConstraint(fields=["run", "number"], name="run_stop_numbered_once"),
            models.UniqueConstraint(fields=["run", "cell"], name="run_stop_cell_once"),
        ]
