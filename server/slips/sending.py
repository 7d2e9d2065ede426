"""Writing, sending and withdrawing slips; the trip to the desk and back; what became of each
region.
"""

from __future__ import annotations

import logging
import time
from dataclasses import asdict

import requests
from django.conf import settings
from django.db import transaction
from django.utils import timezone

from attempts.fitting import refuse_stored, refuse_unmatched
from attempts.intake import Facts, add_attempt, locked_picture
from attempts.models import Attempt, AttemptSource
from checks.events import Proofs
from checks.models import Check, Finding, FindingRuling
from history.models import record
from images.crops import NotYet
from images.decoding import decoded, read_bounded
from jobs.models import Membership, Picture
from looks.own import own_flaws
from people.models import Person
from verdicts.models import Cell
from work.leases import Later, Lease, ask
from work.models import Work
from zweiblick_core.compare.locks import Proof
from zweiblick_core.errors import Refused
from zweiblick_core.reading import Picture as CorePicture
from zweiblick_core.registering import register
from zweiblick_core.report import Signal
from zweiblick_core.rules import advice, slips
from zweiblick_core.rules.states import advance
from zweiblick_core.visibility import parse_size, visibility, word

from .models import Lock, Slip, SlipRegion, new_key
from .packing import package_of

log = logging.getLogger(__name__)
OPEN = ("written", "sent", "working", "returned", "failed")
#: How long one lease waits for the desk before it gives the work back, and how often it asks,
#: seconds.
PATIENCE, PACE = 25.0, 0.4


def _severity(finding: Finding, picture: Picture) -> float:
    size, original = picture.job.sizes.first(), picture.original
    plain = finding.signal
    signal = Signal.from_dict(plain)
    return visibility(
        signal, parse_size(size.spec if size else None), (original.width, original.height)
    )


def flaws_of(attempt: Attempt, region, only_sent: bool = True) -> list[dict]:
    """The flaws of a cell as a slip keeps them: what people outlined, then the findings, worst
    first: those confirmed, or all that nobody denied where
    none is.

    `only_sent` False gives every finding of the newest finished check, whatever was answered.
    """
    rows = list(
        Finding.objects.filter(
            checked__check_run__attempt=attempt,
            checked__check_run__state="done",
            checked__region_version__region=region,
        )
        .select_related("checked")
        .prefetch_related("rulings")
        .order_by("-checked__check_run_id", "position")
    )
    rows = [row for row in rows if row.checked.check_run_id == rows[0].checked.check_run_id]
    told = {row.pk: (list(row.rulings.all()) or [None])[-1] for row in rows}
    answer = lambda row: told[row.pk].answer if told[row.pk] else FindingRuling.Answer.UNREAD
    if only_sent:
        confirmed = [row for row in rows if answer(row) == FindingRuling.Answer.CONFIRMED]
        rows = confirmed or [row for row in rows if answer(row) == FindingRuling.Answer.UNREAD]
    words = {group["id"]: group["words"] for row in rows for group in row.checked.groups}
    picture = attempt.picture
    kept = []
    for row in rows:
        severity = _severity(row, picture)
        kept.append(
            {
                "finding": row.pk,
                "kind": row.kind,
                "bbox": row.bbox,
                "polygon": row.polygon,
                "measure": row.measure,
                "evidence": row.evidence,
                "score": row.score,
                "severity": round(severity, 4),
                "word": word(severity),
                "answer": answer(row),
                "group_words": words.get(row.group, ""),
            }
        )
    return [*own_flaws(attempt, region), *kept] if only_sent else kept


def advice_for(cell: Cell, flaws: list[dict]) -> list[dict]:
    x, y, w, h = cell.region.current.bbox
    original = cell.attempt.picture.original
    at_frame = x == 0 or y == 0 or x + w == original.width or y + h == original.height
    ruling = cell.current.ruling if cell.current else "rework"
    changes = advice.advise(
        [advice.Flaw(flaw["kind"], flaw["bbox"], flaw["evidence"]) for flaw in flaws],
        ruling,
        at_frame,
    )
    return [{**asdict(change), "because": list(change.because)} for change in changes]


@transaction.atomic
def write_slip(attempt: Attempt, person) -> Slip:
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
    wanted = slips.may_send({cell.region_id: cell.current.ruling for cell in cells})
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
                version=cell.region.current,
                verdict=cell.current,
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


def _held(slip: Slip) -> Slip:
    return (
        Slip.objects.select_for_update().select_related("picture__job", "attempt").get(pk=slip.pk)
    )


def edit_slip(
    slip: Slip,
    person,
    note: str | None,
    regions: list[dict],
    worker: Person | None,
    worker_given: bool,
) -> Slip:
    """Change a slip that was not sent yet.

    Raises:
        Refused: it was sent, a change is unknown, or the worker is no retoucher of the job.
    """
    with transaction.atomic():
        row = _held(slip)
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
def send_slip(slip: Slip, person) -> Slip:
    """Send it off: to the retoucher's list, or to the desk."""
    row = _held(slip)
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
def withdraw_slip(slip: Slip, person) -> Slip:
    row = _held(slip)
    before = row.state
    row.state = advance("slip", row.state, "withdrawn")
    row.save()
    record(
        row.picture, person, "slip withdrawn", f"slip {row.round}", before=before, after="withdrawn"
    )
    return row


@transaction.atomic
def take_up(slip: Slip, person) -> Slip:
    row = _held(slip)
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
    person,
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
        row = _held(slip)
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


