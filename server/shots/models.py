"""Moving pictures of a job: footage as it came, shots, attempts at them, regions that are carried through
them, checks and rulings.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from django.conf import settings
from django.db import models

from images.models import Blob
from jobs.models import STAFF, Job, Membership
from people.models import Person
from regions.models import mask_of
from work.keys import new_key
from zweiblick_core.regions import outline


class FootageQuerySet(models.QuerySet["Footage"]):
    def visible_to(self, person: Person) -> FootageQuerySet:
        return self.filter(
            job__memberships__person=person, job__memberships__role__in=STAFF
        ).distinct()

    def waiting(self) -> FootageQuerySet:
        """What is part of no shot yet."""
        return self.filter(shot=None, attempt=None, masks_of=None)


class Footage(models.Model):
    """A file of frames: a video, a ZIP of numbered pictures, or of masks. Never altered.

    `state`: as in the core's table "arrival"; `reason`: why it was refused. `holds`: "frames" or
    "masks". `facts`: what its file says of colour, in words. `first`: the number of its first frame, as
    the files are numbered.
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="footage")
    blob = models.ForeignKey(Blob, models.PROTECT, related_name="footage")
    name = models.CharField(max_length=200)
    state = models.CharField(max_length=12, default="reading")
    reason = models.TextField(blank=True)
    holds = models.CharField(max_length=8, default="frames")
    form = models.CharField(max_length=20, blank=True)
    frames = models.PositiveIntegerField(default=0)
    first = models.PositiveIntegerField(default=0)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    depth = models.PositiveSmallIntegerField(default=8)
    rate = models.CharField(max_length=20, default="24")
    facts = models.JSONField(default=list)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    objects = FootageQuerySet.as_manager()

    class Meta:
        ordering = ["name", "id"]
        constraints = [models.UniqueConstraint(fields=["job", "blob"], name="footage_once_a_job")]


class ShotQuerySet(models.QuerySet["Shot"]):
    def visible_to(self, person: Person) -> ShotQuerySet:
        return self.filter(
            job__memberships__person=person, job__memberships__role__in=STAFF
        ).distinct()


