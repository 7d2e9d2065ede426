"""Ruling ranges of frames."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from django.db import transaction

from history.models import record_job
from people.models import Person
from zweiblick_core.errors import Refused
from zweiblick_core.rules.shots import RULINGS, Ruled, refuse_range, standing

from .models import ShotAttempt, ShotCheck, ShotRegion, ShotVerdict


class Stale(Exception):
    """Somebody else has ruled meanwhile."""


@transaction.atomic
def rule(
    attempt: ShotAttempt,
    region: ShotRegion,
    frames: tuple[int, int],
    ruling: str,
    words: str,
    revision: int,
    person: Person,
) -> ShotVerdict:
    """Rule the frames first to last, both included, of a region.

    Args:
        revision: how many rulings of it the person had seen.

    Raises:
        Refused: there is no such ruling, or there are no such frames.
        Stale: there are more rulings than that.
    """
    if ruling not in RULINGS:
        raise Refused(f"{ruling} is no ruling of a shot")
    first, last = frames
    refuse_range(first, last, attempt.shot.original.frames)
    ShotAttempt.objects.select_for_update().get(pk=attempt.pk)
    seen = ShotVerdict.objects.filter(attempt=attempt, region=region).count()
    if seen != revision:
        raise Stale
    examination = ShotCheck.objects.filter(attempt=attempt, state="done").order_by("-id").first()
    row = ShotVerdict.objects.create(
        attempt=attempt,
        region=region,
        version=region.version,
        revision=revision + 1,
        first=first,
        last=last,
        ruling=ruling,
        words=words,
        examination=examination,
        person=person,
    )
    record_job(
        attempt.shot.job,
        person,
        f"shot: {ruling}",
        f"{attempt.shot.name}, attempt {attempt.number}, region {region.number}",
        after={"frames": [first, last], "words": words},
    )
    return row


def ruled(rows: Iterable[ShotVerdict], region: ShotRegion, frames: int) -> list[Ruled]:
    """What stands of one attempt's rulings of a region, in the order in which they were given."""
    given = [
        Ruled(row.first, row.last, row.ruling, row.version != region.version)
        for row in sorted(rows, key=lambda row: row.pk)
    ]
    return standing(given, frames)


def by_region(rows: Iterable[ShotVerdict]) -> Mapping[tuple[int, int], list[ShotVerdict]]:
    """Rulings by attempt and region (primary keys)."""
    found: dict[tuple[int, int], list[ShotVerdict]] = {}
    for row in rows:
        found.setdefault((row.attempt_id, row.region_id), []).append(row)
    return found
