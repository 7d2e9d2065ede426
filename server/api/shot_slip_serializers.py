"""The shapes of shots' slips in the API."""

from __future__ import annotations

from rest_framework import serializers as s

from zweiblick_core.rules.shots import OUTCOMES

from .serializers import Bounded, Plain, Whole

STATES = [
    "sent",
    "working",
    "question",
    "declined",
    "failed",
    "returned",
    "rechecked",
    "settled",
    "withdrawn",
]
EVENTS = [
    "taken up",
    "asked",
    "answered",
    "declined",
    "handed over",
    "withdrawn",
    "settled",
    "sent",
]


class FrameRange(Plain):
    first = s.IntegerField()
    last = s.IntegerField()


class ShotFlawOf(Plain):
    kind = s.CharField()
    first = s.IntegerField()
    last = s.IntegerField()


class ShotSlipPartOf(Plain):
    region = s.IntegerField(help_text="row")
    number = s.IntegerField()
    ranges = FrameRange(many=True)
    flaws = ShotFlawOf(many=True, help_text="what stood there when it was sent")
    word = s.ChoiceField(choices=OUTCOMES, allow_null=True, help_text="what became of it")
    kinds = s.ListField(
        child=s.ListField(child=s.CharField()), help_text="of each kind: it, and what became of it"
    )


class ShotTouchedOf(Plain):
    frame = s.IntegerField()
    bbox = s.ListField(child=s.IntegerField())
    pixels = s.IntegerField(help_text="how many differ")


class ShotRestOf(Plain):
    margin = s.IntegerField(help_text="pixels about the outlines that may differ")
    frames = s.IntegerField(help_text="how many were compared")
    same = FrameRange(many=True, help_text="the same to the bit")
    recoded = FrameRange(many=True, help_text="the same but for being saved anew")
    differing = FrameRange(many=True)
    places = ShotTouchedOf(many=True, help_text="where it differs, the largest first")


class ShotRepairedOf(Plain):
    number = s.IntegerField(help_text="the attempt's")
    frames = s.ListField(child=s.IntegerField())


class ShotSlipWordOf(Plain):
    what = s.CharField()
    person = s.CharField()
    words = s.CharField()
    at = s.DateTimeField()


class ShotSlipOf(Plain):
    id = s.IntegerField()
    round = s.IntegerField()
    attempt = s.IntegerField(allow_null=True, help_text="its number; null: the original")
    recipient = s.CharField()
    by_method = s.BooleanField()
    repaired = ShotRepairedOf(allow_null=True)
    parts = ShotSlipPartOf(many=True)
    note = s.CharField()
    due = s.DateField(allow_null=True)
    state = s.ChoiceField(choices=STATES)
    reason = s.CharField(help_text="why it failed")
    progress = s.FloatField()
    words = s.CharField(help_text="what is being done")
    packing = s.BooleanField(help_text="whether its package is being built")
    returned = s.IntegerField(
        allow_null=True, help_text="the number of the attempt that answers it"
    )
    rest = ShotRestOf(allow_null=True)
    by = s.CharField()
    written_at = s.DateTimeField()
    mine = s.BooleanField(help_text="whether one works on it oneself")
    words_said = ShotSlipWordOf(many=True)
    package = s.CharField(allow_null=True, help_text="where its package is; null until it is built")


class ShotMethodOf(Plain):
    name = s.CharField()
    what = s.CharField()


class ShotWorkerOf(Plain):
    id = s.IntegerField()
    name = s.CharField()


class ShotSlipPartInList(Plain):
    number = s.IntegerField()
    name = s.CharField()
    ranges = FrameRange(many=True)
    word = s.ChoiceField(choices=OUTCOMES, allow_null=True, help_text="what became of it")


class ShotSlipInList(Plain):
    id = s.IntegerField()
    round = s.IntegerField()
    shot = s.IntegerField(help_text="row")
    shot_number = s.IntegerField()
    shot_name = s.CharField()
    job = s.CharField()
    deadline = s.DateTimeField(allow_null=True)
    frames = s.IntegerField(help_text="of the shot")
    first = s.IntegerField(help_text="the number of its first frame")
    attempt = s.IntegerField(allow_null=True, help_text="its number; null: the original")
    recipient = s.CharField()
    mine = s.BooleanField(help_text="whether one works on it oneself")
    parts = ShotSlipPartInList(many=True)
    state = s.ChoiceField(choices=STATES)
    reason = s.CharField()
    progress = s.FloatField(allow_null=True, help_text="of a method that works on it")
    due = s.DateField(allow_null=True)
    at = s.DateTimeField(help_text="when it came to stand so")
    differing = s.BooleanField(help_text="whether what was not sent was changed")


class FrameRangeAsked(Plain):
    first = Whole()
    last = Whole()


class ShotSlipPartAsked(Plain):
    region = Whole(help_text="row")
    ranges = Bounded(child=FrameRangeAsked(), max_length=200, min_length=1)


class RepairedAsked(Plain):
    attempt = Whole(help_text="row")
    frames = Bounded(child=Whole(), max_length=200, min_length=1)


class ShotSlipAsked(Plain):
    attempt = Whole(
        required=False, allow_null=True, default=None, help_text="row; null: the original"
    )
    parts = Bounded(child=ShotSlipPartAsked(), max_length=200, min_length=1)
    worker = Whole(
        required=False, allow_null=True, default=None, help_text="a retoucher of the job"
    )
    method = s.CharField(max_length=60, required=False, default="", allow_blank=True)
    repaired = RepairedAsked(required=False, allow_null=True, default=None)
    note = s.CharField(max_length=2000, required=False, default="", allow_blank=True)
    due = s.DateField(required=False, allow_null=True, default=None)


class ShotSlipStep(Plain):
    event = s.ChoiceField(choices=EVENTS)
    words = s.CharField(max_length=4000, required=False, default="", allow_blank=True)
    worker = Whole(
        required=False, allow_null=True, default=None, help_text="whom it is handed over to"
    )


class ShotAnswerAsked(Plain):
    footage = Whole()
