"""Slips of shots from rows to the shapes of `shot_serializers`."""

from __future__ import annotations

from typing import Any

from shots.models import Shot, ShotSlip
from shots.sending import WORK

from jobs.models import Membership
from work.models import Work
from zweiblick_core.shots import METHODS


def slips_of(shot: Shot) -> list[dict[str, Any]]:
    """A shot's slips, the newest first."""
    rows = list(shot.slips.select_related("attempt", "returned", "worker", "written_by"))
    subjects = [str(row.pk) for row in rows if row.method is not None]
    works = {work.subject: work for work in Work.objects.filter(kind=WORK, subject__in=subjects)}
    return [_slip_of(row, works.get(str(row.pk))) for row in rows]


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


def _slip_of(row: ShotSlip, work: Work | None) -> dict[str, Any]:
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
        "returned": row.returned.number if row.returned else None,
        "rest": _rest_of(row.proof) if row.proof else None,
        "by": row.written_by.called,
        "written_at": row.written_at,
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
