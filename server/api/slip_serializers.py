"""The shapes of slips in the API."""

from __future__ import annotations

import json
from typing import Any

from rest_framework import serializers as s

from slips.models import SlipWord

from .outside_serializers import LeavesOf, RemovalOf
from .serializers import Bounded, Finite, ImageOf, Plain, Whole


class ChangeOf(Plain):
    what = s.CharField(max_length=40)
    values = s.DictField(required=False, default=dict)
    because = Bounded(child=s.CharField(max_length=20), required=False, default=list)
    why = s.CharField(
        max_length=300,
        required=False,
        default="",
        allow_blank=True,
        help_text="what it rests on, with the number",
    )


class SlipFlaw(Plain):
    kind = s.CharField()
    word = s.CharField()
    severity = s.FloatField()
    group = s.CharField()
    words = s.CharField(help_text="what a person said of it")
    bbox = s.ListField(child=s.FloatField())
    polygon = s.ListField(
        child=s.ListField(child=s.FloatField()), help_text="its ring; empty in lists of slips"
    )
    value = s.FloatField()
    unit = s.CharField()
    low = s.FloatField()
    high = s.FloatField()
    outcome = s.CharField(allow_null=True, help_text="fixed, still there, worse")


class HelpedOf(Plain):
    what = s.CharField()
    followed = s.BooleanField()
    helped = s.BooleanField(allow_null=True, help_text="null where nobody can tell")


class PlaceOf(Plain):
    bbox = s.ListField(child=s.FloatField(), help_text="in the original's frame")
    differing = s.IntegerField()
    largest = s.IntegerField()


class ElsewhereOf(Plain):
    margin = s.IntegerField(help_text="pixels around the regions that were sent, left out")
    same = s.BooleanField()
    saved_anew = s.BooleanField(help_text="the same but for being saved anew as a JPEG")
    compared = s.IntegerField()
    differing = s.IntegerField()
    places = PlaceOf(many=True)


class OfferedOf(Plain):
    cell = s.IntegerField()
    region = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    attempt_number = s.IntegerField()
    ruling = s.CharField()


class DryFinding(Plain):
    kind = s.CharField()
    word = s.CharField()


class DryRegion(Plain):
    region = s.IntegerField()
    word = s.CharField()
    kinds = s.ListField(child=s.ListField(child=s.CharField()))
    findings = DryFinding(many=True)


class DryRunOf(Plain):
    core_version = s.CharField()
    regions = DryRegion(many=True)
    elsewhere = ElsewhereOf()


class SlipRegionOf(Plain):
    bbox = s.ListField(child=s.FloatField())
    outlines = s.ListField(
        child=s.ListField(child=s.ListField(child=s.FloatField())),
        help_text="its rings; empty in lists of slips",
    )
    region = s.IntegerField()
    attempt = s.IntegerField(help_text="the attempt in which it failed")
    attempt_number = s.IntegerField()
    image = ImageOf()
    sent_cell = s.IntegerField(allow_null=True, help_text="the cell that it was written from")
    number = s.IntegerField()
    name = s.CharField()
    ruling = s.CharField()
    flaws = SlipFlaw(many=True)
    changes = ChangeOf(many=True)
    note = s.CharField()
    followed = s.ListField(
        child=s.CharField(), allow_null=True, help_text="changes that were followed, as was said"
    )
    helped = HelpedOf(many=True, help_text="what became of each change; empty before the recheck")
    outcome = s.CharField(allow_null=True, help_text="fixed, still there, worse, new flaw")
    new = s.ListField(child=s.CharField(), help_text="kinds that were not there before")
    before = s.CharField(help_text="address of a small picture of what was sent")
    after = s.CharField(allow_null=True)
    cell = s.IntegerField(allow_null=True, help_text="the cell in the attempt that came back")


class LockOf(Plain):
    number = s.IntegerField()
    same = s.BooleanField()
    saved_anew = s.BooleanField(help_text="the same but for being saved anew as a JPEG")
    compared = s.IntegerField()
    differing = s.IntegerField()


class ChoiceOf(Plain):
    what = s.CharField()
    words = s.CharField()


class UsualOf(Plain):
    seconds = s.FloatField(help_text="the median of the rounds")
    low = s.FloatField(help_text="of the interval in which the true median lies")
    high = s.FloatField()
    of = s.IntegerField(help_text="rounds")


class WorkerOf(Plain):
    id = s.IntegerField(allow_null=True)
    name = s.CharField()
    usual = UsualOf(allow_null=True, help_text="how long a round with them takes")


class ReturnOf(Plain):
    state = s.CharField(help_text="working, done, refused")
    name = s.CharField()
    progress = s.FloatField()
    reason = s.CharField(help_text="why the file was refused")
    moved = s.IntegerField(allow_null=True, help_text="the slip that it answers instead")
    dry = s.BooleanField(help_text="it is only looked at, as the answer would be")
    report = DryRunOf(allow_null=True, help_text="what the recheck would say of it")


class SlipWordOf(Plain):
    what = s.ChoiceField(choices=SlipWord.What.choices)
    person = s.CharField()
    words = s.CharField()
    at = s.DateTimeField()


class SlipSaid(Plain):
    what = s.ChoiceField(choices=("asked", "answered", "declined", "settled"))
    words = s.CharField(max_length=4000, allow_blank=True, required=False, default="")


class SlipHandedOver(Plain):
    worker = Whole(allow_null=True, help_text="a retoucher of the job; null for the desk")
    words = s.CharField(max_length=4000, allow_blank=True, required=False, default="")


