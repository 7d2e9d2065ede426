"""Verify a backup: that every file of it is there with the bytes that were written."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from store.backups.format import newest
from store.backups.reading import problems_of


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path)
        parser.add_argument("--backup", help="which one; the newest if not said")

    def handle(self, *args: Any, **options: Any) -> None:
        place = options["folder"]
        try:
            folder = place / options["backup"] if options["backup"] else newest(place)
        except ValueError as error:
            raise CommandError(str(error)) from error
        wrong = problems_of(folder)
        for line in wrong:
            self.stdout.write(line)
        if wrong:
            raise CommandError(f"{folder.name}: {len(wrong)} things are wrong")
        self.stdout.write(f"{folder.name} is whole")
