"""What people saw and preferred: cold looks, blind pairs, picks, and flaws that a person found.
Rows are appended; none is ever changed but to be withdrawn.
"""

from __future__ import annotations

from django.conf import settings
from django.db import models

from attempts.models import Attempt
from history.models import Entry
from jobs.models import STAFF, DeliverySize, Picture
from people.models import Person
from regions.models import Region, RegionVersion


class Sighting(models.Model):
    """A person has seen a picture's original or one of its attempts with its name on it: from then
    on no look at it is cold.
    """

    picture = models.ForeignKey(Picture, models.CASCADE, related_name="sightings")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    first_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["picture", "person"], name="first_sighting_once")
        ]


def saw(picture: Picture, person: Person) -> None:
    Sighting.objects.get_or_create(picture=picture, person=person)


def whoever_ruled_saw(*, entry: Entry, **_: object) -> None:
    """Nobody rules on a picture without having seen it."""
    if entry.what == "verdict" and entry.person is not None and entry.picture is not None:
        saw(entry.picture, entry.person)


class PairChoice(models.Model):
    """A blind pair of one region: which of two attempts was shown left and right, and which was
    found better; none is no difference.
    """

    region = models.ForeignKey(Region, models.CASCADE, related_name="pairs")
    left = models.ForeignKey(Attempt, models.CASCADE, related_name="+")
    right = models.ForeignKey(Attempt, models.CASCADE, related_name="+")
    better = models.ForeignKey(Attempt, models.CASCADE, null=True, related_name="+")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["id"]


class Pick(models.Model):
    """The attempt that a person picked as the best of a region, with all names shown; the newest
    stands.
    """

    region = models.ForeignKey(Region, models.CASCADE, related_name="picks")
    attempt = models.ForeignKey(Attempt, models.CASCADE, related_name="+")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class OwnFindingQuerySet(models.QuerySet["OwnFinding"]):
    def visible_to(self, person: Person) -> OwnFindingQuerySet:
        return self.filter(
            attempt__picture__job__memberships__person=person,
            attempt__picture__job__memberships__role__in=STAFF,
        ).distinct()

    def standing(self) -> OwnFindingQuerySet:
        return self.filter(withdrawn_at=None)


class OwnFinding(models.Model):
    """A flaw that a person outlined. Its severity counts for the size at which it was given."""

    attempt = models.ForeignKey(Attempt, models.CASCADE, related_name="own_findings")
    region_version = models.ForeignKey(RegionVersion, models.PROTECT, related_name="+")
    kind = models.CharField(max_length=20)
    severity = models.FloatField()
    size = models.ForeignKey(DeliverySize, models.PROTECT, null=True, related_name="+")
    words = models.TextField(blank=True)
    polygon = models.JSONField()
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    # It was marked in the attempt that this one was made from; the pixels are proven the same.
    carried_from = models.ForeignKey("self", models.PROTECT, null=True, related_name="carried")
    made_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)
    objects = OwnFindingQuerySet.as_manager()

    class Meta:
        ordering = ["id"]

    @property
    def bbox(self) -> list[float]:
        xs, ys = [point[0] for point in self.polygon], [point[1] for point in self.polygon]
        return [min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)]


class ColdLook(models.Model):
    """An attempt seen alone. `cold`: the person had seen neither the original nor any attempt of
    the picture; `flipped`: it was shown mirrored;
    `clicks`: where the eye stopped, [x, y] in the frame, none is "nothing"; `hits`: for each click
    the region and the findings that it fell on.
    """

    attempt = models.ForeignKey(Attempt, models.CASCADE, related_name="cold_looks")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    cold = models.BooleanField()
    flipped = models.BooleanField(default=False)
    clicks = models.JSONField(default=list)
    hits = models.JSONField(default=list)
    seconds = models.FloatField(null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
