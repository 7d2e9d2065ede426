"""Methods, their runs, and the attempts that came of them."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from images.models import Image
from jobs.models import STAFF, Picture
from people.models import Person
from regions.models import Region


class Method(models.Model):
    class Kind(models.TextChoices):
        HAND = "by hand"
        BUILT_IN = "built in"
        OUTSIDE = "outside service"

    name = models.CharField(max_length=120, unique=True)
    kind = models.CharField(max_length=20, choices=Kind)
    paying_clients = models.BooleanField(default=True)


#: Empty: nobody said, or it was not cropped.
CROPPED = [("before", "before"), ("after", "after")]


class MethodRun(models.Model):
    """One use of a method: its settings, what it took. Three takes are one run with three
    attempts.
    """

    method = models.ForeignKey(Method, models.PROTECT, related_name="runs")
    settings = models.JSONField(default=dict)
    seconds = models.FloatField(null=True)
    cost = models.DecimalField(max_digits=9, decimal_places=2, null=True)
    state = models.CharField(max_length=12, default="done")
    error = models.TextField(blank=True)
    # Whether the picture left the house for it; None where nobody said.
    left_house = models.BooleanField(null=True)
    # Whether it was cropped before or after it was worked on; a method sees less of a cropped one.
    cropped_when = models.CharField(max_length=6, choices=CROPPED, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)


class AttemptQuerySet(models.QuerySet["Attempt"]):
    def visible_to(self, person: Person) -> AttemptQuerySet:
        return self.filter(
            models.Q(
                picture__job__memberships__person=person, picture__job__memberships__role__in=STAFF
            )
            | models.Q(releases__person=person)
        ).distinct()


class StandingAttempts(models.Manager.from_queryset(AttemptQuerySet)):  # type: ignore[misc]
    """Attempts that were not withdrawn."""

    def get_queryset(self) -> AttemptQuerySet:
        found: AttemptQuerySet = super().get_queryset().filter(withdrawn_at=None)
        return found


class Attempt(models.Model):
    """One result image for a picture. One that is withdrawn keeps its checks, verdicts and history,
    and stands nowhere else.
    """

    picture = models.ForeignKey(Picture, models.CASCADE, related_name="attempts")
    number = models.PositiveIntegerField()
    image = models.ForeignKey(Image, models.PROTECT, related_name="attempts")
    run = models.ForeignKey(MethodRun, models.PROTECT, related_name="attempts")
    maker = models.CharField(max_length=120, blank=True)
    state = models.CharField(max_length=12, default="arrived")
    # The outline it was made with, as drafts in the original's frame; empty where nobody gave it.
    outline = models.JSONField(default=list)
    made_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)
    objects = StandingAttempts()
    every = AttemptQuerySet.as_manager()

    class Meta:
        ordering = ["picture", "number"]
        # What points to an attempt finds it, withdrawn or not.
        base_manager_name = "every"
        constraints = [
            models.UniqueConstraint(fields=["picture", "number"], name="attempt_numbered_once")
        ]


class Assembly(models.Model):
    """An attempt that is to be put together from others. `reason`: why it could not be."""

    picture = models.ForeignKey(Picture, models.CASCADE, related_name="assemblies")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    attempt = models.ForeignKey(Attempt, models.SET_NULL, null=True, related_name="+")
    reason = models.TextField(blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class AssemblyPart(models.Model):
    assembly = models.ForeignKey(Assembly, models.CASCADE, related_name="parts")
    region = models.ForeignKey(Region, models.PROTECT, related_name="+")
    attempt = models.ForeignKey(Attempt, models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["assembly", "region"], name="assembly_region_once")
        ]


class AttemptSource(models.Model):
    """What an attempt was made from; for an assembly, which attempt each region came from."""

    attempt = models.ForeignKey(Attempt, models.CASCADE, related_name="sources")
    source = models.ForeignKey(Attempt, models.PROTECT, related_name="children")
    region = models.ForeignKey(Region, models.PROTECT, null=True)