# -- the desk


def _desk(method: str, path: str, **more) -> requests.Response:
    try:
        return requests.request(
            method,
            settings.DESK_URL + path,
            headers={"X-Desk-Key": settings.DESK_KEY},
            timeout=(3, 120),
            **more,
        )
    except requests.RequestException as error:
        raise Later("the desk does not answer") from error


def run_slip(lease: Lease) -> None:
    """Bring a slip to the desk and its result back. The desk knows the slip by its key, so bringing
    it twice does no harm.
    """
    slip = Slip.objects.select_related("picture__job", "attempt__image__blob").get(
        pk=lease.work.subject
    )
    if slip.state not in ("sent", "working"):
        with lease.writing():  # answered or withdrawn in the meantime
            return
    if not settings.DESK_URL:
        raise Refused("no retoucher's desk is set up here")
    lease.progress(0.02, "at the desk")
    told = _desk("GET", f"/slips/{slip.key}")
    if told.status_code == 404:
        try:
            package = package_of(slip)
        except NotYet as error:
            raise Later("the picture's tiles are being made") from error
        told = _desk("PUT", f"/slips/{slip.key}", data=package)
    if told.status_code >= 400:
        raise Refused(f"the desk refused the slip ({told.status_code})")
    if slip.state == "sent":
        take_up(slip, None)
    until = time.monotonic() + PATIENCE
    while told.json()["state"] == "working":
        if time.monotonic() > until:
            raise Later("the desk is still working")
        lease.progress(0.05 + 0.9 * told.json()["progress"], "at the desk")
        time.sleep(PACE)
        told = _desk("GET", f"/slips/{slip.key}")
        if told.status_code == 404:
            raise Later("the desk lost the slip")
    if told.json()["state"] == "failed":
        raise Refused(told.json()["reason"])
    result = _desk("GET", f"/slips/{slip.key}/result")
    if result.status_code != 200:
        raise Later("the desk does not hand the result over")
    seconds = (timezone.now() - (slip.sent_at or slip.written_at)).total_seconds()
    facts = Facts(
        "retoucher's desk",
        "by hand",
        "retoucher's desk",
        round(seconds, 1),
        None,
        {"slip": slip.round},
    )
    name = f"slip-{slip.round}.png"
    whole = fitting(slip, result.content, name)
    with lease.writing():
        current = Slip.objects.get(pk=slip.pk)
        if current.state in ("sent", "working"):
            take_back(slip, result.content, name, facts, None, whole)


def slip_failed(work: Work) -> None:
    """The desk could not do it; the slip says why and can be sent again."""
    with transaction.atomic():
        row = (
            Slip.objects.select_for_update()
            .select_related("picture__job")
            .filter(pk=work.subject)
            .first()
        )
        if row is None or row.state not in ("sent", "working"):
            return
        row.state, row.reason = advance("slip", row.state, "failed"), work.error
        row.save()
        record(row.picture, None, "slip failed", f"slip {row.round}", after={"reason": work.error})


# -- on return


def seen_of(flaw: dict) -> slips.Seen:
    natural = flaw["measure"]["natural"]
    return slips.Seen(
        flaw["kind"],
        flaw["bbox"],
        flaw["measure"]["value"],
        natural["low"],
        natural["high"],
        flaw["severity"],
        bool(flaw.get("by_person")),
    )


def judge_return(check: Check) -> None:
    """Say of each region that was sent what became of it. Called in the transaction that stores the
    returned attempt's check.
    """
    slip = Slip.objects.select_for_update().filter(returned_id=check.attempt_id).first()
    if slip is None or slip.state not in ("returned", "rechecked"):
        return
    for part in slip.regions.select_related("region"):
        before_all = flaws_of(slip.attempt, part.region, only_sent=False)
        sent = {flaw["finding"] for flaw in part.flaws}
        found = slips.outcome(
            [seen_of(flaw) for flaw in part.flaws],
            [seen_of(flaw) for flaw in flaws_of(check.attempt, part.region, only_sent=False)],
            [seen_of(flaw) for flaw in before_all if flaw["finding"] not in sent],
        )
        part.outcome = {"word": found.word, "kinds": [list(pair) for pair in found.kinds]}
        part.save()
    first = slip.state == "returned"
    slip.state, slip.rechecked_at = advance("slip", slip.state, "rechecked"), timezone.now()
    slip.save()
    if first:
        record(
            slip.picture,
            None,
            "slip rechecked",
            f"slip {slip.round}",
            after={
                f"region {part.region.number}": part.outcome["word"]
                for part in slip.regions.select_related("region")
            },
        )


def on_checked(*, check: Check, proofs: list[Proofs], **_: object) -> None:
    """Of an attempt that answers a slip: what became of what was sent, and what it did to the rest.
    In the transaction that stores the check.
    """
    for found in proofs:
        keep_proofs(check.attempt, found.by_region)
    judge_return(check)


def keep_proofs(attempt: Attempt, proofs: dict[int, Proof]) -> None:
    """Write down what a returned attempt did to the regions that were not sent. Called in the
    check's transaction.
    """
    slip = Slip.objects.filter(returned=attempt).first()
    if slip is None:
        return
    sent = set(slip.regions.values_list("region_id", flat=True))
    for region_id, proof in proofs.items():
        if region_id not in sent:
            Lock.objects.update_or_create(
                slip=slip,
                region_id=region_id,
                defaults={
                    "same": proof.same,
                    "differing": proof.differing,
                    "compared": proof.compared,
                },
            )
