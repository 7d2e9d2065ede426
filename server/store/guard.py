"""Backups and the collector keep out of each other's way, by a lock that the database holds."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection


@contextmanager
def store_guard(wait: float) -> Iterator[bool]:
    """Yields whether the lock was had within `wait` seconds. It ends with the connection, so a
    killed process leaves none.
    """
    name = f"zweiblick store {connection.settings_dict['NAME']}"[:64]
    with connection.cursor() as cursor:
        cursor.execute("SELECT GET_LOCK(%s, %s)", [name, wait])
        mine = cursor.fetchone()[0] == 1
    try:
        yield mine
    finally:
        if mine:
            with connection.cursor() as cursor:
                cursor.execute("SELECT RELEASE_LOCK(%s)", [name])
