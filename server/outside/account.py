"""What the service offers, asked from time to time by a worker: no web request waits for it."""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings

from work.clock import now
from zweiblick_core.errors import Refused

from . import breaker, client
from .models import Service

#: It is asked again after so long.
FRESH = timedelta(minutes=5)


def refresh_account() -> None:
    """Ask, if it was not asked lately and is not left alone."""
    if not settings.REMOVAL_URL:
        return
    row = breaker.service()
    if row.asked_at is not None and row.asked_at > now() - FRESH:
        return
    try:
        breaker.refuse_resting()
        found = client.account(timeout=(2.0, 3.0))
    except breaker.Resting:
        return
    except (client.Unreachable, Refused):
        breaker.failed()
        return
    breaker.worked()
    Service.objects.filter(pk=row.pk).update(account=found, asked_at=now())
