"""Where a slip asks for work."""

from __future__ import annotations

from trials.removing import worked_outline
from zweiblick_core.align import Alignment
from zweiblick_core.regions import Region
from zweiblick_core.rules.following import asked_of

from .models import SlipRegion


def area_asked(part: SlipRegion, alignment: Alignment, frame: tuple[int, int]) -> Region | None:
    """Where a slip asks for work on a region, in the attempt's own frame: its outline, grown or
    shrunk as the slip says. None where the attempt does not show it.
    """
    area: Region | None = alignment.placed(part.version.core, frame)
    if area is None:
        return None
    asked = asked_of(part.changes)
    return worked_outline(area, asked.grow, asked.past_frame, frame)
