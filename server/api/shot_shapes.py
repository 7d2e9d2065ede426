"""Shots from rows to the shapes of `shot_serializers`."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from fractions import Fraction
from typing import Any

from django.db.models import QuerySet
from shots.checking import REGIONS
from shots.checking import WORK as CHECK
from shots.making import families
from shots.models import OUT, Footage, Shot, ShotAttempt, ShotCheck, ShotOutline, ShotVerdict
from shots.proxies import WORK as PROXIES
from shots.proxies import part_played, standing
from shots.ruling import by_region, ruled

from jobs.models import Job, Membership
from people.models import Person
from work.models import Work
from zweiblick_core.rules.shots import region_state, shot_state

from .shot_slip_shapes import methods_of, slips_of, workers_of

_FORMS = {"h264": "H.264", "ffv1": "FFV1", "prores": "ProRes", "hevc": "H.265", "mjpeg": "JPEG"}
#: From the best to the worst.
_ORDER = ("passes", "undecided", "rework")


def _in_words(row: Footage) -> str:
    if row.state != "ready":
        return ""
    form = "numbered pictures" if row.form == "pictures" else _FORMS.get(row.form, row.form)
    said = [form, f"{row.width} × {row.height}"]
    if row.holds == "frames":
        said += [f"{row.frames} frames", f"{float(Fraction(row.rate)):g} a second"]
        said += [f"{row.depth} bit", *row.facts]
    return ", ".join(said)


def _works(kind: str, subjects: Iterable[int]) -> dict[int, Work]:
    rows = Work.objects.filter(kind=kind, subject__in=[str(one) for one in subjects])
    return {int(row.subject): row for row in rows}


class _Footages:
    """What several rows of footage need, looked up at once."""

    def __init__(self, rows: list[Footage]) -> None:
        self.ready = standing(rows)
        self.drawing = _works(PROXIES, [row.pk for row in rows if row.pk not in self.ready])

    def of(self, row: Footage) -> dict[str, Any]:
        drawing = self.drawing.get(row.pk)
        return {
            "id": row.pk,
            "name": row.name,
            "state": row.state,
            "reason": row.reason or (drawing.error if drawing else ""),
            "holds": row.holds,
            "facts": _in_words(row),
            "frames": row.frames,
            "first": row.first,
            "rate": float(Fraction(row.rate)),
            "width": row.width,
            "height": row.height,
            "played": part_played(row.width, row.height) if row.width else 1.0,
            "ready": row.pk in self.ready,
            "progress": drawing.progress if drawing else 0.0,
        }


def shots_of(job: Job) -> dict[str, Any]:
    """A job's shots, and the footage that waits to be part of one."""
    waiting = list(Footage.objects.waiting().filter(job=job))
    known = _Footages(waiting)
    shots = list(job.shots.select_related("original").prefetch_related("attempts", "regions"))
    verdicts = by_region(ShotVerdict.objects.filter(attempt__shot__job=job))
    return {
        "shots": [
            {
                "id": shot.pk,
                "number": shot.number,
                "name": shot.name,
                "frames": shot.original.frames,
                "attempts": len(shot.attempts.all()),
                "state": min(
                    (_state(shot, attempt, verdicts) for attempt in shot.attempts.all()),
                    key=_ORDER.index,
                    default="undecided",
                ),
            }
            for shot in shots
        ],
        "waiting": [known.of(row) for row in waiting],
        "families": [
            {
                "name": family.name,
                "original": family.original.pk if family.original else None,
                "results": [row.pk for row in family.results],
                "masks": family.masks.pk if family.masks else None,
            }
            for family in families(waiting)
        ],
    }


def _state(
    shot: Shot, attempt: ShotAttempt, verdicts: Mapping[tuple[int, int], list[ShotVerdict]]
) -> str:
    frames = shot.original.frames
    return shot_state(
        region_state(ruled(verdicts.get((attempt.pk, region.pk), []), region, frames), frames)
        for region in shot.regions.all()
    )


