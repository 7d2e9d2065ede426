"""Slips of shots from rows to the shapes of `shot_serializers`."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from shots.models import OUT, Shot, ShotRegion, ShotSlip
from shots.packages import WORK as PACKAGE
from shots.packages import is_kept
from shots.sending import WORK

from jobs.models import Membership
from people.models import Person
from work.models import Work
from zweiblick_core.shots import METHODS


def slips_of(shot: Shot, person: Person) -> list[dict[str, Any]]:
    """A shot's slips that a person may see, the newest first."""
    found = ShotSlip.objects.visible_to(person).filter(shot=shot)
    rows = list(
        found.select_related("attempt", "returned", "worker", "written_by").prefetch_related(
            "words__person"
        )
    )
    works = _works(rows)
    return [_slip_of(row, works.get(row.pk), person) for row in rows]


def _works(rows: list[ShotSlip]) -> dict[int, Work]:
    """What is being done for each slip: a method that mends, or for a person the package."""
    by_method = {row.pk: row.method is not None for row in rows}
    works = Work.objects.filter(kind__in=(WORK, PACKAGE), subject__in=map(str, by_method))
    return {
        int(one.subject): one
        for one in works
        if one.kind == (WORK if by_method[int(one.subject)] else PACKAGE)
    }


def listed(found: QuerySet[ShotSlip], person: Person, most: int) -> list[dict[str, Any]]:
    """Slips as a list shows them, in a number of queries that does not grow with them."""
    rows = list(
        found.select_related("attempt", "worker", "shot__job", "shot__original").order_by("-id")[
            :most
        ]
    )
    regions = {part["region"] for row in rows for part in row.parts}
    names = dict(ShotRegion.objects.filter(pk__in=regions).values_list("pk", "name"))
    works = _works(rows)
    return [_in_list(row, works.get(row.pk), names, person) for row in rows]


def _in_list(
    row: ShotSlip, work: Work | None, names: dict[int, str], person: Person
) -> dict[str, Any]:
    outcomes = row.outcomes or {}
    return {
        "id": row.pk,
        "round": row.round,
        "shot": row.shot_id,
        "shot_number": row.shot.number,
        "shot_name": row.shot.name,
        "job": row.shot.job.name,
        "deadline": row.shot.job.deadline,
        "frames": row.shot.original.frames,
        "first": row.shot.original.first,
        "attempt": row.attempt.number if row.attempt else None,
        "recipient": row.recipient,
        "mine": row.worker_id == person.pk,
        "parts": [
            {
                "number": part["number"],
                "name": names.get(part["region"], ""),
                "ranges": _ranges(part["ranges"]),
                "word": outcomes.get(str(part["number"]), {}).get("word"),
            }
            for part in row.parts
        ],
        "state": row.state,
        "reason": row.reason,
        "progress": work.progress if work and row.method and row.state in OUT else None,
        "due": row.due,
        "at": row.returned_at or row.written_at,
        "differing": bool(row.proof and row.proof["differing"]),
    }


def methods_of() -> list[dict[str, str]]:
    """What is built in."""
    return [{"name": name, "what": what} for name, what in METHODS.items()]


def workers_of(shot: Shot) -> list[dict[str, Any]]:
    """The retouchers of its job."""
    rows = Membership.objects.filter(job=shot.job_id, role=Membership.Role.RETOUCHER)
    return [
        {"id": one.person_id, "name": one.person.called} for one in rows.select_related("person")
    ]


def _ranges(ranges: list[list[int]]) -> list[dict[str, int]]:
    return [{"first": first, "last": last} for first, last in ranges]


def _slip_of(row: ShotSlip, work: Work | None, person: Person) -> dict[str, Any]:
    outcomes = row.outcomes or {}
    repaired = row.method["repaired"] if row.method else None
    return {
        "id": row.pk,
        "round": row.round,
        "attempt": row.attempt.number if row.attempt else None,
        "recipient": row.recipient,
        "by_method": row.method is not None,
        "repaired": {"number": repaired["number"], "frames": repaired["frames"]}
        if repaired
        else None,
        "parts": [
            {
                "region": part["region"],
                "number": part["number"],
                "ranges": _ranges(part["ranges"]),
                "flaws": part["flaws"],
                "word": outcomes.get(str(part["number"]), {}).get("word"),
                "kinds": outcomes.get(str(part["number"]), {}).get("kinds", []),
            }
            for part in row.parts
        ],
        "note": row.note,
        "due": row.due,
        "state": row.state,
        "reason": row.reason,
        "progress": work.progress if work else 0.0,
        "words": work.words if work else "",
        "packing": row.method is None and work is not None and work.state in ("waiting", "running"),
        "returned": row.returned.number if row.returned else None,
        "rest": _rest_of(row.proof) if row.proof else None,
        "by": row.written_by.called,
        "written_at": row.written_at,
        "mine": row.worker_id == person.pk,
        "words_said": [
            {
                "what": one.what,
                "person": one.person.called,
                "words": one.words,
                "at": one.made_at,
            }
            for one in row.words.all()
        ],
        "package": f"/api/shot-slips/{row.pk}/package/" if is_kept(row) else None,
    }


def _rest_of(proof: dict[str, Any]) -> dict[str, Any]:
    return {
        "margin": proof["margin"],
        "frames": proof["frames"],
        "same": _ranges(proof["same"]),
        "recoded": _ranges(proof["recoded"]),
        "differing": _ranges(proof["differing"]),
        "places": proof["places"],
    }
