"""Verify a backup: that every file of it is there with the bytes that were written."""

from __future__ import annotations

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError

from store.backups.format import newest
from store.backups.reading import problems_of


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser) -> None:
        parser.add_argument("folder", type=Path)
        parser.add_argument("--backup", help="which one; the newest if not said")

    def handle(self, *args, **options) -> None:
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
