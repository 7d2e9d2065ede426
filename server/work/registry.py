"""What kinds of work there are. Apps join in `AppConfig.ready()`; the queue knows none of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .leases import Lease
    from .models import Work

#: Somebody brings something and waits whether it is taken: before all tiles.
ARRIVING = "arrivals"
#: Somebody is looking at the screen and waits for this.
SOON = "tiles"
#: What a batch consists of.
BATCH = "checks"


@dataclass(frozen=True)
class Kind:
    """One kind of work.

    Attributes:
        run: does it; finishes with `lease.writing()`.
        queue: `ARRIVING` and `SOON`, in this order, or `BATCH`, which has workers of its own.
        failed: called when it has failed for good.
    """

    run: Callable[[Lease], None]
    queue: str
    failed: Callable[[Work], None] | None = None


KINDS: dict[str, Kind] = {}
#: Called with every sweep: what apps tidy up.
TIDYING: list[Callable[[], object]] = []


def register(
    name: str,
    run: Callable[[Lease], None],
    queue: str = BATCH,
    failed: Callable[[Work], None] | None = None,
) -> None:
    """Join the queue with a kind of work.

    Raises:
        ValueError: there is such a kind already.
    """
    if name in KINDS:
        raise ValueError(f"two apps do work of the kind {name!r}")
    KINDS[name] = Kind(run, queue, failed)


def tidy(function: Callable[[], object]) -> None:
    """Have something tidied up from time to time. It may be called twice at once."""
    TIDYING.append(function)
