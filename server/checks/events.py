"""What happens to checks, for apps above to listen to."""

from __future__ import annotations

from dataclasses import dataclass, field

from django.dispatch import Signal

from attempts.models import Attempt
from zweiblick_core.compare.locks import Proof


@dataclass(frozen=True)
class Proofs:
    """What an attempt shows, region by region, against one that it was made from; `outside`: the
    numbers of what it changed outside every region and the other changed alike.
    """

    source: Attempt
    by_region: dict[int, Proof]
    outside: set[int] = field(default_factory=set[int])


#: Sent with `check` and `proofs` (a list of Proofs), in the transaction that stores its findings.
check_finished = Signal()
