"""Rework slips: the failed regions of a picture, what is wrong with each, what to do differently,
and what became of it.
"""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from attempts.models import Attempt
from jobs.models import Membership, Picture
from outside.models import Order
from people.models import Person
from regions.models import Region, RegionVersion
from verdicts.models import Verdict
from work.keys import new_key

#: States in which a region is out: it is on no second slip meanwhile.
OPEN = ("written", "sent", "working", "question", "declined", "returned", "failed")


class SlipQuerySet(models.QuerySet["Slip"]):
    def visible_to(self, person: Person) -> SlipQuerySet:
        """A supervisor sees a job's slips; a retoucher those that are theirs and have been sent."""
        supervised = Q(
            picture__job__memberships__person=person,
            picture__job__memberships__role=Membership.Role.SUPERVISOR,
        )
        theirs = Q(
            worker=person,
            picture__job__memberships__person=person,
            picture__job__memberships__role=Membership.Role.RETOUCHER,
        ) & ~Q(state__in=("written", "withdrawn"))
        return self.filter(supervised | theirs).distinct()


class Slip(models.Model):
    """`attempt`: what is worked on; some of its regions may have failed in another. `worker`: the
    retoucher it goes to; `method`: {name, settings} of a built-in method that it goes to instead;
    `tier`: of the outside service, if it goes there; none of them: the retoucher's desk. `key`: names it outside, so that it is worked once. `round`: its
    number among the picture's slips. `looked_at`: when somebody who rules first saw what came back; until then it can be replaced.
    `packed`: the key under which its package lies as it stands. `elsewhere`: what the answer shows outside all that was sent,
    as {margin, same, saved_anew, compared, differing, places}. States are in the core's table
    "slip".
    """

    picture = models.ForeignKey(Picture, models.CASCADE, related_name="slips")
    attempt = models.ForeignKey(Attempt, models.PROTECT, related_name="slips")
    round = models.PositiveIntegerField()
    key = models.CharField(max_length=32, unique=True, default=new_key)
    worker = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="slips"
    )
    method = models.JSONField(null=True)
    tier = models.CharField(max_length=40, blank=True)
    due = models.DateField(null=True)
    state = models.CharField(max_length=12, default="written")
    note = models.TextField(blank=True)
    elsewhere = models.JSONField(null=True)
    reason = models.TextField(blank=True)
    returned = models.OneToOneField(Attempt, models.PROTECT, null=True, related_name="answers")
    written_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    written_at = models.DateTimeField(auto_now_add=True)
    sent_at = models.DateTimeField(null=True)
    returned_at = models.DateTimeField(null=True)
    rechecked_at = models.DateTimeField(null=True)
    looked_at = models.DateTimeField(null=True)
    packed = models.CharField(max_length=32, blank=True)
    objects = SlipQuerySet.as_manager()

    @property
    def recipient(self) -> str:
        """Whom it goes to, as people read it."""
        if self.worker is not None:
            return self.worker.called
        if self.tier:
            return str(settings.REMOVAL_NAME)
        return str(self.method["name"]) if self.method else "retoucher's desk"

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.UniqueConstraint(fields=["picture", "round"], name="slip_rounds_once")
        ]


class SlipRegion(models.Model):
    """`attempt`: the one in which it failed; `flaws`: the findings as they stood when it was
    written; `changes`: [{what, values, because, why}] as in the core's advice; `followed`: which of
    them whoever worked on it followed, None where nobody said; `order`: what was ordered for it, if
    the slip goes to the outside service; `outcome`: {word, kinds} once the
    returned attempt is rechecked.
    """

    slip = models.ForeignKey(Slip, models.CASCADE, related_name="regions")
    region = models.ForeignKey(Region, models.PROTECT, related_name="slips")
    attempt = models.ForeignKey(Attempt, models.PROTECT, related_name="+")
    version = models.ForeignKey(RegionVersion, models.PROTECT, related_name="+")
    verdict = models.ForeignKey(Verdict, models.PROTECT, related_name="+")
    flaws = models.JSONField(default=list)
    changes = models.JSONField(default=list)
    followed = models.JSONField(null=True)
    order = models.OneToOneField(Order, models.PROTECT, null=True, related_name="slip_region")
    note = models.TextField(blank=True)
    outcome = models.JSONField(null=True)

    class Meta:
        ordering = ["region__number"]
        constraints = [
            models.UniqueConstraint(fields=["slip", "region"], name="region_once_a_slip")
        ]


class Lock(models.Model):
    """What a returned attempt did to a region that was not sent: proven the same, or touched."""

    slip = models.ForeignKey(Slip, models.CASCADE, related_name="locks")
    region = models.ForeignKey(Region, models.PROTECT, related_name="+")
    same = models.BooleanField()
    differing = models.PositiveIntegerField()
    compared = models.PositiveIntegerField()
    # The same but for being saved anew as a JPEG.
    saved_anew = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["slip", "region"], name="lock_once_a_slip")]


class Return(models.Model):
    """A file that a person handed in as a slip's answer. `settled`: it became an attempt, or
    `reason` says why not. `dry`: it is only to be looked at, as the answer would be; `report` says
    what was found, and the file is kept until it is handed in or another one comes.
    `followed`: {region: [changes]} that the person says were followed. `moved`: the slip that it
    answers instead, where it was handed in.
    """

    slip = models.ForeignKey(Slip, models.CASCADE, related_name="returns")
    key = models.CharField(max_length=32, unique=True, default=new_key)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    name = models.CharField(max_length=180)
    sha256 = models.CharField(max_length=64)
    size = models.PositiveBigIntegerField()
    seconds = models.FloatField(null=True)
    cost = models.DecimalField(max_digits=9, decimal_places=2, null=True)
    dry = models.BooleanField(default=False)
    followed = models.JSONField(default=dict)
    report = models.JSONField(null=True)
    moved = models.ForeignKey(Slip, models.SET_NULL, null=True, related_name="+")
    settled = models.BooleanField(default=False)
    reason = models.TextField(blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class SlipWord(models.Model):
    """What was said on a slip: questions and their answers, why it was declined, what goes along
    when it is handed over. Rows are appended.
    """

    class What(models.TextChoices):
        ASKED = "asked"
        ANSWERED = "answered"
        DECLINED = "declined"
        HANDED_OVER = "handed over"
        SETTLED = "settled"

    slip = models.ForeignKey(Slip, models.CASCADE, related_name="words")
    what = models.CharField(max_length=12, choices=What)
    # None: somebody at the retoucher's desk.
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    words = models.TextField(blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
