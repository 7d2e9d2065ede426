"""Near-identical pictures of a job."""

from __future__ import annotations

from django.db import models

from jobs.models import Picture


class Fingerprint(models.Model):
    """`bits`: of the original, as the core computes them, 16 hexadecimal digits."""

    picture = models.OneToOneField(
        Picture, models.CASCADE, primary_key=True, related_name="fingerprint"
    )
    bits = models.CharField(max_length=16)
    made_at = models.DateTimeField(auto_now_add=True)


class Sibling(models.Model):
    """`second` is near-identical to `first`, which came before it; `alignment`: how it lies to it."""

    first = models.ForeignKey(Picture, models.CASCADE, related_name="+")
    second = models.ForeignKey(Picture, models.CASCADE, related_name="+")
    alignment = models.JSONField()
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["first", "second"], name="siblings_once")]
