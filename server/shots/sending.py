"""Slips of shots: which frames of which regions are worked again, by whom, and handing the answer in."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from people.models import Person
from work.leases import ask
from zweiblick_core.errors import Refused
from zweiblick_core.rules.shots import Range, failed_ranges, in_ranges, refuse_range
from zweiblick_core.rules.states import advance
from zweiblick_core.shots import METHODS

from .holding import refuse_as_worker
from .making import Brought, add_attempt
from .models import OUT, Footage, Shot, ShotAttempt, ShotCheck, ShotRegion, ShotSlip
from .packages import ask_package
from .recording import recorded
from .ruling import ruled
from .slips import flaws_of, held_slip

#: What is asked of the queue.
WORK = "shot mending"
#: The method that needs frames that were repaired.
CARRIES = "repaired frames carried"


@dataclass(frozen=True)
class Wanted:
    """What a slip asks for.

    Attributes:
        attempt: what is worked on; None: the original. parts: regions and their frames.
        worker: whom it goes to, or None and `method`: of the core's `METHODS`.
        repaired: an attempt in which some frames were repaired, and which.
    """

    attempt: ShotAttempt | None
    parts: Sequence[tuple[ShotRegion, Sequence[Range]]]
    worker: Person | None = None
    method: str = ""
    repaired: tuple[ShotAttempt, Sequence[int]] | None = None
    note: str = ""
    due: datetime.date | None = None


@transaction.atomic
def send(shot: Shot, wanted: Wanted, person: Person) -> ShotSlip:
    """Write a slip and send it off.

    Raises:
        Refused: it asks for nothing, for what did not fail, or of nobody.
    """
    held = Shot.objects.select_for_update().select_related("original", "job").get(pk=shot.pk)
    _refuse(held, wanted)
    report = _report(wanted.attempt)
    slip = ShotSlip.objects.create(
        shot=held,
        attempt=wanted.attempt,
        round=(held.slips.aggregate(most=Max("round"))["most"] or 0) + 1,
        worker=wanted.worker,
        method=None if wanted.worker else _method(wanted),
        parts=[
            {
                "region": region.pk,
                "number": region.number,
                "ranges": [list(one) for one in ranges],
                "flaws": flaws_of(report, region.number, ranges),
            }
            for region, ranges in wanted.parts
        ],
        note=wanted.note.strip(),
        due=wanted.due,
        state=advance("slip", "written", "sent"),
        written_by=person,
    )
    recorded(slip, person, "sent", {"to": slip.recipient})
    if slip.method is not None:
        ask(WORK, str(slip.pk))
    else:
        ask_package(slip)
    return slip


def _refuse(shot: Shot, wanted: Wanted) -> None:
    if not wanted.parts or any(not ranges for _, ranges in wanted.parts):
        raise Refused("Choose the frames that are to be worked again.")
    for region, ranges in wanted.parts:
        for first, last in ranges:
            refuse_range(first, last, shot.original.frames)
        out = _out(shot, region)
        if out is not None and wanted.worker is not None:
            raise Refused(
                f"Region {region.number} is out on slip {out.round}; withdraw that first."
            )
    if wanted.worker is not None:
        _refuse_worker(shot, wanted)
    elif wanted.method not in METHODS:
        raise Refused("Say who or what works on it.")
    elif wanted.method == CARRIES:
        _refuse_repaired(shot, wanted)


def _refuse_worker(shot: Shot, wanted: Wanted) -> None:
    assert wanted.worker is not None
    refuse_as_worker(shot.job, wanted.worker)
    if wanted.attempt is None:
        raise Refused("Choose the attempt that goes back.")
    for region, ranges in wanted.parts:
        rows = region.verdicts.filter(attempt=wanted.attempt).order_by("id")
        failed = failed_ranges(ruled(rows, region, shot.original.frames))
        for first, last in ranges:
            if not all(in_ranges(number, failed) for number in range(first, last + 1)):
                raise Refused(
                    f"Frames {first} to {last} of region {region.number} were not all ruled rework."
                )


def _refuse_repaired(shot: Shot, wanted: Wanted) -> None:
    if wanted.repaired is None or not wanted.repaired[1]:
        raise Refused("Say which frames were repaired, and in which attempt.")
    attempt, frames = wanted.repaired
    if attempt.shot_id != shot.pk or attempt.footage.frames != shot.original.frames:
        raise Refused(f"Attempt {attempt.number} is not of the same frames as the shot.")
    for number in frames:
        refuse_range(number, number, shot.original.frames)


def _out(shot: Shot, region: ShotRegion) -> ShotSlip | None:
    slips = shot.slips.filter(state__in=OUT, method__isnull=True)
    return next(
        (slip for slip in slips if any(part["region"] == region.pk for part in slip.parts)), None
    )


def _method(wanted: Wanted) -> dict[str, Any]:
    repaired = None
    if wanted.method == CARRIES and wanted.repaired is not None:
        attempt, frames = wanted.repaired
        repaired = {"attempt": attempt.pk, "number": attempt.number, "frames": sorted(set(frames))}
    return {"name": wanted.method, "seed": 0, "repaired": repaired}


def _report(attempt: ShotAttempt | None) -> dict[str, Any]:
    check = ShotCheck.objects.filter(attempt=attempt, state="done").order_by("-id").first()
    return check.report if check is not None and check.report else {}


@transaction.atomic
def step(slip: ShotSlip, event: str, person: Person | None) -> ShotSlip:
    """Withdraw, take up, settle, or send again what failed.

    Raises:
        NotAllowed: the slip's state does not take it.
    """
    row = held_slip(slip)
    before = row.state
    row.state = advance("slip", row.state, event)
    if event == "sent":
        row.reason = ""
    row.save()
    if row.state != before:
        recorded(row, person, event, {"state": row.state})
    if event == "sent" and row.method is not None:
        ask(WORK, str(row.pk))
    return row


@transaction.atomic
def hand_in(slip: ShotSlip, footage: Footage, person: Person) -> ShotAttempt:
    """Hand footage in as a slip's answer; it becomes an attempt and is examined.

    Raises:
        Refused: it has other frames than what was sent, or is part of a shot already.
        NotAllowed: the slip is not out.
    """
    row = held_slip(slip)
    state = advance("slip", row.state, "returned")
    sent = row.attempt.footage if row.attempt else row.shot.original
    given = (footage.frames, footage.width, footage.height)
    if footage.state == "ready" and given != (sent.frames, sent.width, sent.height):
        raise Refused(
            f"{footage.name}: has {footage.frames} frames of {footage.width} x {footage.height}, "
            f"what was sent {sent.frames} of {sent.width} x {sent.height}"
        )
    maker = row.worker.called if row.worker else ""
    attempt = add_attempt(row.shot, Brought(footage.pk, "retouched by hand", maker), person)
    answered(row, attempt, state, person)
    return attempt


def answered(row: ShotSlip, attempt: ShotAttempt, state: str, person: Person | None) -> None:
    """Store what answers a slip. Its row is held."""
    row.returned, row.state, row.returned_at = attempt, state, timezone.now()
    row.save()
    recorded(row, person, "returned", {"attempt": attempt.number})
