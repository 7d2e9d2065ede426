"""Writing, editing, sending and withdrawing slips, and taking their answers back."""

from __future__ import annotations

import logging
from typing import Any

from django.db import transaction
from django.utils import timezone

from attempts.fitting import refuse_stored, refuse_unmatched
from attempts.intake import Facts, add_attempt, locked_picture
from attempts.models import Attempt, AttemptSource
from history.models import record
from images.decoding import decoded, read_bounded
from jobs.models import Membership
from people.models import Person
from verdicts.models import Cell
from work.leases import ask
from zweiblick_core.errors import Refused
from zweiblick_core.reading import Picture as CorePicture
from zweiblick_core.registering import register
from zweiblick_core.rules import advice, slips
from zweiblick_core.rules.states import advance

from .advising import advice_for
from .flaws import flaws_of
from .models import OPEN, Slip, SlipRegion, new_key

log = logging.getLogger(__name__)


@transaction.atomic
def write_slip(attempt: Attempt, person: Person) -> Slip:
    """A slip from the regions of an attempt that are ruled *rework* or *rebuild*, with what is
    wrong and what is suggested.

    Raises:
        Refused: no region of it failed, or one of them is out on another slip.
    """
    picture = locked_picture(attempt.picture_id)
    cells = list(
        Cell.objects.filter(attempt=attempt, current__isnull=False)
        .select_related("region__current", "current", "attempt__picture")
        .order_by("region__number")
    )
    standing = {cell.region_id: cell.current for cell in cells if cell.current is not None}
    wanted = slips.may_send({region: verdict.ruling for region, verdict in standing.items()})
    if not wanted:
        raise Refused(
            f"no region of attempt {attempt.number} is ruled rework or rebuild, so there is nothing to send back"
        )
    out = (
        SlipRegion.objects.filter(slip__picture=picture, slip__state__in=OPEN, region__in=wanted)
        .select_related("region", "slip")
        .first()
    )
    if out is not None:
        raise Refused(
            f"region {out.region.number} is on slip {out.slip.round} already, which is {out.slip.state}; withdraw that one first, or wait for it"
        )
    number = (picture.slips.order_by("-round").values_list("round", flat=True).first() or 0) + 1
    slip = Slip.objects.create(picture=picture, attempt=attempt, round=number, written_by=person)
    for cell in cells:
        if cell.region_id in wanted:
            flaws = flaws_of(attempt, cell.region)
            SlipRegion.objects.create(
                slip=slip,
                region=cell.region,
                version=cell.region.drawn,
                verdict=standing[cell.region_id],
                flaws=flaws,
                changes=advice_for(cell, flaws),
            )
    record(
        picture,
        person,
        "slip written",
        f"slip {number}",
        after={"attempt": attempt.number, "regions": len(wanted)},
    )
    return slip


def held(slip: Slip) -> Slip:
    """A slip's row, held until the transaction ends."""
    return (
        Slip.objects.select_for_update().select_related("picture__job", "attempt").get(pk=slip.pk)
    )


def edit_slip(
    slip: Slip,
    person: Person,
    note: str | None,
    regions: list[dict[str, Any]],
    worker: Person | None,
    worker_given: bool,
) -> Slip:
    """Change a slip that was not sent yet.

    Raises:
        Refused: it was sent, a change is unknown, or the worker is no retoucher of the job.
    """
    with transaction.atomic():
        row = held(slip)
        if row.state != "written":
            raise Refused(
                f"slip {row.round} is {row.state}; only one that was not sent yet can be changed"
            )
        before = _said(row)
        if note is not None:
            row.note = note
        if worker_given:
            if worker is not None and row.picture.job.role_of(worker) != Membership.Role.RETOUCHER:
                raise Refused(f"{worker.called} is no retoucher of this job")
            row.worker = worker
        row.save()
        parts = {part.region_id: part for part in row.regions.all()}
        for given in regions:
            part = parts.get(given["region"])
            if part is None:
                raise Refused("a region is not on this slip")
            if "changes" in given:
                reason = advice.refuse_unknown(given["changes"])
                if reason:
                    raise Refused(reason)
                part.changes = given["changes"]
            if "note" in given:
                part.note = given["note"]
            part.save()
        after = _said(row)
        if after != before:
            changed = {name for name in before | after if before.get(name) != after.get(name)}
            record(
                row.picture,
                person,
                "slip edited",
                f"slip {row.round}",
                before={name: before.get(name) for name in sorted(changed)},
                after={name: after.get(name) for name in sorted(changed)},
            )
    return row


