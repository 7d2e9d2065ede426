"""From rows to the shapes of `serializers`."""

from __future__ import annotations

from typing import Any

from django.db.models import Q

from attempts.models import Assembly, Attempt, AttemptSource
from checks.carrying import standing_outside
from checks.models import Check, Finding
from images.models import Image
from images.pyramids import standing, tiles_stand
from jobs.models import DeliverySize, Picture
from ledger.book import Ledger, demand_of, ledger
from ledger.rating import LET_PASS, answer_of, counting, words_of, worst_of
from looks.cold import counted
from looks.models import OwnFinding
from people.models import Person
from runs.going import hidden_from
from siblings.models import Sibling
from signing.models import SignOff
from slips.advising import spent_on
from slips.models import OPEN, Slip
from verdicts.models import Cell, Verdict
from work.models import Work
from zweiblick_core.regions import OutlineDifference
from zweiblick_core.report import Signal
from zweiblick_core.rules.bar import passes_at
from zweiblick_core.rules.cold import Hit, noticed
from zweiblick_core.rules.looking import (
    OPENS_MARKS,
    Weighed,
    covers,
    must_be_seen_whole,
    order_of_findings,
)
from zweiblick_core.rules.verdicts import asked_anyway
from zweiblick_core.visibility import STEPS, parse_size, visibility, word

from .fact_shapes import barred_by_terms
from .second_shapes import Unseen, askable, asked_in, left_of, second_of


def image_of(image: Image, ready: bool | None = None) -> dict[str, Any]:
    """`ready`: whether its tiles are known to stand; None: it is looked up."""
    profile = "" if image.profile == "none" else f", {image.profile}"
    # A result is shown in its original's frame, whatever its own.
    frame = image.picture.original if image.role == "result" and image.picture.original else image
    if (frame.width, frame.height) != (image.width, image.height):
        profile += f", {image.width} × {image.height} resampled onto the original"
    return {
        "id": image.pk,
        "width": frame.width,
        "height": frame.height,
        "tiles": f"/api/images/{image.pk}/tiles/",
        "ready": tiles_stand(image) if ready is None else ready,
        "name": image.name,
        "facts": f"{image.format.upper()}, {image.depth} bit{profile}",
    }


def severities(
    kind: str,
    signal: dict[str, Any],
    sizes: list[DeliverySize],
    frame: tuple[int, int],
    bar: dict[str, float],
) -> dict[str, dict[str, Any]]:
    """Severity of a finding's signal at each of a job's sizes, by the core, and whether it lies
    under the client's bar there.
    """
    found = {}
    for size in sizes:
        severity = visibility(Signal.from_dict(signal), parse_size(size.spec), frame)
        found[str(size.pk)] = {
            "severity": round(severity, 4),
            "word": word(severity),
            "under_bar": severity < bar.get(kind, 0.0),
        }
    return found


def finding_of(
    finding: Finding, sizes: list[DeliverySize], frame: tuple[int, int], bar: dict[str, float]
) -> dict[str, Any]:
    return {
        "id": finding.pk,
        "kind": finding.kind,
        "runner_up": finding.runner_up,
        "score": finding.score,
        "confidence": finding.confidence,
        "severities": severities(finding.kind, finding.signal, sizes, frame, bar),
        "bbox": finding.bbox,
        "polygon": finding.polygon,
        "measure": finding.measure,
        "evidence": finding.evidence,
        "group": finding.group,
        "answer": answer_of(finding),
        "words": words_of(finding),
    }


def outside_of(
    check: Check,
    sizes: list[DeliverySize],
    frame: tuple[int, int],
    bar: dict[str, float],
) -> list[dict[str, Any]]:
    """What changed outside every region, with its severity at each size and what stands of it."""
    said = standing_outside(check) if check.outside else {}
    return [
        {
            **{
                name: finding[name]
                for name in (
                    "words",
                    "kind",
                    "confidence",
                    "bbox",
                    "polygon",
                    "measure",
                    "evidence",
                )
            },
            "number": number,
            "severities": severities(finding["kind"], finding["signal"], sizes, frame, bar),
            "answer": said[number].answer if number in said else "unread",
            "answered_by": said[number].person.called if number in said else None,
        }
        for number, finding in enumerate(check.outside)
    ]


