"""What happens to checks, for apps above to listen to."""

from __future__ import annotations

from dataclasses import dataclass

from django.dispatch import Signal

from attempts.models import Attempt
from zweiblick_core.compare.locks import Proof


@dataclass(frozen=True)
class Proofs:
    """What an attempt shows, region by region, against one that it was made from."""

    source: Attempt
    by_region: dict[int, Proof]


#: Sent with `check` and `proofs` (a list of Proofs), in the transaction that stores its findings.
check_finished = Signal()
