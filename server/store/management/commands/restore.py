"""Restore a backup into an empty, migrated house."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from store.backups.format import newest
from store.backups.reading import restore


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path)
        parser.add_argument("--backup", help="which one; the newest if not said")

    def handle(self, *args: Any, **options: Any) -> None:
        place = options["folder"]
        try:
            counts = restore(place / options["backup"] if options["backup"] else newest(place))
        except ValueError as error:
            raise CommandError(f"nothing was restored: {error}") from error
        self.stdout.write(f"restored {sum(counts.values())} rows")