def check_of(
    check: Check | None,
    work: dict[str, Work],
    sizes: list[DeliverySize],
    frame: tuple[int, int],
    bar: dict[str, float],
) -> dict[str, Any] | None:
    if check is None:
        return None
    task = work.get(str(check.pk))
    running = check.state in ("waiting", "running")
    return {
        "id": check.pk,
        "state": check.state,
        "progress": 1.0 if not running else task.progress if task else 0.0,
        "words": task.words if task and running else "",
        "overall": check.overall,
        "reason": check.reason,
        "about": check.about,
        "outside": outside_of(check, sizes, frame, bar),
    }


def verdict_of(verdict: Verdict | None) -> dict[str, Any] | None:
    if verdict is None or verdict.ruling == Verdict.Ruling.TAKEN_BACK:
        return None
    return {
        "id": verdict.pk,
        "ruling": verdict.ruling,
        "carried": verdict.carried_from_id is not None,
        "size": verdict.size.name if verdict.size else None,
        "person": verdict.person.called,
        "words": verdict.words,
        "at": verdict.made_at,
    }


def cell_of(
    book: Ledger,
    cell: Cell,
    frame: tuple[int, int],
    outcomes: dict[tuple[int, int], str],
    sizes: list[DeliverySize],
    looks: dict[int, list[list[Hit]]],
    unseen: Unseen,
) -> dict[str, Any]:
    key = (cell.attempt_id, cell.region_id)
    row = book.checked.get(key)
    worst = worst_of(book, key, frame)
    own = book.own.get(key, [])
    times, of = noticed(looks.get(cell.attempt_id, []), cell.region_id)
    demands = {size.pk: demand_of(size, book.picture) for size in sizes}
    state = unseen.state(book, cell)
    return {
        "id": cell.pk,
        "region": cell.region_id,
        "attempt": cell.attempt_id,
        "state": state,
        "asked": asked_anyway(cell.pk, state),
        "revision": cell.revision,
        "verdict": verdict_of(cell.current) if unseen.shows(cell) else None,
        "overall": row.overall if row else None,
        "findings": (len(row.findings.all()) if row else 0) + len(own),
        "worst_kind": worst[0] if worst else None,
        "worst_severity": worst[1] if worst else None,
        "worst_word": worst[2] if worst else None,
        # Nothing is known of an attempt that was not judged, so it passes nowhere by itself.
        "passes_at": passes_at(counting(book, key, sizes, frame), demands, book.picture.job.bar)
        if row
        else [],
        "worked": OutlineDifference(**row.worked).words() if row and row.worked else None,
        "outcome": outcomes.get(key),
        "crop": f"/api/cells/{cell.pk}/crop/",
        "cold_looks": of,
        "noticed": times,
    }


def _signed(picture: Picture) -> dict[str, Any] | None:
    row = SignOff.objects.filter(standing=picture).select_related("person").first()
    return (
        {"attempt": row.attempt_id, "person": row.person.called, "at": row.made_at} if row else None
    )


def sizes_of(picture: Picture, sizes: list[DeliverySize]) -> list[dict[str, Any]]:
    """Delivery sizes, with how large they show a picture."""
    frame = (picture.original.width, picture.original.height)
    return [
        {
            "id": row.pk,
            "name": row.name,
            "spec": row.spec,
            "scale": (parsed := parse_size(row.spec)).scale(*frame),
            "millimetres": parsed.millimetres(*frame),
            "distance": parsed.distance,
            "seen_whole": must_be_seen_whole(parsed.scale(*frame)),
        }
        for row in sizes
    ]


