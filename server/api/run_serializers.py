"""The shapes of runs in the API."""

from __future__ import annotations

from rest_framework import serializers as s

from runs.going import ORDERS

from .serializers import DeskAsked, Plain
from .tally_serializers import ShareOf


class RunAskedFor(DeskAsked):
    """What is looked for on the Desk."""

    order = s.ChoiceField(choices=ORDERS, required=False, default=ORDERS[0])


class LikelyOf(Plain):
    ruling = s.CharField(help_text="passes or rework")
    chance = s.FloatField(help_text="that people pass it, 0..1")
    passed = s.IntegerField(help_text="of those that are alike")
    of = s.IntegerField()


class RunStopOf(Plain):
    number = s.IntegerField()
    cell = s.IntegerField()
    picture = s.IntegerField()
    name = s.CharField(help_text="the picture's")
    region = s.IntegerField(help_text="its number")
    attempt = s.IntegerField(help_text="its number")
    offered = LikelyOf(allow_null=True, help_text="null while it is asked in full")
    in_full = s.BooleanField()
    ruled = s.CharField(allow_null=True)
    gone = s.BooleanField(help_text="decided elsewhere meanwhile")


class OwnOf(Plain):
    kappa = s.FloatField(allow_null=True, help_text="null: nothing is known beyond chance")
    low = s.FloatField()
    high = s.FloatField()
    same = s.IntegerField()
    of = s.IntegerField()


class RunOf(Plain):
    id = s.IntegerField()
    order = s.ChoiceField(choices=ORDERS)
    stops = RunStopOf(many=True)
    next = s.IntegerField(allow_null=True, help_text="the stop that is to be ruled next")
    agreement = ShareOf(help_text="of sure ones that were asked in full")
    own = OwnOf(
        help_text="how well one agrees with oneself where rulings were shown again; over all runs"
    )
    hasty = s.BooleanField()
    seconds = s.FloatField(allow_null=True, help_text="the median that a ruling took")
