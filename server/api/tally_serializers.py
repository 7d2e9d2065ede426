"""The shapes of the Tally in the API."""

from __future__ import annotations

from rest_framework import serializers as s

from .serializers import Plain, Whole


class ShareOf(Plain):
    count = s.IntegerField()
    of = s.IntegerField()
    low = s.FloatField(help_text="95 % Wilson score interval, 0..1")
    high = s.FloatField()
    few = s.BooleanField(help_text="too few to say much")


class HeldOf(ShareOf):
    name = s.CharField()
    backdrop = s.CharField()


class NameTallied(ShareOf):
    name = s.CharField()
    attempts = s.IntegerField()
    rounds = s.FloatField(allow_null=True, help_text="median, of regions in which one held")
    seconds = s.FloatField(allow_null=True, help_text="median")
    cost = s.CharField(allow_null=True, help_text="median")


class KindTallied(ShareOf):
    name = s.CharField()
    kind = s.CharField()


class AdviceTallied(Plain):
    what = s.CharField()
    words = s.CharField()
    asked = s.IntegerField()
    followed = s.IntegerField()
    helped = ShareOf(help_text="of those followed, where all that it answers was fixed")
    without = ShareOf(help_text="the same of those not followed")


class JobTallied(Plain):
    id = s.IntegerField()
    name = s.CharField()


class TallyOf(Plain):
    jobs = JobTallied(many=True)
    rows = HeldOf(many=True, help_text="regions that held at the first attempt")
    names = NameTallied(many=True)
    kinds = KindTallied(many=True, help_text="flaws that people saw")
    advice = AdviceTallied(many=True)


class TallyAsked(Plain):
    job = Whole(required=False, allow_null=True, default=None)
    days = Whole(required=False, allow_null=True, default=None, min_value=1, max_value=36_500)
    by = s.ChoiceField(choices=("method", "maker"), required=False, default="method")
