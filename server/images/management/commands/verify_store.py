"""Compare the store with its rows: name what is missing, damaged or left over, and repair it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from images.verifying import verify_store


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--repair", action="store_true")
        parser.add_argument("--backup", type=Path, help="where blobs can be brought back from")

    def handle(self, *args: Any, **options: Any) -> None:
        found = verify_store(options["repair"], options["backup"])
        for problem in found:
            self.stdout.write(
                problem.words + (f" ({problem.repaired})" if problem.repaired else "")
            )
        left = sum(not problem.repaired for problem in found)
        if left:
            raise CommandError(f"{left} things are wrong and were not repaired")
        self.stdout.write("the store is whole")
