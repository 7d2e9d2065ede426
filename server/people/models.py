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
