"""Putting an attempt together from several, as work: it takes seconds, can be left alone, and says
why it could not be done.
"""

from __future__ import annotations

import time

import cv2
import numpy as np
from django.db import transaction

from history.models import record
from images.aligning import image_alignment
from images.decoding import decoded, read_bounded
from jobs.models import Picture
from people.models import Person
from regions.models import Region
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core.compare.assembling import Part, assemble
from zweiblick_core.errors import Refused
from zweiblick_core.regions import Region as CoreRegion

from .intake import Facts, add_attempt
from .models import Assembly, AssemblyPart, Attempt, AttemptSource

METHOD = "assembled"


@transaction.atomic
def ask_assembly(picture: Picture, chosen: dict[int, int], person: Person) -> Assembly:
    """Ask for an attempt that takes each region from the attempt chosen for it.

    Args:
        chosen: attempt by region; every region of the picture must have one.

    Raises:
        Refused: a region or attempt is not of this picture, a region is missing, or all come from
            one attempt.
    """
    regions = {region.pk: region for region in picture.regions.all()}
    attempts = {attempt.pk: attempt for attempt in picture.attempts.all()}
    if set(chosen) != set(regions) or not set(chosen.values()) <= set(attempts):
        raise Refused("each region of the picture needs one of its attempts")
    if len(set(chosen.values())) < 2:
        raise Refused("all regions were taken from one attempt: it is that attempt already")
    made = Assembly.objects.create(picture=picture, person=person)
    for region, attempt in chosen.items():
        AssemblyPart.objects.create(
            assembly=made, region=regions[region], attempt=attempts[attempt]
        )
    record(
        picture,
        person,
        "assembly asked for",
        "",
        after={
            f"region {regions[region].number}": f"attempt {attempts[attempt].number}"
            for region, attempt in chosen.items()
        },
    )
    ask("assembly", str(made.pk), picture)
    return made


def _core(region: Region) -> CoreRegion:
    """A region that is called by its number, as people call it."""
    return CoreRegion(str(region.number), region.drawn.mask, region.drawn.bbox)


def run_assembly(lease: Lease) -> None:
    row = Assembly.objects.select_related("picture__job", "person").get(pk=lease.work.subject)
    if row.attempt_id is not None:
        with lease.writing():
            return
    began = time.monotonic()
    parts = list(
        row.parts.select_related(
            "region__current", "attempt__image__blob", "attempt__image__picture"
        ).order_by("region__number")
    )
    lease.progress(0.05, "reading")
    original = decoded(row.picture.original.blob)
    pictures, alignments = {}, {}
    for part in parts:
        if part.attempt_id not in pictures:
            pictures[part.attempt_id] = decoded(part.attempt.image.blob)
            alignments[part.attempt_id] = image_alignment(part.attempt.image)
            lease.progress(0.1 + 0.3 * len(pictures) / len(parts), "reading")
    made = assemble(
        original,
        [
            Part(
                _core(part.region),
                part.attempt_id,
                pictures[part.attempt_id],
                f"attempt {part.attempt.number}",
            )
            for part in parts
        ],
        [_core(region) for region in row.picture.regions.select_related("current")],
        alignments,
    )
    lease.progress(0.8, "writing")
    ok, data = cv2.imencode(
        ".png", np.ascontiguousarray(made.pixels[..., ::-1]), [cv2.IMWRITE_PNG_COMPRESSION, 3]
    )
    assert ok
    chosen_from = {
        f"region {part.region.number}": f"attempt {part.attempt.number}" for part in parts
    }
    facts = Facts(
        METHOD,
        "built in",
        "Zweiblick",
        round(time.monotonic() - began, 1),
        None,
        {**chosen_from, "done": "; ".join(made.done)},
    )
    content = data.tobytes()
    whole = read_bounded(content)
    with lease.writing():
        attempt = add_attempt(
            row.picture, f"assembled-{row.pk}.png", content, facts, row.person, whole
        )
        for part in parts:
            AttemptSource.objects.create(attempt=attempt, source=part.attempt, region=part.region)
        Assembly.objects.filter(pk=row.pk).update(attempt=attempt)


def assembly_failed(work: Work) -> None:
    """It could not be done; the assembly says why."""
    row = Assembly.objects.select_related("picture").filter(pk=work.subject, attempt=None).first()
    if row is not None and not row.reason:
        Assembly.objects.filter(pk=row.pk).update(reason=work.error)
        record(row.picture, None, "assembly refused", "", after={"reason": work.error})


def sources_by_region(attempt: Attempt) -> dict[int, Attempt]:
    """Of an assembled attempt, which attempt each region came from."""
    rows = attempt.sources.select_related("source__image__blob", "source__image__picture")
    return {row.region_id: row.source for row in rows if row.region_id is not None}