def shot_of(shot: Shot, person: Person) -> dict[str, Any]:
    """A shot's page. `shot`: with its job and original."""
    attempts = list(shot.attempts.select_related("footage"))
    known = _Footages([shot.original, *(one.footage for one in attempts)])
    verdicts = by_region(
        ShotVerdict.objects.filter(attempt__shot=shot).select_related("person").order_by("id")
    )
    checks = _newest_checks(attempts)
    working = _works(CHECK, [check.pk for check in checks.values()])
    outlining = Work.objects.filter(kind=REGIONS, subject=str(shot.pk)).first()
    said: list[dict[str, Any]] = [
        {
            "id": one.pk,
            "number": one.number,
            "method": one.method,
            "maker": one.maker,
            "footage": known.of(one.footage),
            "state": _state(shot, one, verdicts),
            "check": _check_of(checks[one.pk], working.get(checks[one.pk].pk))
            if one.pk in checks
            else None,
            "cells": [
                _cell_of(region, verdicts.get((one.pk, region.pk), []), shot.original.frames)
                for region in shot.regions.all()
            ],
        }
        for one in attempts
    ]
    size = shot.job.sizes.first()
    slips = slips_of(shot, person)
    rules = shot.job.role_of(person) == Membership.Role.SUPERVISOR
    waiting = list(_answers(shot, None if rules else person))
    footage = [known.of(shot.original), *(one["footage"] for one in said)]
    return {
        "id": shot.pk,
        "number": shot.number,
        "name": shot.name,
        "job": shot.job_id,
        "job_name": shot.job.name,
        "rules": rules,
        "size": size.name if size else "100 %",
        "original": footage[0],
        "attempts": said,
        "regions": _regions_of(shot, checks.values()),
        "outlining": {
            "state": outlining.state,
            "words": outlining.words,
            "error": outlining.error,
        }
        if outlining and outlining.state != "done"
        else None,
        "slips": slips,
        "methods": methods_of(),
        "workers": workers_of(shot),
        "waiting": [known.of(row) for row in waiting],
        "busy": any(one["by_method"] and one["state"] in OUT for one in slips)
        or any(one["packing"] for one in slips)
        or any(row.state == "reading" for row in waiting)
        or any(not one["ready"] and not one["reason"] for one in footage)
        or any(check.state in ("waiting", "running") for check in checks.values())
        or (outlining is not None and outlining.state in ("waiting", "running")),
    }


def _answers(shot: Shot, person: Person | None) -> QuerySet[Footage]:
    """Footage that can answer one of the shot's slips; only a person's own, if one is given."""
    rows = Footage.objects.waiting().filter(job=shot.job_id, holds="frames")
    return rows if person is None else rows.filter(person=person)


def _newest_checks(attempts: list[ShotAttempt]) -> dict[int, ShotCheck]:
    rows = ShotCheck.objects.filter(attempt__in=attempts).exclude(state="overtaken")
    return {row.attempt_id: row for row in rows.order_by("id")}


def _cell_of(region: Any, rows: list[ShotVerdict], frames: int) -> dict[str, Any]:
    stands = ruled(rows, region, frames)
    return {
        "region": region.pk,
        "state": region_state(stands, frames),
        "revision": len(rows),
        "stands": [{"first": one.first, "last": one.last, "ruling": one.ruling} for one in stands],
        "given": [
            {
                "first": row.first,
                "last": row.last,
                "ruling": row.ruling,
                "words": row.words,
                "person": row.person.called,
                "made_at": row.made_at,
            }
            for row in reversed(rows)
        ],
    }


def _check_of(check: ShotCheck, work: Work | None) -> dict[str, Any]:
    report: dict[str, Any] = check.report or {}
    facts = report.get("facts", [])
    unmatched = report.get("alignment", {}).get("kind") == "unmatched"
    return {
        "id": check.pk,
        "state": check.state,
        "progress": work.progress if work else 0.0,
        "words": work.words if work else "",
        "reason": report["alignment"]["reason"] if unmatched else check.reason,
        "overall": report.get("overall"),
        "said": [fact["words"] for fact in facts],
        "shows": report.get("shot", {}).get("timing", {}).get("shows", []),
        "key_frames": [
            {"frame": one["frame"], "why": one["why"]}
            for one in report.get("shot", {}).get("key_frames", [])
        ],
        "regions": [_checked_region(one) for one in report.get("regions", [])],
    }


def _checked_region(one: dict[str, Any]) -> dict[str, Any]:
    return {
        "region": int(one["id"]),
        "overall": one["overall"],
        "moves": one["moves"],
        "covered": one["covered"],
        "abstained": one["abstained"],
        "repairs": one.get("repairs", []),
        "findings": [
            {
                "kind": found["kind"],
                "word": found["word"],
                "score": found["score"],
                "severity": found["severity"],
                **found["frames"],
                "bbox": found["bbox"],
                "measure": found["measure"]["name"],
                "value": found["measure"]["value"],
                "unit": found["measure"]["unit"],
                "natural": found["measure"]["natural"],
                "course": found["course"],
            }
            for found in one["findings"]
        ],
    }


def _regions_of(shot: Shot, checks: Iterable[ShotCheck]) -> list[dict[str, Any]]:
    drawn: dict[int, list[ShotOutline]] = {}
    for row in ShotOutline.objects.filter(region__shot=shot, until=None):
        drawn.setdefault(row.region_id, []).append(row)
    found = []
    for region in shot.regions.all():
        carried = next(
            (
                one["carried"]
                for check in checks
                if check.report is not None
                and check.options["regions"].get(str(region.number)) == region.version
                for one in check.report["regions"]
                if one["id"] == str(region.number)
            ),
            None,
        )
        found.append(
            {
                "id": region.pk,
                "number": region.number,
                "name": region.name,
                "version": region.version,
                # A mask of every frame is what is carried; the page need not have it twice.
                "drawn": [
                    {"frame": row.frame, "outlines": row.rings if carried is None else []}
                    for row in drawn.get(region.pk, [])
                ],
                "carried": carried,
            }
        )
    return found