class Shot(models.Model):
    """A picture that moves."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="shots")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=160)
    original = models.OneToOneField(Footage, models.PROTECT, related_name="shot")
    masks = models.OneToOneField(Footage, models.PROTECT, null=True, related_name="masks_of")
    made_at = models.DateTimeField(auto_now_add=True)
    objects = ShotQuerySet.as_manager()

    class Meta:
        ordering = ["job", "number"]
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="shot_numbered_once")]


class ShotAttemptQuerySet(models.QuerySet["ShotAttempt"]):
    def visible_to(self, person: Person) -> ShotAttemptQuerySet:
        return self.filter(
            shot__job__memberships__person=person, shot__job__memberships__role__in=STAFF
        ).distinct()


class ShotAttempt(models.Model):
    """One result for a shot."""

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="attempts")
    number = models.PositiveIntegerField()
    footage = models.OneToOneField(Footage, models.PROTECT, related_name="attempt")
    method = models.CharField(max_length=120)
    maker = models.CharField(max_length=120, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)
    objects = ShotAttemptQuerySet.as_manager()

    class Meta:
        ordering = ["shot", "number"]
        constraints = [
            models.UniqueConstraint(fields=["shot", "number"], name="shot_attempt_numbered_once")
        ]


class ShotRegion(models.Model):
    """Something that was to be removed from a shot. `version` grows with every edit of its outlines."""

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="regions")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=120, blank=True)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["shot", "number"]
        constraints = [
            models.UniqueConstraint(fields=["shot", "number"], name="shot_region_numbered_once")
        ]


class ShotOutline(models.Model):
    """What was drawn of a region in one frame: a 1-bit mask (PNG) cropped to its box, in the original's
    frame. Drawn in one frame it is carried through the others; drawn in more it is corrected there.
    `until`: the version in which it stood for the last time; null while it stands.
    """

    region = models.ForeignKey(ShotRegion, models.CASCADE, related_name="outlines")
    frame = models.PositiveIntegerField()
    since = models.PositiveIntegerField(default=1)
    until = models.PositiveIntegerField(null=True)
    x = models.PositiveIntegerField()
    y = models.PositiveIntegerField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    mask_png = models.BinaryField()
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["frame"]
        constraints = [
            models.UniqueConstraint(
                fields=["region", "frame", "since"], name="shot_outline_once_a_version"
            )
        ]

    def full(self, frame: tuple[int, int]) -> np.ndarray:
        """As a bool mask of a whole frame (height, width)."""
        whole = np.zeros(frame, bool)
        whole[self.y : self.y + self.height, self.x : self.x + self.width] = mask_of(
            bytes(self.mask_png)
        )
        return whole

    @property
    def rings(self) -> list[list[list[float]]]:
        """Its outer rings of [x, y]."""
        return _rings(bytes(self.mask_png), self.x, self.y)


@lru_cache(maxsize=512)
def _rings(mask_png: bytes, x: int, y: int) -> list[list[list[float]]]:
    return outline(mask_of(mask_png), (x, y))


class ShotCheck(models.Model):
    """The machine's examination of one attempt at a shot. `fingerprint` = hash(original, result,
    outlines, core version, options). `state`: as in the core's table "check".
    """

    attempt = models.ForeignKey(ShotAttempt, models.CASCADE, related_name="checks")
    fingerprint = models.CharField(max_length=64, unique=True)
    core_version = models.CharField(max_length=20)
    options = models.JSONField(default=dict)
    state = models.CharField(max_length=12, default="waiting")
    report = models.JSONField(null=True)
    reason = models.TextField(blank=True)
    made_at = models.DateTimeField(auto_now_add=True)
    finished_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["id"]


class ShotVerdict(models.Model):
    """A ruling of some frames of one region in one attempt, `first` to `last`, both included. Rows are
    only added; of each frame the newest stands. `revision`: how many there were of this attempt and
    region, so that a stale one is noticed.
    """

    attempt = models.ForeignKey(ShotAttempt, models.CASCADE, related_name="verdicts")
    region = models.ForeignKey(ShotRegion, models.CASCADE, related_name="verdicts")
    # The region's, as it was outlined then.
    version = models.PositiveIntegerField()
    revision = models.PositiveIntegerField()
    first = models.PositiveIntegerField()
    last = models.PositiveIntegerField()
    ruling = models.CharField(max_length=12)
    words = models.TextField(blank=True)
    # The examination that lay before the person.
    examination = models.ForeignKey(ShotCheck, models.PROTECT, null=True, related_name="+")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(
                fields=["attempt", "region", "revision"], name="shot_verdict_in_turn"
            )
        ]


#: States in which somebody or something works on a slip.
OUT = ("sent", "working", "question")


class ShotSlipQuerySet(models.QuerySet["ShotSlip"]):
    def visible_to(self, person: Person) -> ShotSlipQuerySet:
        """What a supervisor sees of their jobs, and anybody of what they work on."""
        supervised = Job.objects.filter(
            memberships__person=person, memberships__role=Membership.Role.SUPERVISOR
        )
        return self.filter(models.Q(shot__job__in=supervised) | models.Q(worker=person))


class ShotSlip(models.Model):
    """Frames of some regions that are worked again. `attempt`: what is worked on; null: the original.
    `worker`: who works on it; `method`: {name, seed, repaired: {attempt, frames}} of what is built in, instead.
    `parts`: [{region, number, ranges, flaws}], with the flaws that stood when it was sent. `proof`: what the
    answer did to the rest, as the core's `RestProof`; `outcomes`: {region's number: {word, kinds}}. `key`: changes
    with whoever works on it; `packed`: the key that the package was built for. States are in the core's table
    "slip".
    """

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="slips")
    attempt = models.ForeignKey(ShotAttempt, models.PROTECT, null=True, related_name="slips")
    round = models.PositiveIntegerField()
    worker = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    method = models.JSONField(null=True)
    parts = models.JSONField(default=list)
    note = models.TextField(blank=True)
    due = models.DateField(null=True)
    state = models.CharField(max_length=12, default="written")
    reason = models.TextField(blank=True)
    returned = models.OneToOneField(ShotAttempt, models.PROTECT, null=True, related_name="answers")
    proof = models.JSONField(null=True)
    outcomes = models.JSONField(null=True)
    written_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    written_at = models.DateTimeField(auto_now_add=True)
    returned_at = models.DateTimeField(null=True)
    rechecked_at = models.DateTimeField(null=True)
    key = models.CharField(max_length=32, default=new_key)
    packed = models.CharField(max_length=32, blank=True)
    objects = ShotSlipQuerySet.as_manager()

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.UniqueConstraint(fields=["shot", "round"], name="shot_slip_rounds_once")
        ]

    @property
    def recipient(self) -> str:
        """Whom it goes to, as people read it."""
        if self.worker is not None:
            return self.worker.called
        return str(self.method["name"]) if self.method else ""


class ShotSlipWord(models.Model):
    """What was said on a slip of a shot. Rows are appended."""

    class What(models.TextChoices):
        ASKED = "asked"
        ANSWERED = "answered"
        DECLINED = "declined"
        HANDED_OVER = "handed over"

    slip = models.ForeignKey(ShotSlip, models.CASCADE, related_name="words")
    what = models.CharField(max_length=12, choices=What)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    words = models.TextField(blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
