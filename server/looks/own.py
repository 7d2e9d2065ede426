"""Flaws that a person outlined. They go wherever the machine's findings go."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils import timezone

from attempts.models import Attempt
from checks.models import FindingRuling
from history.models import record
from jobs.models import DeliverySize
from people.models import Person
from regions.models import Region
from verdicts.models import Cell
from zweiblick_core.errors import Refused
from zweiblick_core.rules.bar import SAID
from zweiblick_core.rules.kinds import ALL_KINDS
from zweiblick_core.visibility import word

from .models import OwnFinding

#: Corners of an outline at most; a drawn one has a point every few pixels.
MOST_POINTS = 2000


def _name(row: OwnFinding) -> str:
    return f"{row.kind} in region {row.region_version.region.number}, attempt {row.attempt.number}"


@transaction.atomic
def add_own(
    cell: Cell,
    person: Person,
    kind: str,
    said: str,
    size: DeliverySize | None,
    words: str,
    polygon: list[list[float]],
) -> OwnFinding:
    """Mark a flaw in a cell.

    Raises:
        Refused: the kind is unknown, or the outline is none or lies outside the picture.
    """
    original = cell.attempt.picture.original
    if kind not in ALL_KINDS:
        raise Refused(f"“{kind}” is no kind of flaw")
    if not 3 <= len(polygon) <= MOST_POINTS:
        raise Refused("an outline needs at least three points")
    ring = [
        [
            round(min(max(float(x), 0.0), original.width), 1),
            round(min(max(float(y), 0.0), original.height), 1),
        ]
        for x, y in polygon
    ]
    xs, ys = [x for x, _ in ring], [y for _, y in ring]
    if max(xs) - min(xs) < 1 or max(ys) - min(ys) < 1:
        raise Refused("that outline encloses nothing of the picture")
    made = OwnFinding.objects.create(
        attempt=cell.attempt,
        region_version=cell.region.drawn,
        kind=kind,
        severity=SAID[said],
        size=size,
        words=words.strip(),
        polygon=ring,
        person=person,
    )
    record(
        cell.attempt.picture,
        person,
        "flaw marked",
        _name(made),
        after={"severity": said, "size": size.name if size else None, "words": made.words},
    )
    return made


@transaction.atomic
def withdraw_own(row: OwnFinding, person: Person) -> None:
    """Take a mark back; it stays on record."""
    row = (
        OwnFinding.objects.select_for_update()
        .select_related("attempt__picture__job", "region_version__region")
        .get(pk=row.pk)
    )
    if row.withdrawn_at is None:
        row.withdrawn_at = timezone.now()
        row.save()
        record(
            row.attempt.picture, person, "flaw taken back", _name(row), before=word(row.severity)
        )


def own_flaws(attempt: Attempt, region: Region) -> list[dict[str, Any]]:
    """A cell's marks as a slip keeps flaws. There is no measure behind them: its value is the
    severity that was given.
    """
    return [
        {
            "finding": f"own-{row.pk}",
            "kind": row.kind,
            "bbox": row.bbox,
            "polygon": row.polygon,
            "score": 1.0,
            "severity": row.severity,
            "word": word(row.severity),
            "measure": {
                "name": "seen by a person",
                "value": row.severity,
                "unit": "severity as given",
                "natural": {"low": 0.0, "high": 0.0, "n": 0, "null": "none"},
            },
            "evidence": {"type": "own", "words": row.words},
            "answer": FindingRuling.Answer.CONFIRMED,
            "by_person": True,
            "group_words": f"seen by {row.person.called}" + (f": {row.words}" if row.words else ""),
        }
        for row in OwnFinding.objects.standing()
        .filter(attempt=attempt, region_version__region=region)
        .select_related("person")
        .order_by("-severity", "id")
    ]
