"""Files that wait for what is being brought in."""

from __future__ import annotations

from zweiblick_core.errors import Refused

from .models import Incoming


def take_arrivals(incoming: Incoming, numbers: list[int]) -> None:
    """Have files wait for what is being brought in, and for nothing else. Done in a transaction.

    Raises:
        Refused: a file is not here any more, is not read yet, or is being brought in already.
    """
    if len(set(numbers)) < len(numbers):
        raise Refused("The same file stands in two places.")
    found = incoming.job.arrivals.select_for_update().filter(pk__in=numbers)
    rows = {row.pk: row for row in found}
    for number in numbers:
        row = rows.get(number)
        if row is None:
            raise Refused("One of these files is not here any more; drop it again.")
        if row.state != "ready":
            raise Refused(f"{row.name}: is {row.state}")
        if row.taken_by_id is not None:
            raise Refused(f"{row.name}: is just being brought in")
    incoming.job.arrivals.filter(pk__in=numbers).update(taken_by=incoming)
