"""Keeping `PictureState` true: whatever is recorded on a picture may change where it stands."""

from __future__ import annotations

from functools import partial

from django.db import transaction
from django.db.models import Exists, F, Max, OuterRef, Q
from django.db.models.functions import Coalesce

from history.models import Entry
from jobs.models import Job, Picture

from .book import Ledger, ledger
from .models import PictureState, RegionState
from .rating import worst_of

#: Entries about a job after which its pictures may stand elsewhere.
_OF_ALL_PICTURES = ("client's bar", "job edited")


def on_recorded(*, entry: Entry, **_: object) -> None:
    """Work the picture out anew once what was recorded is stored; of a job's entry, all of its
    pictures.
    """
    if entry.picture_id is not None:
        work_out = partial(refresh, entry.picture_id)
    elif entry.what in _OF_ALL_PICTURES:
        work_out = partial(refresh_job, entry.job_id)
    else:
        return
    # What was recorded stands already: if this fails it is logged, and caught up with later.
    transaction.on_commit(work_out, robust=True)


def refresh_job(job: int) -> None:
    """Work all pictures of a job out anew."""
    for picture in Picture.objects.filter(job=job).values_list("pk", flat=True):
        refresh(picture)


@transaction.atomic
def refresh(picture_id: int) -> None:
    """Work one picture out anew and store it. Two at once follow each other, so that the later one
    sees what the earlier one's writer stored.
    """
    picture = Picture.every.select_related("job").filter(pk=picture_id).first()
    if picture is None or picture.original is None:
        return
    PictureState.objects.get_or_create(picture=picture, defaults={"state": "empty"})
    row = PictureState.objects.select_for_update().get(pk=picture_id)
    row.entry = picture.history.aggregate(newest=Coalesce(Max("id"), 0))["newest"]
    _work_out(row, ledger(picture))
    row.save()


def _work_out(row: PictureState, book: Ledger) -> None:
    picture = book.picture
    frame = (picture.original.width, picture.original.height)
    regions = [_region(book, region.pk, frame) for region in book.regions]
    RegionState.objects.filter(picture=picture).delete()
    RegionState.objects.bulk_create(regions)
    undecided = [one.region_id for one in regions if one.state == "undecided"]
    found = [one for one in regions if one.state == "undecided" and one.worst_severity is not None]
    worst = max(found, key=lambda one: one.worst_severity or 0.0, default=None)
    row.state, row.regions, row.undecided = book.state, len(book.regions), len(undecided)
    row.unexamined = sum(
        all(fact.overall is None for fact in book.of_region(region)) for region in undecided
    )
    row.attempts = len({cell.attempt_id for cell in book.cells})
    row.failed = sum(
        check.state == "failed" or (check.state == "done" and check.overall is None)
        for check in book.checks.values()
    )
    row.worst_kind, row.worst_severity, row.worst_word = (
        (worst.worst_kind, worst.worst_severity, worst.worst_word) if worst else ("", None, "")
    )


def _region(book: Ledger, region: int, frame: tuple[int, int]) -> RegionState:
    cells = {cell.attempt_id: cell for cell in book.cells if cell.region_id == region}
    ranked = [cells[attempt] for attempt in book.order(region) if attempt in cells]
    # What was ruled on already is behind one: the best of what is left counts.
    left = [cell for cell in ranked if book.cell_state(cell) == "undecided"]
    cell = next(iter(left or ranked), None)
    worst = worst_of(book, (cell.attempt_id, region), frame) if cell else None
    kind, severity, word = worst or ("", None, "")
    return RegionState(
        region_id=region,
        picture=book.picture,
        state=book.region_state(region),
        cell=cell,
        overall=book.facts[cell.pk].overall if cell else None,
        worst_kind=kind,
        worst_severity=severity,
        worst_word=word,
    )


def catch_up() -> int:
    """Pictures whose newest entry is not taken account of yet: their writer was killed between
    storing and working out. How many there were.
    """
    regions = RegionState.objects.filter(picture=OuterRef("pk"))
    late = (
        Picture.every.annotate(newest=Max("history__id"))
        .filter(
            Q(standing=None)
            | Q(newest__gt=F("standing__entry"))
            # Stored by a version that kept pictures only.
            | Q(standing__regions__gt=0) & ~Exists(regions)
        )
        .filter(images__role="original")
        .values_list("pk", flat=True)
    )
    found = list(late[:500])
    for picture in found:
        refresh(picture)
    return len(found)


def states_of(job: Job) -> dict[str, int]:
    """How many of a job's pictures stand where."""
    counts: dict[str, int] = {}
    for state in PictureState.objects.filter(
        picture__job=job, picture__withdrawn_at=None
    ).values_list("state", flat=True):
        counts[state] = counts.get(state, 0) + 1
    return counts
