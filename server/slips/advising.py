"""What is advised for a cell that failed: the core's rules on what was found, what lies beside it,
and what was tried before.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import cv2

from checks.models import CheckedRegion
from jobs.models import Picture
from regions.models import Region
from verdicts.models import Cell
from zweiblick_core.evidence import from_json
from zweiblick_core.regions import Region as Area
from zweiblick_core.regions.framing import Window
from zweiblick_core.regions.masks import JOIN
from zweiblick_core.rules import advice, slips

from .models import Slip, SlipRegion

#: States of slips whose trip counts as a round.
_GONE = ("sent", "working", "returned", "rechecked", "failed")


def advice_for(cell: Cell, flaws: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Suggested changes, as a slip keeps them."""
    region, picture = cell.region, cell.attempt.picture
    x, y, w, h = region.drawn.bbox
    original = picture.original
    case = advice.Case(
        tuple(
            advice.Flaw(
                flaw["kind"],
                flaw["bbox"],
                from_json(flaw["evidence"]),
                flaw.get("measure") or {},
            )
            for flaw in flaws
        ),
        cell.current.ruling if cell.current else "rework",
        x == 0 or y == 0 or x + w == original.width or y + h == original.height,
        _neighbour(region, picture),
        cell.attempt.run.method.name,
        _tried(region),
        _rounds(region),
        _worn(cell),
        cell.attempt.run.cropped_when == "before",
    )
    return [{**asdict(change), "because": list(change.because)} for change in advice.advise(case)]


def _neighbour(region: Region, picture: Picture) -> str:
    """Another region that lies right beside this one, as people call it."""
    frame = (picture.original.height, picture.original.width)
    for other in picture.regions.select_related("current").exclude(pk=region.pk):
        if _touch(region.drawn.core, other.drawn.core, frame):
            return f"{other.number} {other.name}"
    return ""


def _touch(first: Area, second: Area, frame: tuple[int, int]) -> bool:
    window = Window([first], frame, 2 * JOIN)
    near = window.clipped(second)
    if not near.any():
        return False
    ys, xs = near.nonzero()
    mine = window.mask(first)
    away = cv2.distanceTransform((~mine).view("uint8"), cv2.DIST_L2, 5)
    return bool(away[ys, xs].min() <= 2 * JOIN)


def _tried(region: Region) -> tuple[advice.Tried, ...]:
    """What earlier slips brought back for this region, and what it left."""
    rows = (
        SlipRegion.objects.filter(region=region)
        .exclude(outcome=None)
        .select_related("slip__returned__run__method")
        .order_by("slip_id")
    )
    return tuple(
        advice.Tried(
            row.slip.returned.run.method.name,
            tuple(
                kind for kind, word in (row.outcome or {"kinds": []})["kinds"] if word != "fixed"
            ),
        )
        for row in rows
        if row.slip.returned is not None
    )


def _worn(cell: Cell) -> str:
    """Why the region counts as worn in this attempt, as its last check found."""
    row = (
        CheckedRegion.objects.filter(
            check_run__attempt=cell.attempt_id, region_version__region=cell.region_id
        )
        .order_by("-check_run_id")
        .first()
    )
    return str((row.wear or {}).get("words", "")) if row else ""


def _rounds(region: Region) -> int:
    return SlipRegion.objects.filter(region=region, slip__state__in=_GONE).count()


@dataclass(frozen=True)
class Spent:
    """What a region has taken so far: trips, seconds of work, cost; why to stop, if one should."""

    rounds: int
    seconds: float
    cost: str | None
    stop: str | None


def spent_on(picture: Picture) -> dict[int, Spent]:
    """What was spent, by region, of all that were sent back; in three queries."""
    rounds: dict[int, list[Slip]] = {}
    parts = SlipRegion.objects.filter(slip__picture=picture, slip__state__in=_GONE)
    for part in parts.select_related("slip__returned__run"):
        rounds.setdefault(part.region_id, []).append(part.slip)
    found = {}
    worn = _worn_anywhere(picture) if rounds else {}
    for region, some in rounds.items():
        runs = [slip.returned.run for slip in some if slip.returned is not None]
        costs = [run.cost for run in runs if run.cost is not None]
        found[region] = Spent(
            len(some),
            sum(run.seconds or 0.0 for run in runs),
            str(sum(costs)) if costs else None,
            worn.get(region) or slips.stop_words(len(some)),
        )
    return found


def _worn_anywhere(picture: Picture) -> dict[int, str]:
    """By region, why its texture counts as worn in the newest attempt of which that is known."""
    rows = CheckedRegion.objects.filter(
        check_run__attempt__picture=picture,
        check_run__attempt__withdrawn_at=None,
        wear__isnull=False,
    ).order_by("check_run__attempt__number", "check_run_id")
    found = {}
    for row in rows.select_related("region_version"):
        found[row.region_version.region_id] = str((row.wear or {}).get("words", ""))
    return {region: f"{words}; rebuild it by hand" for region, words in found.items() if words}
