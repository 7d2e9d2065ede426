"""Where each picture stands, kept so that the Desk need not work it out."""

from __future__ import annotations

from django.db import models

from jobs.models import Picture
from regions.models import Region
from verdicts.models import Cell


class PictureState(models.Model):
    """A picture at its job's first delivery size. Worked out anew whenever something is recorded on
    the picture; `entry` is the newest history entry that it takes account of.

    `unexamined`: undecided regions of which no attempt has been examined; `worst_*`: the worst
    flaw that counts, in the attempts that rank best in undecided regions; `failed`: attempts whose
    check failed or that could not be matched.
    """

    picture = models.OneToOneField(
        Picture, models.CASCADE, primary_key=True, related_name="standing"
    )
    state = models.CharField(max_length=20)
    regions = models.PositiveIntegerField(default=0)
    undecided = models.PositiveIntegerField(default=0)
    unexamined = models.PositiveIntegerField(default=0)
    attempts = models.PositiveIntegerField(default=0)
    failed = models.PositiveIntegerField(default=0)
    worst_kind = models.CharField(max_length=20, blank=True)
    worst_severity = models.FloatField(null=True)
    worst_word = models.CharField(max_length=30, blank=True)
    entry = models.BigIntegerField(default=0)
    made_at = models.DateTimeField(auto_now=True)


class RegionState(models.Model):
    """A standing region at its job's first delivery size, worked out with its picture. `cell`: in
    the attempt that ranks best; `overall` and `worst_*`: of that cell.
    """

    region = models.OneToOneField(Region, models.CASCADE, primary_key=True, related_name="standing")
    picture = models.ForeignKey(Picture, models.CASCADE, related_name="standing_regions")
    state = models.CharField(max_length=20)
    cell = models.ForeignKey(Cell, models.CASCADE, null=True, related_name="+")
    overall = models.FloatField(null=True)
    worst_kind = models.CharField(max_length=20, blank=True)
    worst_severity = models.FloatField(null=True)
    worst_word = models.CharField(max_length=30, blank=True)
