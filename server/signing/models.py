"""Signing off: what leaves the house, who said so, and the files that were built of it."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from attempts.models import Attempt
from jobs.models import Job, Membership, Picture
from looks.models import OwnFinding
from people.models import Person
from regions.models import RegionVersion


class SignOffQuerySet(models.QuerySet["SignOff"]):
    def standing(self) -> SignOffQuerySet:
        return self.filter(reopened_at=None)


class SignOff(models.Model):
    """An attempt of a picture that is signed off. `sizes`: the delivery sizes it was signed for,
    {name, spec}; `accepted`: what was found and is acceptable, {region, kind, word, person};
    `outside`: changes outside every region that were accepted; `outlines`: the region versions as
    they stood. It stands until it is reopened; `standing` holds the picture's id as long, so that
    one stands at a time.
    """

    picture = models.ForeignKey(Picture, models.PROTECT, related_name="sign_offs")
    standing = models.OneToOneField(
        Picture, models.PROTECT, null=True, related_name="standing_sign_off"
    )
    attempt = models.ForeignKey(Attempt, models.PROTECT, related_name="sign_offs")
    sizes = models.JSONField()
    accepted = models.JSONField(default=list)
    outside = models.PositiveIntegerField(default=0)
    outlines = models.JSONField(default=list)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    reopened_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    reopened_at = models.DateTimeField(null=True)
    reason = models.TextField(blank=True)
    objects = SignOffQuerySet.as_manager()

    class Meta:
        ordering = ["id"]

    def regions(self) -> list[RegionVersion]:
        """Its regions' outlines as they were signed, by number."""
        rows = RegionVersion.objects.filter(pk__in=self.outlines).select_related("region")
        return list(rows.order_by("region__number"))


class RemarkQuerySet(models.QuerySet["Remark"]):
    def visible_to(self, person: Person) -> RemarkQuerySet:
        """A job's supervisors see all of its remarks; a guest their own."""
        return self.filter(
            models.Q(
                picture__job__memberships__person=person,
                picture__job__memberships__role=Membership.Role.SUPERVISOR,
            )
            | models.Q(person=person, picture__releases__person=person)
        ).distinct()


class Remark(models.Model):
    """What a guest said of a released attempt, word for word. `place`: [x, y] in the original's
    frame; None: of the whole. `finding`: what it became, if it became a person's finding. Answered
    once; rows are never removed.
    """

    picture = models.ForeignKey(Picture, models.PROTECT, related_name="remarks")
    attempt = models.ForeignKey(Attempt, models.PROTECT, related_name="remarks")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    words = models.TextField()
    place = models.JSONField(null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    answer = models.TextField(blank=True)
    answered_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    answered_at = models.DateTimeField(null=True)
    finding = models.OneToOneField(OwnFinding, models.PROTECT, null=True, related_name="remark")
    objects = RemarkQuerySet.as_manager()

    class Meta:
        ordering = ["id"]


class DeliveryQuerySet(models.QuerySet["Delivery"]):
    def visible_to(self, person: Person) -> DeliveryQuerySet:
        return self.filter(
            job__memberships__person=person,
            job__memberships__role=Membership.Role.SUPERVISOR,
        ).distinct()


class Delivery(models.Model):
    """A zip of signed pictures. `options`: what it holds, as `formats.Options`; `key` names its
    file. It is kept a while and can be built again. States are in the core's table "delivery".
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="deliveries")
    signed = models.ManyToManyField(SignOff, related_name="deliveries")
    options = models.JSONField()
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    state = models.CharField(max_length=12, default="waiting")
    reason = models.TextField(blank=True)
    key = models.CharField(max_length=32, unique=True)
    sha256 = models.CharField(max_length=64, blank=True)
    size = models.PositiveBigIntegerField(default=0)
    made_at = models.DateTimeField(auto_now_add=True)
    finished_at = models.DateTimeField(null=True)
    objects = DeliveryQuerySet.as_manager()

    class Meta:
        ordering = ["-id"]
