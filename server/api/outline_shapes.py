"""A picture's outlines as the API says them."""

from __future__ import annotations

from typing import Any

from django.db.models import Count, Q

from checks.models import Check, CheckedRegion
from jobs.models import Picture
from people.models import Person
from regions.drafts import read_draft, written
from regions.editing import frame_of
from regions.models import Region
from verdicts.models import Verdict
from zweiblick_core.regions import Region as Area
from zweiblick_core.regions import outlined
from zweiblick_core.rules.backdrops import BACKDROPS

from .shapes import image_of

#: How far what is shown may stray from what is stored, in pixels.
_SHOWN = 0.6


def area_of(area: Area | None, words: str = "") -> dict[str, Any]:
    """An area with its outline; an empty one has no draft."""
    if area is None:
        return {"mask": None, "parts": [], "bbox": None, "pixels": 0, "words": words}
    return {
        "mask": written(area),
        "parts": [
            {"outer": part.outer, "holes": list(part.holes)} for part in outlined(area, _SHOWN)
        ],
        "bbox": list(area.bbox),
        "pixels": int(area.mask.sum()),
        "words": words,
    }


def region_of(region: Region, backdrop: str | None, rulings: int) -> dict[str, Any]:
    """A region with its versions, the newest first."""
    return {
        "id": region.pk,
        "number": region.number,
        "name": region.name,
        "version": region.drawn.version,
        "backdrop": region.backdrop,
        "proposed_backdrop": backdrop,
        "rulings": rulings,
        "area": area_of(region.drawn.core),
        "versions": [
            {
                "version": one.version,
                "person": one.made_by.called if one.made_by else None,
                "at": one.made_at,
            }
            for one in sorted(region.versions.all(), key=lambda one: -one.version)
        ],
    }


def outlines_of(picture: Picture, person: Person) -> dict[str, Any]:
    """Everything needed to draw a picture's outlines."""
    frame = frame_of(picture)
    regions = list(
        picture.regions.select_related("current")
        .prefetch_related("versions__made_by")
        .annotate(
            ruled=Count(
                "cells",
                filter=Q(cells__current__isnull=False)
                & ~Q(cells__current__ruling=Verdict.Ruling.TAKEN_BACK),
            )
        )
        .order_by("number")
    )
    attempts = list(picture.attempts.select_related("run__method", "image").order_by("number"))
    checks: dict[int, Check] = {}
    for check in Check.objects.filter(
        attempt__picture=picture, attempt__withdrawn_at=None, state="done"
    ).defer("report"):
        checks[check.attempt_id] = check
    backdrops = {
        row.region_version.region_id: row.backdrop
        for row in CheckedRegion.objects.filter(check_run__in=checks.values())
        .select_related("region_version")
        .order_by("check_run_id")
    }
    for attempt in attempts:
        attempt.image.picture = picture
    standing = [region.drawn.core for region in regions]
    return {
        "id": picture.pk,
        "number": picture.number,
        "name": picture.name,
        "job": picture.job.name,
        "role": picture.job.role_of(person),
        "original": image_of(picture.original),
        "attempts": [
            {
                "id": attempt.pk,
                "number": attempt.number,
                "method": attempt.run.method.name,
                "image": image_of(attempt.image),
                "examined": attempt.pk in checks,
                "proposals": _proposals(checks.get(attempt.pk), standing, frame),
            }
            for attempt in attempts
        ],
        "regions": [
            region_of(region, backdrops.get(region.pk), region.ruled) for region in regions
        ],
        "backdrops": list(BACKDROPS),
        "withdrawn": [
            {"id": region.pk, "number": region.number, "name": region.name}
            for region in Region.every.filter(picture=picture)
            .exclude(withdrawn_at=None)
            .order_by("number")
        ],
    }


def _proposals(
    check: Check | None, standing: list[Area], frame: tuple[int, int]
) -> list[dict[str, Any]]:
    """What an attempt changed, each with the share of it that regions have already."""
    if check is None:
        return []
    found = []
    for text in check.changed:
        area = read_draft(text, frame)
        known = max((_shared(area, region) for region in standing), default=0.0)
        found.append({**area_of(area), "known": round(known, 3)})
    return found


def _shared(area: Area, region: Area) -> float:
    """The share of an area that a region has."""
    x, y, width, height = area.bbox
    left, top, w, h = region.bbox
    x0, y0 = max(x, left), max(y, top)
    x1, y1 = min(x + width, left + w), min(y + height, top + h)
    if x0 >= x1 or y0 >= y1:
        return 0.0
    both = (
        area.mask[y0 - y : y1 - y, x0 - x : x1 - x]
        & region.mask[y0 - top : y1 - top, x0 - left : x1 - left]
    )
    return float(both.sum() / max(1, int(area.mask.sum())))
