"""Cold looks: which attempts to look at, and what came of a look."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from attempts.models import Attempt
from checks.models import Check, Finding
from history.models import record
from images.originals import know_originals
from jobs.models import Picture
from people.models import Person
from zweiblick_core.errors import Refused
from zweiblick_core.rules.cold import Hit, matched, noticed

from .models import ColdLook, Sighting, saw

MOST_CLICKS = 50


def is_cold(picture: Picture, person: Person) -> bool:
    """Whether the person has seen neither the original nor any attempt."""
    return (
        not Sighting.objects.filter(picture=picture, person=person).exists()
        and not ColdLook.objects.filter(attempt__picture=picture, person=person).exists()
    )


#: So many are listed at a time: what was looked at goes to the end, and others move up.
LISTED = 100


def to_look_at(person: Person) -> list[tuple[Attempt, bool]]:
    """The attempt that holds best of each picture, those that would be cold first; (attempt, cold),
    `LISTED` at most. Written for many pictures: the queries do not grow with them.
    """
    pictures = Picture.objects.worked_by(person)
    judged = (
        Check.objects.filter(
            attempt__picture__in=pictures,
            attempt__withdrawn_at=None,
            state="done",
            overall__isnull=False,
        )
        .order_by("attempt__picture__job__deadline", "attempt__picture__number", "-overall", "id")
        .values_list("attempt__picture_id", "attempt_id")
    )
    best: dict[int, int] = {}
    for picture, attempt in judged:
        best.setdefault(picture, attempt)
    seen = set(Sighting.objects.filter(person=person).values_list("picture_id", flat=True))
    seen |= set(
        ColdLook.objects.filter(person=person).values_list("attempt__picture_id", flat=True)
    )
    listed = sorted(best.items(), key=lambda row: row[0] in seen)[:LISTED]
    attempts = Attempt.objects.select_related("image__blob", "image__picture").in_bulk(
        [attempt for _, attempt in listed]
    )
    rows = [(attempts[attempt], picture not in seen) for picture, attempt in listed]
    know_originals([attempt.image.picture for attempt, _ in rows])
    return rows


def hits_of(look: ColdLook) -> list[Hit]:
    return [Hit(tuple(hit["regions"]), tuple(hit["findings"])) for hit in look.hits]


@transaction.atomic
def keep_look(
    attempt: Attempt,
    person: Person,
    clicks: list[list[float]],
    flipped: bool,
    seconds: float | None,
) -> ColdLook:
    """Keep what a look came to; from then on the person has seen the picture.

    Raises:
        Refused: a click lies outside the picture, or there are far too many.
    """
    original = attempt.picture.original
    if len(clicks) > MOST_CLICKS:
        raise Refused(f"more than {MOST_CLICKS} places were clicked")
    if any(not (0 <= x <= original.width and 0 <= y <= original.height) for x, y in clicks):
        raise Refused("a click lies outside the picture")
    regions = {
        region.pk: region.drawn.bbox for region in attempt.picture.regions.select_related("current")
    }
    check = Check.objects.filter(attempt=attempt, state="done").order_by("-id").first()
    findings = (
        {finding.pk: finding.bbox for finding in Finding.objects.filter(checked__check_run=check)}
        if check
        else {}
    )
    hits = matched(clicks, regions, findings, (original.width, original.height))
    cold = is_cold(attempt.picture, person)
    made = ColdLook.objects.create(
        attempt=attempt,
        person=person,
        cold=cold,
        flipped=flipped,
        clicks=clicks,
        seconds=seconds,
        hits=[{"regions": list(hit.regions), "findings": list(hit.findings)} for hit in hits],
    )
    saw(attempt.picture, person)
    record(
        attempt.picture,
        person,
        "cold look" if cold else "look",
        f"attempt {attempt.number}",
        after={"places": len(clicks)},
    )
    return made


def counted(attempt_ids: list[int]) -> dict[int, list[list[Hit]]]:
    """Cold looks by attempt; warm ones are kept and do not count."""
    found: dict[int, list[list[Hit]]] = {}
    for look in ColdLook.objects.filter(attempt__in=attempt_ids, cold=True):
        found.setdefault(look.attempt_id, []).append(hits_of(look))
    return found


def uncovered(look: ColdLook) -> dict[str, Any]:
    """What a look came to, with names."""
    attempt = look.attempt
    picture = attempt.picture
    looks = counted([attempt.pk]).get(attempt.pk, [])
    findings = {
        finding.pk: finding
        for finding in Finding.objects.filter(
            pk__in=[pk for hit in look.hits for pk in hit["findings"]]
        )
    }
    mine = hits_of(look)
    return {
        "id": look.pk,
        "cold": look.cold,
        "flipped": look.flipped,
        "picture": picture.pk,
        "number": picture.number,
        "name": picture.name,
        "attempt": attempt.number,
        "clicks": [
            {
                "x": x,
                "y": y,
                "regions": [
                    region.number for region in picture.regions.all() if region.pk in hit.regions
                ],
                "kinds": sorted({findings[pk].kind for pk in hit.findings if pk in findings}),
            }
            for (x, y), hit in zip(look.clicks, mine, strict=True)
        ],
        "regions": [
            {
                "region": region.pk,
                "number": region.number,
                "name": region.name,
                "outlines": region.drawn.outlines,
                "noticed": any(region.pk in hit.regions for hit in mine),
                "times": noticed(looks, region.pk)[0],
                "looks": len(looks),
            }
            for region in picture.regions.select_related("current")
        ],
    }
