"""A service that fails again and again is left alone for a while: the breaker of Nygard's "Release
It!", kept in the database, so that all workers share it.
"""

from __future__ import annotations

from datetime import datetime, timedelta

from django.conf import settings
from django.db import transaction

from work.clock import now

from .models import Service

#: After so many failures in a row it rests, seconds; twice as long each time, up to the last.
FAILURES, REST, LONGEST = 4, 15.0, 600.0


class Resting(Exception):
    """It is left alone until then."""

    def __init__(self, until: datetime) -> None:
        super().__init__(f"{settings.REMOVAL_NAME} is left alone for a while")
        self.until = until


def service() -> Service:
    """The one row."""
    found, _ = Service.objects.get_or_create(name=settings.REMOVAL_NAME)
    return found


def refuse_resting() -> None:
    """Raises: Resting. Once the rest is over one asks again, and one failure more makes it rest
    longer.
    """
    until = service().resting_until
    if until is not None and until > now():
        raise Resting(until)


@transaction.atomic
def failed() -> None:
    """It did not answer, or not in a way that can be understood."""
    row = Service.objects.select_for_update().get(pk=service().pk)
    row.failures += 1
    if row.failures >= FAILURES:
        rest = min(LONGEST, REST * 2 ** (row.failures - FAILURES))
        row.resting_until = now() + timedelta(seconds=rest)
    row.save(update_fields=["failures", "resting_until"])


def worked() -> None:
    """It answered."""
    Service.objects.filter(pk=service().pk).update(failures=0, resting_until=None)
