"""The shapes of signing off and delivering in the API."""

from __future__ import annotations

from rest_framework import serializers as s

from signing.formats import FINALS

from .serializers import Bounded, ImageOf, Plain, RemarkOf, Whole

DELIVERY_STATES = ("waiting", "building", "ready", "failed", "forgotten")


class AcceptedOf(Plain):
    region = s.IntegerField(allow_null=True, help_text="null: outside every region")
    kind = s.CharField()
    person = s.CharField()


class SizeSigned(Plain):
    name = s.CharField()
    spec = s.CharField()
    width = s.IntegerField(help_text="pixels, as it is delivered at this size")
    height = s.IntegerField()


class SignedOf(Plain):
    attempt = s.IntegerField(help_text="its number")
    person = s.CharField()
    at = s.DateTimeField()
    outside = s.IntegerField(help_text="changes outside every region that were accepted")
    reopened_by = s.CharField(allow_null=True)
    reopened_at = s.DateTimeField(allow_null=True)
    reason = s.CharField()


class GuestOf(Plain):
    id = s.IntegerField()
    name = s.CharField()
    released = s.BooleanField()


class RegionHeld(Plain):
    number = s.IntegerField()
    name = s.CharField()
    ruling = s.CharField(allow_null=True)
    person = s.CharField(allow_null=True)
    size = s.CharField(allow_null=True)


class RegionPlace(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    bbox = s.ListField(child=s.FloatField())


class SigningOf(Plain):
    picture = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    job = s.CharField()
    job_id = s.IntegerField()
    attempt = s.IntegerField(
        allow_null=True, help_text="the one that leaves; null while none holds"
    )
    attempt_number = s.IntegerField(allow_null=True)
    method = s.CharField()
    original = ImageOf()
    image = ImageOf(allow_null=True, help_text="its image")
    reasons = s.ListField(child=s.CharField(), help_text="why it cannot be signed off")
    use = s.CharField()
    sizes = SizeSigned(many=True)
    regions = RegionHeld(many=True)
    accepted = AcceptedOf(many=True, help_text="what was found and is acceptable, and by whom")
    signed = SignedOf(allow_null=True)
    remarks = RemarkOf(many=True, help_text="of guests, the oldest first")
    places = RegionPlace(many=True, help_text="the picture's regions")
    past = SignedOf(many=True, help_text="sign-offs that were reopened")
    guests = GuestOf(many=True)


class SignAsked(Plain):
    attempt = Whole()


class ReopenAsked(Plain):
    reason = s.CharField(max_length=2000)


class ReleaseAsked(Plain):
    people = Bounded(child=Whole(), min_length=1, max_length=100)


class SignedPicture(Plain):
    picture = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    attempt = s.IntegerField(help_text="its number")
    person = s.CharField()
    at = s.DateTimeField()


class DeliveryOf(Plain):
    id = s.IntegerField()
    state = s.ChoiceField(choices=DELIVERY_STATES)
    progress = s.FloatField()
    words = s.CharField()
    reason = s.CharField()
    pictures = s.ListField(child=s.CharField())
    holds = s.ListField(child=s.CharField(), help_text="what is in it, in words")
    bytes = s.IntegerField()
    sha256 = s.CharField()
    file = s.CharField(allow_null=True, help_text="where to get it; null while it is not ready")
    person = s.CharField()
    at = s.DateTimeField()


class Deliveries(Plain):
    job = s.CharField()
    sizes = s.ListField(child=s.CharField())
    waiting = s.IntegerField(help_text="pictures of the job that are not signed off")
    signed = SignedPicture(many=True)
    deliveries = DeliveryOf(many=True, help_text="the newest first")


class DeliveryAsked(Plain):
    pictures = Bounded(child=Whole(), min_length=1, max_length=1000)
    finals = Bounded(
        child=s.ChoiceField(choices=FINALS), max_length=3, required=False, default=list
    )
    quality = Whole(min_value=60, max_value=100, required=False, default=92)
    sizes = Bounded(child=s.CharField(max_length=80), max_length=50, required=False, default=list)
    layered = s.BooleanField(required=False, default=False)
    masks = s.BooleanField(required=False, default=False)
    sheets = s.BooleanField(required=False, default=False)
