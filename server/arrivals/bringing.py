"""Bringing in: pictures with their results, whole or not at all, by a worker."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import numpy as np
from django.conf import settings
from django.db import transaction

from attempts.fitting import refuse_unmatched
from attempts.intake import Facts, add_attempt, add_picture
from attempts.models import Attempt, AttemptSource
from images.aligning import keep_alignment
from images.decoding import decoded, read_bounded
from jobs.models import Job, Picture
from people.models import Person
from regions.drafts import written
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core.align import Alignment, onto_original, register
from zweiblick_core.errors import Refused
from zweiblick_core.io import Picture as CorePicture
from zweiblick_core.io import read_mask
from zweiblick_core.regions import from_mask, proposed

from .fits import known_alignment
from .models import Arrival, Incoming
from .receiving import bytes_of, forget
from .renewing import renew
from .taking import take_arrivals


@transaction.atomic
def ask_incoming(
    job: Job, person: Person, wanted: dict[str, Any], picture: Picture | None = None
) -> Incoming:
    """Ask for a picture, or for a further result of `picture`, to be brought in.

    Args:
        wanted: {"name", "original", "mask", "results": [{"arrival", "method", "kind", "maker",
            "seconds", "cost", "settings", "terms", "left_house", "cropped_when", "made_from", "mask"}]}, arrivals by
            number; a result's mask: the outline it was made with; made_from: numbers of the
            picture's attempts.

    Raises:
        Refused: a file is not here any more, is not read yet, or is being brought in already.
    """
    numbers = [one["arrival"] for one in wanted["results"]]
    numbers += [one["mask"] for one in wanted["results"] if one.get("mask")]
    numbers += [wanted[part] for part in ("original", "mask") if wanted.get(part)]
    made = Incoming.objects.create(job=job, picture=picture, wanted=wanted, person=person)
    take_arrivals(made, numbers)
    ask("incoming", str(made.pk), picture)
    return made


def _facts(one: dict[str, Any]) -> Facts:
    cost = Decimal(one["cost"]) if one.get("cost") is not None else None
    settings = dict(one.get("settings") or {})
    if one.get("terms"):
        settings["terms"] = one["terms"]
    return Facts(
        one["method"],
        one["kind"],
        one["maker"],
        one.get("seconds"),
        cost,
        settings,
        one.get("left_house"),
        one.get("cropped_when") or "",
    )


class _Result:
    """One result that is being brought in, read and registered."""

    def __init__(
        self, row: Incoming, one: dict[str, Any], original: CorePicture, known: Arrival | Picture
    ):
        arrival = row.job.arrivals.filter(pk=one["arrival"]).first()
        if arrival is None:
            raise Refused("One of these files is not here any more; drop it again.")
        self.arrival, self.facts = arrival, _facts(one)
        self.made_from = list(one.get("made_from") or [])
        self.content = bytes_of(arrival)
        self.picture = read_bounded(self.content)
        self.alignment: Alignment = known_alignment(known, arrival) or register(
            original, self.picture
        )
        refuse_unmatched(self.alignment, arrival.name)
        self.outline = self._outline(row, one.get("mask"), original)

    def _outline(self, row: Incoming, number: int | None, original: CorePicture) -> list[str]:
        """The outline it was made with, as drafts in the original's frame."""
        if number is None:
            return []
        arrival = row.job.arrivals.filter(pk=number).first()
        if arrival is None:
            raise Refused("One of these files is not here any more; drop it again.")
        frame = (original.height, original.width)
        own = (self.picture.height, self.picture.width)
        in_original = (arrival.height, arrival.width) == frame != own
        mask = read_mask(bytes_of(arrival), frame if in_original else own, settings.MOST_PIXELS)
        if not in_original and self.alignment.kind != "same":
            mask = onto_original(mask, self.alignment, frame)
        return [written(area) for area in from_mask(mask)]

    def store(self, picture: Picture, person: Person) -> Attempt:
        attempt = add_attempt(
            picture, self.arrival.name, self.content, self.facts, person, self.picture
        )
        if self.outline:
            Attempt.objects.filter(pk=attempt.pk).update(outline=self.outline)
        for source in picture.attempts.filter(number__in=self.made_from, pk__lt=attempt.pk):
            AttemptSource.objects.create(attempt=attempt, source=source)
        keep_alignment(picture.original.blob, attempt.image.blob, self.alignment)
        return attempt


