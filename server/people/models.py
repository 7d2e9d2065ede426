"""Who works here."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Person(AbstractUser):
    """A person who signs in. What they may see and do follows from their memberships of jobs."""

    name = models.CharField(max_length=120, blank=True)
    makes_jobs = models.BooleanField(default=False)

    @property
    def called(self) -> str:
        return self.name or self.username


class Token(models.Model):
    """What a program signs in with for a person, at the few views that take one. Only its hash is
    kept.
    """

    person = models.ForeignKey(Person, models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=80)
    token_hash = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(auto_now_add=True)
    used_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["id"]


class DeskView(models.Model):
    """What somebody looks for on the Desk again and again, under a name. `looked`: as the Desk's
    query says it.
    """

    person = models.ForeignKey(Person, models.CASCADE, related_name="desk_views")
    name = models.CharField(max_length=60)
    looked = models.JSONField()

    class Meta:
        ordering = ["name", "id"]
        constraints = [
            models.UniqueConstraint(fields=["person", "name"], name="desk_view_named_once")
        ]
