"""Jobs, who takes part in them, their pictures, and what was released to whom."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.utils.functional import cached_property

from people.models import Person


class Membership(models.Model):
    class Role(models.TextChoices):
        SUPERVISOR = "supervisor"
        RETOUCHER = "retoucher"
        GUEST = "guest"

    job = models.ForeignKey("jobs.Job", models.CASCADE, related_name="memberships")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=12, choices=Role)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "person"], name="one_role_a_job")]


def jobs_of(person: Person, *roles: str) -> Q:
    """The condition on a job's membership: `person` takes part, in one of `roles` if any are given."""
    condition = Q(memberships__person=person)
    return condition & Q(memberships__role__in=roles) if roles else condition


STAFF = (Membership.Role.SUPERVISOR, Membership.Role.RETOUCHER)


class JobQuerySet(models.QuerySet["Job"]):
    def visible_to(self, person: Person) -> JobQuerySet:
        return self.filter(jobs_of(person)).distinct()


class Job(models.Model):
    """One client's order. `bar`: per kind, the severity (0..1) that fails for this client. `use`:
    what its pictures are for, of the core's `rights.USES`.
    """

    name = models.CharField(max_length=160)
    client = models.CharField(max_length=160, blank=True)
    deadline = models.DateTimeField(null=True, blank=True)
    bar = models.JSONField(default=dict, blank=True)
    use = models.CharField(max_length=20, default="paying client")
    made_at = models.DateTimeField(auto_now_add=True)
    objects = JobQuerySet.as_manager()

    def role_of(self, person: Person) -> str | None:
        found = self.memberships.filter(person=person).first()
        return found.role if found else None


class DeliverySize(models.Model):
    """A use the job's pictures must hold up for; `spec` as the core's `parse_size` reads it. The
    first one is judged for.
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="sizes")
    name = models.CharField(max_length=80)
    spec = models.CharField(max_length=80)
    position = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["position", "id"]
        constraints = [models.UniqueConstraint(fields=["job", "name"], name="size_named_once")]


class PictureQuerySet(models.QuerySet["Picture"]):
    def visible_to(self, person: Person) -> PictureQuerySet:
        """Staff see a job's pictures; a guest sees those released to them."""
        return self.filter(
            Q(job__memberships__person=person, job__memberships__role__in=STAFF)
            | Q(releases__person=person)
        ).distinct()

    def worked_by(self, person: Person) -> PictureQuerySet:
        """Only where the person is supervisor or retoucher."""
        return self.filter(
            job__memberships__person=person, job__memberships__role__in=STAFF
        ).distinct()


class StandingPictures(models.Manager.from_queryset(PictureQuerySet)):  # type: ignore[misc]
    """Pictures that were not withdrawn."""

    def get_queryset(self) -> PictureQuerySet:
        found: PictureQuerySet = super().get_queryset().filter(withdrawn_at=None)
        return found


class Picture(models.Model):
    """One photograph of a job. One that is withdrawn keeps all that was said of it, and stands
    nowhere else.
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="pictures")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=160)
    made_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)
    objects = StandingPictures()
    every = PictureQuerySet.as_manager()

    class Meta:
        ordering = ["job", "number"]
        base_manager_name = "every"
        constraints = [
            models.UniqueConstraint(fields=["job", "number"], name="picture_numbered_once")
        ]

    @cached_property
    def original(self) -> Any:
        """The original's image, None while there is none; it never changes, so it is asked for
        once.
        """
        return self.images.select_related("blob").filter(role="original").first()


class Release(models.Model):
    """An attempt that a guest may see."""

    picture = models.ForeignKey(Picture, models.CASCADE, related_name="releases")
    attempt = models.ForeignKey("attempts.Attempt", models.CASCADE, related_name="releases")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="releases")
    released_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    released_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["attempt", "person"], name="released_once")]
