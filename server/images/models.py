"""Blobs are bytes; images are blobs in a role; derived pictures can be deleted and rebuilt."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from jobs.models import STAFF, Picture
from people.models import Person


class Blob(models.Model):
    """A file's bytes, known by their SHA-256. Never changed, never overwritten."""

    sha256 = models.CharField(max_length=64, primary_key=True)
    size = models.PositiveBigIntegerField()
    media_type = models.CharField(max_length=40)
    made_at = models.DateTimeField(auto_now_add=True)

    @property
    def path(self) -> str:
        return f"{self.sha256[:2]}/{self.sha256}"


class ImageQuerySet(models.QuerySet["Image"]):
    def visible_to(self, person: Person) -> ImageQuerySet:
        """Staff see all of a job's images; a guest only the image of an attempt released to them,
        and the original that it was made from.
        """
        return self.filter(
            Q(picture__job__memberships__person=person, picture__job__memberships__role__in=STAFF)
            | Q(attempts__releases__person=person)
            | Q(role=Image.Role.ORIGINAL, picture__releases__person=person)
        ).distinct()


class Image(models.Model):
    class Role(models.TextChoices):
        ORIGINAL = "original"
        RESULT = "result"
        # An original that another one took the place of.
        FORMER = "former original"

    picture = models.ForeignKey(Picture, models.CASCADE, related_name="images")
    blob = models.ForeignKey(Blob, models.PROTECT, related_name="images")
    role = models.CharField(max_length=16, choices=Role)
    name = models.CharField(max_length=200)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    format = models.CharField(max_length=8)
    depth = models.PositiveSmallIntegerField()
    profile = models.CharField(max_length=120)
    rights = models.CharField(max_length=200, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)
    objects = ImageQuerySet.as_manager()


class Derived(models.Model):
    """Something computed from a blob: `key` = hash(source, recipe, parameters, recipe version).
    `ready` once it stands whole on disk.
    """

    key = models.CharField(max_length=64, primary_key=True)
    source = models.ForeignKey(Blob, models.CASCADE, related_name="derived")
    recipe = models.CharField(max_length=40)
    parameters = models.JSONField(default=dict)
    version = models.PositiveSmallIntegerField(default=1)
    ready = models.BooleanField(default=False)
    made_at = models.DateTimeField(auto_now_add=True)


class Alignment(models.Model):
    """How a result lies to an original: registered once, read everywhere. `found`: as the core's
    `Alignment.to_dict` gives it.
    """

    original = models.ForeignKey(Blob, models.CASCADE, related_name="+")
    result = models.ForeignKey(Blob, models.CASCADE, related_name="+")
    version = models.PositiveSmallIntegerField()
    found = models.JSONField()
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["original", "result", "version"], name="pair_registered_once"
            )
        ]