def bench_of(picture: Picture, person: Person, size: DeliverySize | None) -> dict[str, Any]:
    # An attempt may come in between two of these queries: it is shown once all of it is known,
    # and what is put together is done no sooner than its cells stand.
    assembly = assembly_of(picture.assemblies.prefetch_related("parts").last())
    book = ledger(picture, size)
    original = picture.original
    frame = (original.width, original.height)
    work = {row.subject: row for row in Work.objects.filter(picture=picture, kind="check")}
    sizes = list(picture.job.sizes.all())
    known = {cell.attempt_id for cell in book.cells}
    attempts = [
        attempt
        for attempt in picture.attempts.select_related("run__method", "image").order_by("number")
        if attempt.pk in known or not book.regions
    ]
    for attempt in attempts:
        attempt.image.picture = picture
    tiles = standing([original, *[attempt.image for attempt in attempts]])
    slips: list[dict[str, Any]] = []
    outcomes: dict[tuple[int, int], str] = {}
    answers: dict[int, int] = {}
    for slip in (
        Slip.objects.filter(picture=picture)
        .exclude(state="withdrawn")
        .prefetch_related("regions")
        .order_by("id")
    ):
        slips.append(
            {
                "id": slip.pk,
                "round": slip.round,
                "state": slip.state,
                "attempt": slip.attempt_id,
                "regions": [part.region_id for part in slip.regions.all()],
            }
        )
        if slip.returned_id:
            answers[slip.returned_id] = slip.pk
            outcomes |= {
                (slip.returned_id, part.region_id): part.outcome["word"]
                for part in slip.regions.all()
                if part.outcome
            }
    sources: dict[int, list[int]] = {}
    for row in AttemptSource.objects.filter(attempt__picture=picture):
        if row.source_id not in sources.setdefault(row.attempt_id, []):
            sources[row.attempt_id].append(row.source_id)
    withdrawn = Attempt.every.filter(picture=picture).exclude(withdrawn_at=None)
    barred = barred_by_terms(
        [*attempts, *withdrawn.select_related("run")], sources, picture.job.use
    )
    spent = spent_on(picture)
    looks = counted([attempt.pk for attempt in attempts])
    unseen = Unseen(person, asked_in(book, person), hidden_from(person, picture))
    backdrops = {row.region_version.region_id: row.backdrop for row in book.checked.values()}
    return {
        "id": picture.pk,
        "number": picture.number,
        "name": picture.name,
        "job": picture.job.name,
        "job_id": picture.job_id,
        "bar": picture.job.bar,
        "deadline": picture.job.deadline,
        "role": picture.job.role_of(person),
        "state": "undecided" if unseen.regions else book.state,
        "done": None if unseen.regions else book.done,
        "held_up": sorted(book.held_up),
        "signed": _signed(picture),
        "undecided": [
            region.pk
            for region in book.regions
            if region.pk in unseen.regions or book.region_state(region.pk) == "undecided"
        ],
        "withdrawn": [
            {"id": row.pk, "number": row.number, "method": row.run.method.name}
            for row in withdrawn.select_related("run__method").order_by("number")
        ],
        "siblings": Sibling.objects.filter(Q(first=picture) | Q(second=picture))
        .filter(first__withdrawn_at=None, second__withdrawn_at=None)
        .count(),
        "left": left_of(picture),
        "askable": askable(picture, person),
        "opens_marks": list(OPENS_MARKS),
        "sizes": sizes_of(picture, sizes),
        "size": book.size.pk if book.size else None,
        "original": image_of(original, original.pk in tiles),
        "regions": [
            {
                "id": region.pk,
                "number": region.number,
                "name": region.name,
                "bbox": list(region.current.bbox),
                "outlines": region.current.outlines,
                "state": "undecided"
                if region.pk in unseen.regions
                else book.region_state(region.pk),
                "holder": None if region.pk in unseen.regions else book.holder(region.pk),
                "second": second_of(book.second_looks[region.pk], person)
                if region.pk in book.second_looks
                else None,
                "order": book.order(region.pk),
                "spent": vars(spent[region.pk]) if region.pk in spent else None,
                "backdrop": region.backdrop or backdrops.get(region.pk),
            }
            for region in book.regions
        ],
        "attempts": [
            {
                "id": attempt.pk,
                "number": attempt.number,
                "method": attempt.run.method.name,
                "kind": attempt.run.method.kind,
                "maker": attempt.maker,
                "seconds": attempt.run.seconds,
                "cost": str(attempt.run.cost) if attempt.run.cost is not None else None,
                "settings": attempt.run.settings,
                "made_from": sources.get(attempt.pk, []),
                "left_house": attempt.run.left_house,
                "cropped_when": attempt.run.cropped_when,
                "barred": barred.get(attempt.pk),
                "slip": answers.get(attempt.pk),
                "image": image_of(attempt.image, attempt.image_id in tiles),
                "check_of": check_of(
                    book.checks.get(attempt.pk), work, sizes, frame, picture.job.bar
                ),
            }
            for attempt in attempts
        ],
        "cells": [
            cell_of(book, cell, frame, outcomes, sizes, looks, unseen) for cell in book.cells
        ],
        "failed": sorted(
            {
                cell.attempt_id
                for cell in book.cells
                if cell.current
                and cell.region_id not in unseen.regions
                and cell.current.ruling in ("rework", "rebuild")
                and not any(
                    cell.region_id in row["regions"] for row in slips if row["state"] in OPEN
                )
            }
        ),
        "slips": slips,
        "assembly": assembly,
    }


