"""What happens to a picture's regions, for apps above to listen to."""

from __future__ import annotations

from dataclasses import dataclass

from django.dispatch import Signal

from people.models import Person

from .models import Region, RegionVersion


@dataclass(frozen=True)
class Redrawn:
    """A region with its former version and the one that stands now; the same where it was only
    split off, and no former one where it is new.
    """

    region: Region
    before: RegionVersion | None
    after: RegionVersion
    person: Person


#: Sent with `picture` and `redrawn` (a list of Redrawn, empty where regions were only withdrawn),
#: in the transaction that stores them.
outlines_changed = Signal()
#: Sent with `region` before it is withdrawn; whoever needs it still raises Refused.
withdrawing = Signal()
