"""Who is in charge of a picture, and when somebody was last at the Desk."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from jobs.models import Picture


class Charge(models.Model):
    """The supervisor who decides on a picture. One without a row is nobody's: whoever comes first
    decides.
    """

    picture = models.OneToOneField(Picture, models.CASCADE, primary_key=True, related_name="charge")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="charges")
    since = models.DateTimeField(auto_now=True)


class Visit(models.Model):
    """`at`: when somebody was last at the Desk; `before`: when the visit before this one ended."""

    person = models.OneToOneField(
        settings.AUTH_USER_MODEL, models.CASCADE, primary_key=True, related_name="desk_visit"
    )
    at = models.DateTimeField()
    before = models.DateTimeField(null=True)