def _said(slip: Slip) -> dict[str, object]:
    """What a slip says, as history keeps it."""
    said: dict[str, object] = {
        "to": slip.worker.called if slip.worker else "retoucher's desk",
        "words": slip.note,
    }
    for part in slip.regions.select_related("region"):
        said[f"region {part.region.number}"] = {"words": part.note, "changes": part.changes}
    return said


@transaction.atomic
def send_slip(slip: Slip, person: Person) -> Slip:
    """Send it off: to the retoucher's list, or to the desk."""
    row = held(slip)
    if row.state == "failed":
        row.key = new_key()  # the desk would answer the old one with what it said before
    row.state, row.reason, row.sent_at = advance("slip", row.state, "sent"), "", timezone.now()
    row.save()
    record(
        row.picture,
        person,
        "slip sent",
        f"slip {row.round}",
        after={"to": row.worker.called if row.worker else "retoucher's desk"},
    )
    if row.worker is None:
        ask("slip", str(row.pk), row.picture)
    return row


@transaction.atomic
def withdraw_slip(slip: Slip, person: Person) -> Slip:
    row = held(slip)
    before = row.state
    row.state = advance("slip", row.state, "withdrawn")
    row.save()
    record(
        row.picture, person, "slip withdrawn", f"slip {row.round}", before=before, after="withdrawn"
    )
    return row


@transaction.atomic
def take_up(slip: Slip, person: Person | None) -> Slip:
    row = held(slip)
    if row.state != "working":
        row.state = advance("slip", row.state, "taken up")
        row.save()
        record(row.picture, person, "slip taken up", f"slip {row.round}")
    return row


def fitting(slip: Slip, data: bytes, file_name: str) -> CorePicture:
    """Read a file that answers a slip. The same is asked of a hand's file and of the desk's.

    Raises:
        Refused: it cannot be read, was brought in before, or does not lie in the frame of what was sent.
    """
    try:
        result = read_bounded(data)
    except Refused as error:
        raise Refused(str(error).replace("the file", file_name, 1)) from error
    refuse_stored(slip.picture.job, result.sha256, file_name)
    # It must lie in the frame of what was sent, whatever that is: pixels are compared one by one.
    sent = decoded(slip.attempt.image.blob)
    refuse_unmatched(register(sent, result), file_name, in_place=True)
    return result


def take_back(
    slip: Slip,
    data: bytes,
    file_name: str,
    facts: Facts,
    person: Person | None,
    whole: CorePicture | None = None,
) -> Attempt:
    """A result that answers a slip becomes a new attempt made from the one that was sent. Once
    only: a slip that was answered refuses.

    Args:
        whole: the file, if it was read already.

    Raises:
        Refused: the file cannot be read or cannot belong here; NotAllowed: the slip was answered or
            withdrawn.
    """
    with transaction.atomic():
        locked_picture(slip.picture_id)
        row = held(slip)
        row.state = advance("slip", row.state, "returned")
        attempt = add_attempt(row.picture, file_name, data, facts, person, whole)
        AttemptSource.objects.create(attempt=attempt, source=row.attempt)
        row.returned, row.returned_at, row.reason = attempt, timezone.now(), ""
        row.save()
        record(
            row.picture,
            person,
            "slip returned",
            f"slip {row.round}",
            after={"attempt": attempt.number},
        )
    return attempt
