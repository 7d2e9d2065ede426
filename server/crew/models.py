"""Invitations into a job."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from jobs.models import Job, Membership


class Invitation(models.Model):
    """A link that lets one person into a job. Only a hash of what the link holds is kept: whoever
    reads the database cannot use it. `name`: what the person is called, as a suggestion. It is
    open until it is used, taken back or over.
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=12, choices=Membership.Role)
    name = models.CharField(max_length=120, blank=True)
    token_hash = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    used_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    used_at = models.DateTimeField(null=True)
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
