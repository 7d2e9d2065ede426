"""The database's clock: the only one that all workers share."""

from __future__ import annotations

from datetime import UTC, datetime

from django.db import connection


def now() -> datetime:
    """The moment, by the database."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT UTC_TIMESTAMP(6)")
        (moment,) = cursor.fetchone()
    assert isinstance(moment, datetime)
    return moment.replace(tzinfo=UTC)