class PackageOf(Plain):
    ready = s.BooleanField()
    progress = s.FloatField(allow_null=True, help_text="while it is being built")


class SlipOf(Plain):
    id = s.IntegerField()
    round = s.IntegerField()
    state = s.CharField(
        help_text="written, sent, working, question, declined, returned, rechecked, settled, failed, withdrawn"
    )
    picture = s.IntegerField()
    picture_number = s.IntegerField()
    picture_name = s.CharField()
    job = s.CharField()
    deadline = s.DateTimeField(allow_null=True)
    attempt = s.IntegerField()
    attempt_number = s.IntegerField()
    image = ImageOf(help_text="what was sent back")
    returned_image = ImageOf(allow_null=True, help_text="what came back")
    returned = s.IntegerField(allow_null=True)
    returned_number = s.IntegerField(allow_null=True)
    worker = WorkerOf()
    workers = WorkerOf(many=True, help_text="whom it can go to")
    method = s.CharField(allow_null=True, help_text="the built-in method that it goes to")
    methods = s.ListField(child=s.CharField(), help_text="built-in methods it can go to")
    tier = s.CharField(allow_null=True, help_text="of the outside service, if it goes there")
    due = s.DateField(allow_null=True)
    usual = UsualOf(allow_null=True, help_text="how long a round with its recipient takes")
    late = s.BooleanField(help_text="it is out, and will usually be back too late")
    offered = OfferedOf(
        many=True, help_text="failed cells of the picture it could take; until sent"
    )
    elsewhere = ElsewhereOf(
        allow_null=True, help_text="what came back, outside everything that was sent"
    )
    note = s.CharField()
    reason = s.CharField()
    progress = s.FloatField(allow_null=True)
    returning = ReturnOf(
        allow_null=True, help_text="the last file that was handed in as its answer"
    )
    stop = s.CharField(
        allow_null=True, help_text="when sending back again is no good any more, in words"
    )
    mine = s.BooleanField(help_text="whether the person may rule on it")
    written_by = s.CharField()
    written_at = s.DateTimeField()
    sent_at = s.DateTimeField(allow_null=True)
    returned_at = s.DateTimeField(allow_null=True)
    regions = SlipRegionOf(many=True)
    locks = LockOf(many=True)
    replaceable = s.BooleanField(
        help_text="what came back was not looked at yet: another file can take its place"
    )
    package = PackageOf()
    words = SlipWordOf(many=True, help_text="what was said on it, the oldest first")
    changes = ChoiceOf(many=True, help_text="every change a slip can ask for")


class SlipRegionEdit(Plain):
    region = Whole()
    changes = ChangeOf(many=True, required=False)
    note = s.CharField(max_length=4000, allow_blank=True, required=False)


class SlipEdit(Plain):
    note = s.CharField(max_length=4000, allow_blank=True, required=False)
    worker = Whole(
        allow_null=True,
        required=False,
        help_text="a retoucher of the job; null for the retoucher's desk or a method",
    )
    method = s.CharField(
        max_length=120, allow_null=True, required=False, help_text="a built-in method instead"
    )
    tier = s.CharField(
        max_length=40,
        allow_null=True,
        required=False,
        help_text="of the outside service, which it goes to instead",
    )
    due = s.DateField(allow_null=True, required=False)
    cells = s.ListField(
        child=Whole(),
        required=False,
        max_length=500,
        help_text="the failed cells it takes, all of them",
    )
    regions = SlipRegionEdit(many=True, required=False)


class RegionLeaves(Plain):
    region = s.IntegerField()
    leaves = LeavesOf(help_text="of the attempt that is sent, in its own frame")


class SlipOutside(Plain):
    outside = RemovalOf(help_text="what the service offers; its `leaves` is null")
    regions = RegionLeaves(many=True, help_text="empty until the attempt can be shown")


class RegionSeen(Plain):
    region = Whole()
    box = Bounded(
        child=Whole(), min_length=4, max_length=4, help_text="what was seen to leave: `leaves.box`"
    )


class SlipSent(Plain):
    leaves = RegionSeen(
        many=True, required=False, default=list, help_text="for the outside service"
    )


class FollowedOf(Plain):
    region = Whole()
    changes = s.ListField(child=s.CharField(max_length=60), max_length=60)


class SlipHandIn(Plain):
    followed = FollowedOf(many=True, required=False, default=list)


class _FollowedText(s.CharField):
    """A list of `FollowedOf` as JSON: a form has no lists of its own."""

    def to_internal_value(self, data: Any) -> Any:
        try:
            plain = json.loads(super().to_internal_value(data) or "[]")
        except (ValueError, RecursionError) as error:
            raise s.ValidationError("That is not what was followed.") from error
        shape = FollowedOf(data=plain, many=True)
        shape.is_valid(raise_exception=True)
        return shape.validated_data


class SlipResult(Plain):
    file = s.FileField(allow_empty_file=True)
    seconds = Finite(min_value=0, max_value=1e8, required=False, allow_null=True, default=None)
    cost = s.DecimalField(
        max_digits=9, decimal_places=2, min_value=0, required=False, allow_null=True, default=None
    )
    followed = _FollowedText(
        max_length=20_000,
        required=False,
        allow_blank=True,
        default="",
        help_text="which changes were followed, as JSON: a list of {region, changes}",
    )
    dry = s.BooleanField(required=False, default=False, help_text="only look at it")