def assembly_of(row: Assembly | None) -> dict[str, Any] | None:
    if row is None:
        return None
    work = Work.objects.filter(kind="assembly", subject=str(row.pk)).first()
    state = (
        "done" if row.attempt_id else "refused" if row.reason else work.state if work else "waiting"
    )
    return {
        "id": row.pk,
        "state": state,
        "progress": 1.0 if row.attempt_id else work.progress if work else 0.0,
        "reason": row.reason,
        "attempt": row.attempt_id,
        "parts": [
            {"region": part.region_id, "attempt": part.attempt_id} for part in row.parts.all()
        ],
    }


def own_of(row: OwnFinding) -> dict[str, Any]:
    """A flaw that a person outlined."""
    return {
        "id": row.pk,
        "kind": row.kind,
        "severity": row.severity,
        "word": word(row.severity),
        "size": row.size.name if row.size else None,
        "size_id": row.size_id,
        "words": row.words,
        "polygon": row.polygon,
        "bbox": row.bbox,
        "person": row.person.called,
        "carried_from": row.carried_from.attempt.number if row.carried_from else None,
        "at": row.made_at,
    }


def cell_detail(cell: Cell) -> dict[str, Any]:
    """A cell's findings, groups and abstentions from the newest finished check."""
    row = (
        cell.region.current
        and cell.region.current.checked.filter(
            check_run__attempt=cell.attempt, check_run__state="done"
        )
        .order_by("-check_run_id")
        .prefetch_related("findings__rulings")
        .first()
    )
    original = cell.attempt.picture.original
    sizes = list(cell.attempt.picture.job.sizes.all())
    own = [
        own_of(one)
        for one in OwnFinding.objects.standing()
        .filter(attempt=cell.attempt, region_version__region=cell.region)
        .select_related("person", "size", "carried_from__attempt")
    ]
    if not row:
        return {
            "cell": cell.pk,
            "checked": False,
            "backdrop": None,
            "overall": None,
            "scores": {},
            "abstained": {},
            "groups": [],
            "findings": [],
            "own": own,
            "covered": {},
            "covers": {},
            "order": {},
        }
    findings = [
        finding_of(finding, sizes, (original.width, original.height), cell.attempt.picture.job.bar)
        for finding in row.findings.all()
    ]
    covered = _covered(cell, findings, sizes)
    return {
        "cell": cell.pk,
        "checked": True,
        "own": own,
        "backdrop": row.backdrop,
        "overall": row.overall,
        "scores": row.scores,
        "abstained": row.abstained,
        "groups": row.groups,
        "findings": findings,
        "covered": covered,
        "covers": covers(covered),
        "order": {str(size.pk): _order(findings, size) for size in sizes},
    }


def _order(findings: list[dict[str, Any]], size: DeliverySize) -> list[int]:
    return order_of_findings(
        [
            Weighed(
                one["id"],
                one["group"],
                one["severities"][str(size.pk)]["severity"],
                one["confidence"],
            )
            for one in findings
        ]
    )


def _covered(
    cell: Cell, findings: list[dict[str, Any]], sizes: list[DeliverySize]
) -> dict[str, float]:
    """By size, the share of the region under what counts there."""
    region = cell.region.drawn.core
    counts = [one for one in findings if one["answer"] not in LET_PASS]
    seen = lambda rated: rated["severity"] >= STEPS[1] and not rated["under_bar"]
    return {
        str(size.pk): round(
            region.covered(
                one["polygon"] for one in counts if seen(one["severities"][str(size.pk)])
            ),
            3,
        )
        for size in sizes
    }
