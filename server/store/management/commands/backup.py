"""Back the house up into a folder: all rows and all blobs, consistent with each other."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from store.backups.writing import write_backup
from store.durable import Damaged


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path, help="holds any number of backups")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            made = write_backup(options["folder"])
        except (Damaged, OSError) as error:
            raise CommandError(f"no backup was made: {error}") from error
        self.stdout.write(f"backed up as {made}")
