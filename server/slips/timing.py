"""How long whoever slips go to usually takes."""

from __future__ import annotations

from datetime import datetime, time, timedelta

from django.utils import timezone

from work.clock import now
from zweiblick_core.rules.timing import Usual, late, usual

from .models import Slip

#: So many of the newest rounds are looked at.
_ROUNDS = 500


def recipient_key(slip: Slip) -> str:
    """Who works a slip: a person, a method, the outside service or the desk."""
    if slip.worker_id is not None:
        return f"person {slip.worker_id}"
    if slip.tier:
        return "outside"
    return f"method {slip.method['name']}" if slip.method else "desk"


def usual_by_recipient(jobs: set[int]) -> dict[str, Usual]:
    """Of the rounds of some jobs; in one query."""
    took: dict[str, list[float]] = {}
    rows = Slip.objects.filter(
        picture__job__in=jobs, sent_at__isnull=False, returned_at__isnull=False
    ).order_by("-returned_at")
    for slip in rows.only("worker", "tier", "method", "sent_at", "returned_at")[:_ROUNDS]:
        assert slip.sent_at is not None and slip.returned_at is not None
        seconds = (slip.returned_at - slip.sent_at).total_seconds()
        took.setdefault(recipient_key(slip), []).append(seconds)
    found = {key: usual(rounds) for key, rounds in took.items()}
    return {key: one for key, one in found.items() if one is not None}


def will_be_late(slip: Slip, usually: Usual | None) -> bool:
    """Whether a slip that is out will usually come back after the day it is due, or the job's
    deadline.
    """
    if slip.sent_at is None or slip.state not in ("sent", "working", "question"):
        return False
    needed = [one for one in (_end_of(slip), slip.picture.job.deadline) if one is not None]
    left = (min(needed) - now()).total_seconds() if needed else None
    return late((now() - slip.sent_at).total_seconds(), left, usually)


def _end_of(slip: Slip) -> datetime | None:
    if slip.due is None:
        return None
    midnight = datetime.combine(slip.due + timedelta(days=1), time.min)
    return timezone.make_aware(midnight)
