"""Checks and findings. A check's findings never change; what people say about them is appended."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from attempts.models import Attempt
from jobs.models import STAFF
from people.models import Person
from regions.models import RegionVersion


class CheckQuerySet(models.QuerySet["Check"]):
    def visible_to(self, person: Person) -> CheckQuerySet:
        return self.filter(
            attempt__picture__job__memberships__person=person,
            attempt__picture__job__memberships__role__in=STAFF,
        ).distinct()


class Check(models.Model):
    """The machine's examination of one attempt. `fingerprint` = hash(original, result, region
    versions, core version, options).
    """

    attempt = models.ForeignKey(Attempt, models.CASCADE, related_name="checks")
    fingerprint = models.CharField(max_length=64, unique=True)
    core_version = models.CharField(max_length=20)
    options = models.JSONField(default=dict)
    state = models.CharField(max_length=12, default="waiting")
    report = models.JSONField(null=True)
    overall = models.FloatField(null=True)
    reason = models.TextField(blank=True)
    # From the report, so that the Bench need not read it whole.
    about = models.JSONField(default=list)
    outside = models.JSONField(default=list)
    # What the attempt changed, as drafts of outlines: proposals for regions.
    changed = models.JSONField(default=list)
    made_at = models.DateTimeField(auto_now_add=True)
    finished_at = models.DateTimeField(null=True)
    objects = CheckQuerySet.as_manager()

    class Meta:
        ordering = ["id"]


class CheckedRegion(models.Model):
    check_run = models.ForeignKey(Check, models.CASCADE, related_name="regions")
    region_version = models.ForeignKey(RegionVersion, models.PROTECT, related_name="checked")
    overall = models.FloatField()
    backdrop = models.CharField(max_length=30)
    scores = models.JSONField(default=dict)
    abstained = models.JSONField(default=dict)
    groups = models.JSONField(default=list)
    # How the area that was worked lies to the outline; null where it was hardly worked.
    worked = models.JSONField(null=True)
    # How its texture fared over the attempts it was made from; null where it was worked once.
    wear = models.JSONField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["check_run", "region_version"], name="region_checked_once"
            )
        ]


class FindingQuerySet(models.QuerySet["Finding"]):
    def visible_to(self, person: Person) -> FindingQuerySet:
        return self.filter(
            checked__check_run__attempt__picture__job__memberships__person=person,
            checked__check_run__attempt__picture__job__memberships__role__in=STAFF,
        ).distinct()


class Finding(models.Model):
    """One suspected flaw, as the report has it; `position` is its order there, so that it can be
    stored once only.
    """

    checked = models.ForeignKey(CheckedRegion, models.CASCADE, related_name="findings")
    position = models.PositiveIntegerField()
    kind = models.CharField(max_length=20)
    runner_up = models.CharField(max_length=20, null=True)
    score = models.FloatField()
    confidence = models.FloatField()
    bbox = models.JSONField()
    polygon = models.JSONField()
    signal = models.JSONField()
    measure = models.JSONField()
    evidence = models.JSONField()
    group = models.CharField(max_length=12)
    objects = FindingQuerySet.as_manager()

    class Meta:
        ordering = ["checked", "position"]
        constraints = [
            models.UniqueConstraint(fields=["checked", "position"], name="finding_stored_once")
        ]


class FindingRuling(models.Model):
    """What a person answered; the newest stands. `carried_from`: the answer was given to the same
    finding of an earlier check. `words`: said of the finding, whatever was answered.
    """

    class Answer(models.TextChoices):
        CONFIRMED = "confirmed"
        NOT_THERE = "not there"
        ACCEPTABLE = "acceptable"
        UNREAD = "unread"  # an answer taken back

    finding = models.ForeignKey(Finding, models.CASCADE, related_name="rulings")
    answer = models.CharField(max_length=12, choices=Answer)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    words = models.TextField(blank=True)
    carried_from = models.ForeignKey("self", models.PROTECT, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class OutsideRuling(models.Model):
    """What a person said of a change outside every region, `number` in the check's `outside`; the
    newest stands. It belongs to the attempt. `carried_from`: it was said of the same change before.
    """

    class Answer(models.TextChoices):
        CONFIRMED = "confirmed"
        NOT_THERE = "not there"
        ACCEPTABLE = "acceptable"
        AGREED_BASE = "agreed base"
        UNREAD = "unread"  # an answer taken back

    check_run = models.ForeignKey(Check, models.CASCADE, related_name="outside_rulings")
    number = models.PositiveSmallIntegerField()
    answer = models.CharField(max_length=12, choices=Answer)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    carried_from = models.ForeignKey("self", models.PROTECT, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class Recalibration(models.Model):
    """How sure findings of new checks are, fitted to what people answered: a curve over the log odds
    of a `model` of the core. Rows are only added and ended; a check's `options` names the one it
    used.
    """

    model = models.CharField(max_length=20)
    core_version = models.CharField(max_length=20)
    offset = models.FloatField()
    slope = models.FloatField()
    answers = models.PositiveIntegerField()
    there = models.PositiveIntegerField()
    made_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)
    undone = models.BooleanField(default=False)

    class Meta:
        ordering = ["id"]
