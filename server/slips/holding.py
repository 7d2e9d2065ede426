"""A region that is out on a slip is somebody's work: it is not withdrawn meanwhile."""

from __future__ import annotations

from regions.models import Region
from zweiblick_core.errors import Refused

from .models import OPEN, SlipRegion


def refuse_while_out(*, region: Region, **_: object) -> None:
    """Raises: Refused: an open slip has the region."""
    out = (
        SlipRegion.objects.filter(region=region, slip__state__in=OPEN)
        .exclude(slip__state="returned")
        .select_related("slip")
        .first()
    )
    if out is not None:
        raise Refused(
            f"region {region.number}, {region.name}, is out on slip {out.slip.round}; withdraw that slip first"
        )
