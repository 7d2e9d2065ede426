"""Regions belong to the picture; every edit is a new version."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
from django.conf import settings
from django.db import models

from jobs.models import STAFF, Picture
from people.models import Person
from zweiblick_core.regions import Region as CoreRegion
from zweiblick_core.regions import outline


class RegionQuerySet(models.QuerySet["Region"]):
    def visible_to(self, person: Person) -> RegionQuerySet:
        return self.filter(
            picture__job__memberships__person=person, picture__job__memberships__role__in=STAFF
        ).distinct()


class StandingRegions(models.Manager.from_queryset(RegionQuerySet)):  # type: ignore[misc]
    """Regions that were not withdrawn."""

    def get_queryset(self) -> RegionQuerySet:
        found: RegionQuerySet = super().get_queryset().filter(withdrawn_at=None)
        return found


class Region(models.Model):
    """An area of a picture where something was to be removed. One that is withdrawn keeps its
    versions, verdicts and history, and stands nowhere else.
    """

    picture = models.ForeignKey(Picture, models.CASCADE, related_name="regions")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=120, blank=True)
    current = models.ForeignKey(
        "regions.RegionVersion", models.PROTECT, null=True, related_name="+"
    )
    # A person's word for what lies behind it; empty: as the newest check says.
    backdrop = models.CharField(max_length=30, blank=True)
    withdrawn_at = models.DateTimeField(null=True)
    # It was ruled that the thing stays: who said so, and why.
    left_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    left_words = models.TextField(blank=True)
    objects = StandingRegions()
    every = RegionQuerySet.as_manager()

    @property
    def drawn(self) -> RegionVersion:
        """The version that stands; a region is stored with its first one."""
        assert self.current is not None
        return self.current

    class Meta:
        ordering = ["picture", "number"]
        # What points to a region finds it, withdrawn or not.
        base_manager_name = "every"
        constraints = [
            models.UniqueConstraint(fields=["picture", "number"], name="region_numbered_once")
        ]


class RegionVersion(models.Model):
    """A 1-bit mask (PNG) cropped to its box, in the oriented original's frame. Outlines are derived
    from it.
    """

    region = models.ForeignKey(Region, models.CASCADE, related_name="versions")
    version = models.PositiveIntegerField()
    x = models.PositiveIntegerField()
    y = models.PositiveIntegerField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    mask_png = models.BinaryField()
    made_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["region", "version"], name="region_version_once")
        ]

    @property
    def bbox(self) -> tuple[int, int, int, int]:
        return self.x, self.y, self.width, self.height

    @property
    def mask(self) -> np.ndarray:
        return mask_of(bytes(self.mask_png))

    @property
    def core(self) -> CoreRegion:
        """What the core judges; its id is this version's own, so that a report can be stored
        without guessing.
        """
        return CoreRegion(str(self.pk), self.mask, self.bbox)

    @property
    def outlines(self) -> list[list[list[float]]]:
        return _outlines(bytes(self.mask_png), self.x, self.y)


@lru_cache(maxsize=512)
def _outlines(mask_png: bytes, x: int, y: int) -> list[list[list[float]]]:
    """The same mask is asked for with every look at its picture."""
    return outline(mask_of(mask_png), (x, y), 1.0)


def mask_of(mask_png: bytes) -> np.ndarray:
    """What `encode_mask` made."""
    decoded = cv2.imdecode(np.frombuffer(mask_png, np.uint8), cv2.IMREAD_GRAYSCALE)
    assert decoded is not None
    return decoded > 127


def encode_mask(mask: np.ndarray) -> bytes:
    """A bool mask as a 1-bit PNG."""
    ok, data = cv2.imencode(".png", mask.astype(np.uint8) * 255, [cv2.IMWRITE_PNG_BILEVEL, 1])
    assert ok
    return data.tobytes()
