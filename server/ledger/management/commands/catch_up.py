"""Work out where pictures stand whose state is missing or behind."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from ledger.standing import catch_up


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        while catch_up():
            pass
