"""Old work is forgotten: what it made stands elsewhere."""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.db.models import Q

from .clock import now
from .models import Work


def forget_done() -> int:
    """Forget work that was finished long ago; how much it was."""
    kept = timedelta(days=settings.WORK_KEPT)
    old = Q(state="done", finished_at__lt=now() - kept)
    older = Q(state="failed", finished_at__lt=now() - 3 * kept)
    count, _ = Work.objects.filter(old | older).delete()
    return count
