"""What slips of shots hold: their rows, and the flaws that stand in frames."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from zweiblick_core.rules.shots import Range, meets
from zweiblick_core.rules.slips import Seen

from .models import ShotSlip


def flaws_of(report: dict[str, Any], number: int, ranges: Sequence[Range]) -> list[dict[str, Any]]:
    """What a check found in a region in some of the frames, as the core's `Flaw`."""
    found = []
    for region in report.get("regions", []):
        for one in region["findings"] if region["id"] == str(number) else ():
            first, last = one["frames"]["first"], one["frames"]["last"]
            if meets(first, last, ranges):
                flaw = {"kind": one["kind"], "first": first, "last": last}
                found.append({**flaw, "far": _far(one["measure"])})
    return found


def _far(measure: dict[str, Any]) -> float:
    """How far a measure lies beyond what is natural, in the widths of that."""
    natural = measure["natural"]
    return Seen("", (), measure["value"], natural["low"], natural["high"]).beyond


def held_slip(slip: ShotSlip) -> ShotSlip:
    """A slip's row, held until the transaction ends."""
    rows = ShotSlip.objects.select_for_update().select_related("shot__job")
    return rows.get(pk=slip.pk)
