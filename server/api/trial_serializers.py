"""The shapes of trials in the API."""

from __future__ import annotations

from rest_framework import serializers as s

from .serializers import Bounded, Finite, Plain, Whole

#: Of trials and of orders outside.
RUN_STATES = ("waiting", "running", "done", "failed", "cancelled")


class SettingAsked(Plain):
    name = s.CharField()
    words = s.CharField()
    kind = s.CharField(help_text="number, pixels, switch, offset")
    default = s.JSONField(allow_null=True)
    low = s.FloatField()
    high = s.FloatField(help_text="0: as large as it likes")


class MethodDescribed(Plain):
    name = s.CharField()
    words = s.CharField()
    backdrops = s.ListField(child=s.CharField(), help_text="where it is worth a trial first")
    takes = s.BooleanField(help_text="whether another seed gives another result")
    asks = SettingAsked(many=True)


class TrialOf(Plain):
    id = s.IntegerField()
    method = s.CharField()
    settings = s.DictField(child=s.JSONField())
    region = s.IntegerField(allow_null=True)
    regions = s.IntegerField(help_text="how many it works in one attempt")
    made_from = s.IntegerField(allow_null=True, help_text="an attempt's number; null: the original")
    state = s.ChoiceField(choices=RUN_STATES)
    progress = s.FloatField()
    words = s.CharField()
    reason = s.CharField()
    attempt = s.IntegerField(allow_null=True, help_text="the number of the attempt it became")


class RunAsked(Plain):
    method = s.CharField(max_length=120)
    settings = s.DictField(
        child=s.JSONField(), required=False, default=dict, help_text="the method's own"
    )
    grow = s.IntegerField(min_value=-200, max_value=200, required=False, default=0)
    feather = Finite(min_value=0, max_value=200, required=False, default=0.0)
    grain = s.BooleanField(required=False, default=False)
    tone = s.BooleanField(required=False, default=False)
    opacity = Finite(min_value=0.05, max_value=1, required=False, default=1.0)
    seed = s.IntegerField(min_value=0, max_value=1_000_000, required=False, default=1)
    takes = s.IntegerField(min_value=1, max_value=5, required=False, default=1)


class TrialsAsked(Plain):
    region = Whole()
    also = Bounded(
        child=Whole(),
        required=False,
        default=list,
        max_length=100,
        help_text="further regions of the picture, worked in the same attempt",
    )
    base = Whole(allow_null=True, help_text="an attempt; null: the original")
    runs = Bounded(child=RunAsked(), min_length=1, max_length=12)
    keep_out = Bounded(
        child=Bounded(child=Whole(max_value=1_000_000), min_length=4, max_length=4),
        required=False,
        default=list,
        max_length=50,
        help_text="boxes that nothing is taken from",
    )
    take_from = Bounded(
        child=Bounded(child=Whole(max_value=1_000_000), min_length=4, max_length=4),
        required=False,
        default=list,
        max_length=50,
        help_text="boxes that it is taken from; empty: from anywhere",
    )


class PutBackAsked(Plain):
    margin = s.IntegerField(min_value=0, max_value=200, required=False, default=8)
