"""Fit how sure findings are to what people of this house answered to them. Without an option it only
says what would come of it; stored reports never change.
"""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from checks.models import Recalibration
from checks.recalibrating import answers, curve_in, in_force, recalibrate, undo
from zweiblick_core.errors import Refused
from zweiblick_core.scoring.house import curve_of_answers, mapped, missed, reliability
from zweiblick_core.scoring.model import Curve


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        which = parser.add_mutually_exclusive_group()
        which.add_argument("--keep", action="store_true", help="checks use it from now on")
        which.add_argument("--undo", action="store_true", help="end the one in force")
        which.add_argument("--list", action="store_true", help="all there ever were")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            if options["list"]:
                self._list()
            elif options["undo"]:
                before = undo()
                self.stdout.write(
                    f"ended; {_words(before)} is in force again"
                    if before
                    else "ended; none is in force"
                )
            elif options["keep"]:
                self.stdout.write(f"kept: {_words(recalibrate())}")
            else:
                self._say(answers())
        except Refused as error:
            raise CommandError(str(error)) from error

    def _list(self) -> None:
        current = in_force()
        for row in Recalibration.objects.order_by("id"):
            state = "in force" if current == row else "undone" if row.undone else "ended"
            self.stdout.write(f"{_words(row)}: {state}")
        if current is None:
            self.stdout.write("none is in force: probabilities are the model's own")

    def _say(self, given: list[tuple[float, bool]]) -> None:
        curve = curve_of_answers(given)
        after = [(mapped(curve, said), so) for said, so in given]
        self.stdout.write(
            f"{len(given)} answers; mean squared error {missed(given):.3f}, {missed(after):.3f} with"
            f" {_curve(curve)}"
        )
        for words, rows in (("as the model says", given), ("as it would be said", after)):
            self.stdout.write(f"{words}: said, so, how many")
            for tenth in reliability(rows):
                self.stdout.write(f"  {tenth.said:.2f}  {tenth.so:.2f}  {tenth.count}")
        self.stdout.write("nothing was changed; --keep uses it for checks from now on")


def _curve(curve: Curve) -> str:
    return f"log odds {curve.offset:+.2f} + {curve.slope:.2f} times the model's"


def _words(row: Recalibration) -> str:
    return (
        f"number {row.pk} of {row.made_at:%Y-%m-%d}, {row.answers} answers, {_curve(curve_in(row))}"
    )
