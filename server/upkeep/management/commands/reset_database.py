"""Drop and make again the database of the tests or the benchmarks. Refuses any other."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.db import connection


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        if not {".run-test", ".run-empty", ".run-loops", ".run-reading"} & set(
            settings.STORE.parts
        ):
            raise CommandError("only the database of the tests or of the benchmarks may be reset")
        name = connection.settings_dict["NAME"]
        with connection.cursor() as cursor:
            cursor.execute(f"DROP DATABASE IF EXISTS `{name}`")
            cursor.execute(
                f"CREATE DATABASE `{name}` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"
            )
