"""Slips as the API says them: all of a list's with the same few queries."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

from django.conf import settings

from images.originals import know_originals
from images.pyramids import standing
from jobs.models import Membership
from people.models import Person
from slips.models import Return, Slip, SlipRegion
from slips.timing import recipient_key, usual_by_recipient, will_be_late
from slips.writing import METHODS, failed_cells
from verdicts.models import Cell
from work.models import Work
from zweiblick_core.rules.advice import CHANGES
from zweiblick_core.rules.following import followed
from zweiblick_core.rules.slips import stop_words
from zweiblick_core.rules.timing import Usual

from .shapes import image_of

DESK = {"id": None, "name": "retoucher's desk"}


@dataclass(frozen=True)
class _Around:
    """What is needed of the rows around some slips.

    Attributes:
        cells: cell by (attempt, region), of attempts that came back.
        work: the desk's work by slip.
        returns: the last file handed in by slip, and its work.
        roles: the person's role by job.
        workers: a job's retouchers.
        trips: of each picture its slips' (round, regions).
        tiles: images whose tiles stand.
        offered: by picture the failed cells that a slip which is not sent yet can take.
        sent: cell by (attempt, region) of what the slips were written from.
        usual: by recipient, how long a round usually takes.
    """

    cells: dict[tuple[int, int], int]
    work: dict[str, Work]
    returns: dict[int, Return]
    roles: dict[int, str]
    workers: dict[int, list[dict[str, Any]]]
    trips: dict[int, list[tuple[int, set[int]]]]
    tiles: set[int]
    offered: dict[int, list[Cell]]
    sent: dict[tuple[int, int], int]
    usual: dict[str, Usual]


def _around(slips: list[Slip], person: Person) -> _Around:
    jobs = {slip.picture.job_id for slip in slips}
    back = [slip.returned_id for slip in slips if slip.returned_id]
    returns = {row.slip_id: row for row in Return.objects.filter(slip__in=slips).order_by("id")}
    subjects = [str(slip.pk) for slip in slips]
    handed = [str(row.pk) for row in returns.values()]
    work = {
        f"{row.kind} {row.subject}": row
        for row in [
            *Work.objects.filter(kind__in=("slip", "package"), subject__in=subjects),
            *Work.objects.filter(kind__in=("return", "dry run"), subject__in=handed),
        ]
    }
    roles: dict[int, str] = {}
    workers: dict[int, list[dict[str, Any]]] = {}
    for member in Membership.objects.filter(job__in=jobs).select_related("person"):
        if member.person_id == person.pk:
            roles[member.job_id] = member.role
        if member.role == Membership.Role.RETOUCHER:
            workers.setdefault(member.job_id, []).append(
                {"id": member.person_id, "name": member.person.called}
            )
    trips: dict[int, dict[int, tuple[int, set[int]]]] = {}
    sent = SlipRegion.objects.filter(slip__picture__in={slip.picture_id for slip in slips})
    for part in sent.exclude(slip__state="withdrawn").select_related("slip"):
        trip = trips.setdefault(part.slip.picture_id, {}).setdefault(
            part.slip_id, (part.slip.round, set())
        )
        trip[1].add(part.region_id)
    return _Around(
        {
            (cell.attempt_id, cell.region_id): cell.pk
            for cell in Cell.objects.filter(attempt__in=back)
        },
        work,
        returns,
        roles,
        workers,
        {picture: list(found.values()) for picture, found in trips.items()},
        _tiles(slips),
        _offered(slips),
        _sent(slips),
        usual_by_recipient(jobs),
    )


def _offered(slips: list[Slip]) -> dict[int, list[Cell]]:
    pictures = {slip.picture_id: slip.picture for slip in slips if slip.state == "written"}
    found: dict[int, list[Cell]] = {}
    for cell in failed_cells(list(pictures.values())) if pictures else []:
        found.setdefault(cell.attempt.picture_id, []).append(cell)
    return found


def _sent(slips: list[Slip]) -> dict[tuple[int, int], int]:
    attempts = {part.attempt_id for slip in slips for part in slip.regions.all()}
    rows = Cell.objects.filter(attempt__in=attempts).values_list("attempt_id", "region_id", "pk")
    return {(attempt, region): pk for attempt, region, pk in rows}


def _tiles(slips: list[Slip]) -> set[int]:
    attempts = [one for slip in slips for one in (slip.attempt, slip.returned) if one]
    attempts += [part.attempt for slip in slips for part in slip.regions.all()]
    know_originals([one.image.picture for one in attempts])
    return standing([one.image for one in attempts])


def slips_of(slips: list[Slip], person: Person) -> list[dict[str, Any]]:
    """Slips with what was sent and what became of it. Their regions, locks and people should be
    prefetched.
    """
    around = _around(slips, person)
    return [_slip(slip, around) for slip in slips]


def _drawn(slip: Slip, said: dict[str, Any]) -> dict[str, Any]:
    """With what is drawn on the picture: outlines, and the places of flaws."""
    for part, shown in zip(slip.regions.all(), said["regions"], strict=True):
        shown["outlines"] = part.version.outlines
        for flaw, drawn in zip(part.flaws, shown["flaws"], strict=True):
            drawn["polygon"] = flaw["polygon"]
    return said


def slip_of(slip: Slip, person: Person) -> dict[str, Any]:
    """One slip, as in a list, and with what is drawn on its picture."""
    return _drawn(slip, slips_of([slip], person)[0])


def _slip(slip: Slip, around: _Around) -> dict[str, Any]:
    picture = slip.picture
    parts = list(slip.regions.all())
    work = around.work.get(f"slip {slip.pk}")
    at_desk = slip.state in ("sent", "working") and slip.worker_id is None
    workers = around.workers.get(picture.job_id, [])
    mine = {part.region_id for part in parts}
    rounds = sum(
        number <= slip.round and bool(regions & mine)
        for number, regions in around.trips.get(slip.picture_id, [])
    )
    usually = around.usual.get(recipient_key(slip))
    return {
        "id": slip.pk,
        "round": slip.round,
        "state": slip.state,
        "picture": picture.pk,
        "picture_number": picture.number,
        "picture_name": picture.name,
        "job": picture.job.name,
        "deadline": picture.job.deadline,
        "attempt": slip.attempt_id,
        "attempt_number": slip.attempt.number,
        "image": image_of(slip.attempt.image, slip.attempt.image_id in around.tiles),
        "returned_image": image_of(slip.returned.image, slip.returned.image_id in around.tiles)
        if slip.returned
        else None,
        "returned": slip.returned_id,
        "returned_number": slip.returned.number if slip.returned else None,
        "worker": {"id": slip.worker_id, "name": slip.worker.called, "usual": None}
        if slip.worker
        else _nobody(slip),
        "workers": _workers([DESK, *workers] if settings.DESK_URL else workers, around),
        "method": slip.method["name"] if slip.method else None,
        "methods": list(METHODS),
        "tier": slip.tier or None,
        "due": slip.due,
        "usual": asdict(usually) if usually else None,
        "late": will_be_late(slip, usually),
        "offered": _offers(around.offered.get(slip.picture_id, []), slip),
        "elsewhere": slip.elsewhere,
        "note": slip.note,
        "reason": slip.reason,
        "progress": work.progress if work and at_desk else None,
        "returning": _returning(around.returns.get(slip.pk), around),
        "stop": stop_words(rounds),
        "package": _package(slip, around),
        "replaceable": slip.state in ("returned", "rechecked")
        and slip.worker_id is not None
        and slip.looked_at is None,
        "mine": around.roles.get(picture.job_id) == Membership.Role.SUPERVISOR,
        "written_by": slip.written_by.called,
        "written_at": slip.written_at,
        "sent_at": slip.sent_at,
        "returned_at": slip.returned_at,
        "regions": [_part(slip, part, around) for part in parts],
        "locks": [
            {
                "number": lock.region.number,
                "same": lock.same,
                "saved_anew": lock.saved_anew,
                "compared": lock.compared,
                "differing": lock.differing,
            }
            for lock in slip.locks.all()
        ],
        "words": [
            {
                "what": said.what,
                "person": said.person.called if said.person else "retoucher's desk",
                "words": said.words,
                "at": said.made_at,
            }
            for said in slip.words.all()
        ],
        "changes": [{"what": what, "words": words} for what, words in CHANGES.items()],
    }


def _workers(workers: list[dict[str, Any]], around: _Around) -> list[dict[str, Any]]:
    rows = []
    for one in workers:
        key = f"person {one['id']}" if one["id"] is not None else "desk"
        usually = around.usual.get(key)
        rows.append({**one, "usual": asdict(usually) if usually else None})
    return rows


def _package(slip: Slip, around: _Around) -> dict[str, Any]:
    work = around.work.get(f"package {slip.pk}")
    building = work is not None and work.state in ("waiting", "running")
    return {
        "ready": slip.packed == slip.key,
        "progress": work.progress if work and building else None,
    }


def _nobody(slip: Slip) -> dict[str, Any]:
    """Whom a slip goes to that goes to no person."""
    return {"id": None, "name": slip.recipient, "usual": None}


def _offers(cells: list[Cell], slip: Slip) -> list[dict[str, Any]]:
    if slip.state != "written":
        return []
    return [
        {
            "cell": cell.pk,
            "region": cell.region_id,
            "number": cell.region.number,
            "name": cell.region.name,
            "attempt_number": cell.attempt.number,
            "ruling": cell.current.ruling if cell.current else "",
        }
        for cell in cells
    ]


def _returning(row: Return | None, around: _Around) -> dict[str, Any] | None:
    if row is None:
        return None
    work = around.work.get(f"{'dry run' if row.dry else 'return'} {row.pk}")
    return {
        "state": ("refused" if row.reason else "done") if row.settled else "working",
        "name": row.name,
        "progress": 1.0 if row.settled else work.progress if work else 0.0,
        "reason": row.reason,
        "moved": row.moved_id,
        "dry": row.dry,
        "report": row.report if row.dry else None,
    }


def _part(slip: Slip, part: SlipRegion, around: _Around) -> dict[str, Any]:
    became = list(part.outcome["kinds"]) if part.outcome else []
    place = f"/api/slips/{slip.pk}/regions/{part.region_id}"
    return {
        "region": part.region_id,
        "attempt": part.attempt_id,
        "attempt_number": part.attempt.number,
        "image": image_of(part.attempt.image, part.attempt.image_id in around.tiles),
        "sent_cell": around.sent.get((part.attempt_id, part.region_id)),
        "bbox": list(part.version.bbox),
        "outlines": [],
        "number": part.region.number,
        "name": part.region.name,
        "ruling": part.verdict.ruling,
        "flaws": [
            _flaw(flaw, became[number][1] if number < len(became) else None)
            for number, flaw in enumerate(part.flaws)
        ],
        "changes": part.changes,
        "note": part.note,
        "followed": part.followed,
        "helped": [asdict(one) for one in followed(part.changes, part.followed, became)]
        if part.followed is not None and part.outcome
        else [],
        "outcome": part.outcome["word"] if part.outcome else None,
        "new": [kind for kind, word in became if word == "new flaw"],
        "before": f"{place}/before/",
        "after": f"{place}/after/" if slip.returned_id else None,
        "cell": around.cells.get((slip.returned_id, part.region_id)) if slip.returned_id else None,
    }


def _flaw(flaw: dict[str, Any], outcome: str | None) -> dict[str, Any]:
    natural = flaw["measure"]["natural"]
    return {
        "kind": flaw["kind"],
        "word": flaw["word"],
        "severity": flaw["severity"],
        "group": flaw["group_words"],
        "words": flaw.get("words", ""),
        "bbox": flaw["bbox"],
        "polygon": [],
        "value": flaw["measure"]["value"],
        "unit": flaw["measure"]["unit"],
        "low": natural["low"],
        "high": natural["high"],
        "outcome": outcome,
    }
