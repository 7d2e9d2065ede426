"""The shapes of outlines in the API."""

from __future__ import annotations

from rest_framework import serializers as s

from regions.drafts import LONGEST
from zweiblick_core.rules.backdrops import BACKDROPS

from .serializers import Bounded, Finite, ImageOf, Plain, Points, Whole


class PartOf(Plain):
    outer = s.ListField(child=s.ListField(child=s.FloatField()))
    holes = s.ListField(child=s.ListField(child=s.ListField(child=s.FloatField())))


class AreaOf(Plain):
    mask = s.CharField(allow_null=True, help_text="the area as a draft; null where it is empty")
    parts = PartOf(many=True, help_text="its outline, simplified, for drawing")
    bbox = s.ListField(child=s.FloatField(), allow_null=True)
    pixels = s.IntegerField()
    words = s.CharField()


class Proposed(AreaOf):
    known = s.FloatField(help_text="the share of it that a region has already, 0..1")


class VersionOf(Plain):
    version = s.IntegerField()
    person = s.CharField(allow_null=True)
    at = s.DateTimeField()


class OutlinedRegion(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    version = s.IntegerField()
    backdrop = s.CharField(help_text="a person's word; empty: as the newest check says")
    proposed_backdrop = s.CharField(allow_null=True)
    rulings = s.IntegerField(help_text="how many cells a ruling stands in")
    area = AreaOf()
    versions = VersionOf(many=True)


class OutlinedAttempt(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    method = s.CharField()
    image = ImageOf()
    examined = s.BooleanField()
    proposals = Proposed(many=True, help_text="what it changed, the largest first")


class WithdrawnRegion(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()


class Outlines(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    job = s.CharField()
    role = s.CharField()
    original = ImageOf()
    attempts = OutlinedAttempt(many=True)
    regions = OutlinedRegion(many=True)
    withdrawn = WithdrawnRegion(many=True)
    backdrops = s.ListField(
        child=s.ChoiceField(choices=BACKDROPS), help_text="what can be said to lie behind a region"
    )


class Draft(s.CharField):
    """An outline that is being drawn."""

    def __init__(self, **more: object) -> None:
        super().__init__(**{"max_length": LONGEST, **more})  # type: ignore[arg-type]


class RegionAsked(Plain):
    name = s.CharField(max_length=120, allow_blank=True, required=False, default="")
    mask = Draft()


class RegionCorrected(Plain):
    name = s.CharField(max_length=120, allow_blank=True, required=False)
    backdrop = s.ChoiceField(choices=BACKDROPS, allow_blank=True, required=False)


class RedrawAsked(Plain):
    mask = Draft()
    version = Whole(help_text="the version that was begun from")


class MergeAsked(Plain):
    regions = Bounded(child=Whole(), min_length=2, max_length=100)


class ActAsked(Plain):
    mask = Draft(allow_null=True, required=False, default=None, help_text="what is drawn so far")
    what = s.ChoiceField(
        choices=(
            "outline",
            "stroke",
            "colour",
            "laid over",
            "grow",
            "smooth",
            "reach the frame",
            "area",
        )
    )
    how = s.ChoiceField(choices=("add", "subtract", "intersect"), required=False, default="add")
    rings = Bounded(
        child=Points(min_length=1, max_length=4000), required=False, default=list, max_length=200
    )
    radius = Finite(min_value=0.5, max_value=2000, required=False, default=8.0)
    pixels = Finite(
        min_value=-500,
        max_value=500,
        required=False,
        default=0.0,
        help_text="to grow by, or to shrink if negative; how far to smooth",
    )
    spots = Points(required=False, default=list, max_length=50, help_text="where to pick a colour")
    box = Bounded(
        child=Whole(max_value=1_000_000),
        required=False,
        default=None,
        allow_null=True,
        min_length=4,
        max_length=4,
        help_text="x, y, width, height of what is looked at",
    )
    tolerance = Finite(min_value=0, max_value=200, required=False, default=12.0)
    belief = Finite(min_value=0.01, max_value=0.99, required=False, default=0.5)
    connected = s.BooleanField(required=False, default=True)
    inside = s.BooleanField(required=False, default=False)
    image = Whole(allow_null=True, required=False, default=None, help_text="whose colours")
    area = Draft(allow_null=True, required=False, default=None)
