"""What the database says when two store at the same place at once, and one of them has to try again."""

from __future__ import annotations

from django.db import OperationalError

#: MariaDB's numbers for a lock that was not had in time and for a deadlock.
_BUSY = (1205, 1213)


def is_busy(error: BaseException) -> bool:
    """Whether nothing was stored because somebody else was just storing."""
    return isinstance(error, OperationalError) and bool(error.args) and error.args[0] in _BUSY
