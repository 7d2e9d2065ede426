"""The shapes of the outside service in the API."""

from __future__ import annotations

from rest_framework import serializers as s

from .serializers import Bounded, Plain, Whole
from .trial_serializers import RUN_STATES


class TierOf(Plain):
    name = s.CharField()
    credits = s.IntegerField()
    terms = s.CharField()
    refused = s.CharField(allow_null=True, help_text="why the job cannot use it; null if it can")


class LeavesOf(Plain):
    box = s.ListField(
        child=s.IntegerField(), help_text="x, y, width, height in the frame of what it is made from"
    )
    shown = s.ListField(child=s.FloatField(), help_text="the same in the original's frame")
    share = s.FloatField(help_text="of the whole picture, 0..1")
    marked = s.IntegerField(help_text="pixels of the region")
    soft = s.BooleanField(help_text="larger than the service works at: it comes back soft")


class OrderOf(Plain):
    id = s.IntegerField()
    region = s.IntegerField()
    made_from = s.IntegerField(allow_null=True, help_text="an attempt's number; null: the original")
    tier = s.CharField()
    terms = s.CharField()
    credits = s.IntegerField()
    state = s.ChoiceField(choices=RUN_STATES)
    progress = s.FloatField()
    words = s.CharField()
    reason = s.CharField()
    left = s.BooleanField(help_text="it has left the house")
    attempts = s.ListField(child=s.IntegerField(), help_text="numbers of the attempts it became")
    person = s.CharField()
    made_at = s.DateTimeField()


class RemovalOf(Plain):
    name = s.CharField(allow_null=True, help_text="null where no service is set up")
    use = s.CharField(help_text="what the job's pictures are for")
    resting = s.BooleanField(help_text="it failed again and again and is left alone for a while")
    largest = s.IntegerField(allow_null=True, help_text="the longest side it works at, pixels")
    takes = s.IntegerField()
    tiers = TierOf(many=True, help_text="empty while it has not said what it offers")
    credits = s.IntegerField(help_text="the job's budget")
    spent = s.IntegerField(help_text="of it, orders that are out included")
    leaves = LeavesOf(allow_null=True, help_text="what would leave; null without a region")
    orders = OrderOf(many=True, help_text="of the picture, the newest first")


class OrderAsked(Plain):
    region = Whole()
    base = Whole(allow_null=True, required=False, default=None)
    tier = s.CharField(max_length=40)
    box = Bounded(
        child=Whole(), min_length=4, max_length=4, help_text="what was seen to leave: `leaves.box`"
    )


class BudgetAsked(Plain):
    credits = Whole(max_value=1_000_000)