def run_incoming(lease: Lease) -> None:
    """Read, register and store. All of it or nothing."""
    row = Incoming.objects.select_related("job", "person", "picture__job").get(
        pk=lease.work.subject
    )
    if row.settled:
        with lease.writing():
            return
    lease.progress(0.05, "reading")
    if "new original" in row.wanted:
        renew(lease, row)
    elif row.picture is not None:
        _bring_result(lease, row)
    else:
        _bring_picture(lease, row)


def _bring_result(lease: Lease, row: Incoming) -> None:
    picture = row.picture
    assert picture is not None
    (one,) = row.wanted["results"]
    result = _Result(row, one, decoded(picture.original.blob), picture)
    with lease.writing():
        result.store(picture, row.person)
        Incoming.objects.filter(pk=row.pk).update(settled=True)
        for arrival in list(row.arrivals.all()):
            forget(arrival)


def _bring_picture(lease: Lease, row: Incoming) -> None:
    wanted = row.wanted
    arrivals = {arrival.pk: arrival for arrival in row.arrivals.all()}
    original = arrivals.get(wanted["original"])
    mask = arrivals.get(wanted["mask"]) if wanted.get("mask") else None
    if original is None or (wanted.get("mask") and mask is None):
        raise Refused("One of these files is not here any more; drop it again.")
    data = bytes_of(original)
    first = read_bounded(data)
    frame = first.pixels.shape[:2]
    results = []
    for number, one in enumerate(wanted["results"]):
        lease.progress(0.1 + 0.7 * number / len(wanted["results"]), "reading")
        results.append(_Result(row, one, first, original))
    marked = read_mask(bytes_of(mask), frame, settings.MOST_PIXELS) if mask else None
    regions = from_mask(marked if marked is not None else _changed(first, results))
    if not regions:
        raise Refused(
            f"{original.name}: no region can be proposed, since no result changes anything; give a mask"
        )
    named = [(f"region {number}", region.full(frame)) for number, region in enumerate(regions, 1)]
    with lease.writing():
        Job.objects.select_for_update().get(pk=row.job_id)
        picture = add_picture(
            row.job, wanted["name"], original.name, data, named, row.person, first
        )
        for result in results:
            result.store(picture, row.person)
        Incoming.objects.filter(pk=row.pk).update(settled=True, picture=picture)
        for arrival in arrivals.values():
            forget(arrival)


def _changed(first: CorePicture, results: list[_Result]) -> np.ndarray:
    """What any of the results changed, bool of the original's frame."""
    frame = first.pixels.shape[:2]
    wanted = np.zeros(frame, bool)
    for result in results:
        for region in proposed(first, result.picture, result.alignment):
            wanted |= region.full(frame)
    return wanted


def incoming_failed(work: Work) -> None:
    """Nothing was stored: the files wait as they did, and people see why."""
    with transaction.atomic():
        row = Incoming.objects.select_for_update().filter(pk=work.subject, settled=False).first()
        if row is not None:
            row.settled, row.reason = True, work.error
            row.save()
            row.arrivals.update(taken_by=None)


def incoming_state(row: Incoming) -> dict[str, Any]:
    """How far it is: {id, state, progress, reason, picture, regions, attempts}."""
    work = Work.objects.filter(kind="incoming", subject=str(row.pk)).first()
    stored = row.picture if row.settled and not row.reason else None
    return {
        "id": row.pk,
        "state": ("refused" if row.reason else "done") if row.settled else "working",
        "progress": 1.0 if row.settled else work.progress if work else 0.0,
        "reason": row.reason,
        "picture": stored.pk if stored else None,
        "regions": stored.regions.count() if stored else 0,
        "attempts": stored.attempts.count() if stored else 0,
    }
