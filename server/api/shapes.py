"""From rows to the shapes of `serializers`."""

from __future__ import annotations

from checks.models import Check, Finding, FindingRuling
from images.models import Image
from images.pyramids import ask_pyramid
from jobs.models import DeliverySize, Picture
from verdicts.models import Cell, Verdict
from verdicts.ruling import Ledger, ledger
from work.models import Work
from zweiblick_core.report import Signal
from zweiblick_core.visibility import parse_size, visibility, word


def image_of(image: Image) -> dict:
    profile = "" if image.profile == "none" else f", {image.profile}"
    return {"id": image.pk, "width": image.width, "height": image.height, "tiles": f"/api/images/{image.pk}/tiles/", "ready": ask_pyramid(image),
            "name": image.name, "facts": f"{image.format.upper()}, {image.depth} bit{profile}"}


def signal_of(plain: dict) -> Signal:
    return Signal(tuple((band["frequency"], band["lightness"], band["chroma"]) for band in plain["bands"]), plain["extent"], plain["area"], plain["offset"])


def severities(finding: Finding, sizes: list[DeliverySize], frame: tuple[int, int]) -> dict[str, dict]:
    """Severity at each of a job's sizes, by the core."""
    found = {}
    for size in sizes:
        severity = visibility(signal_of(finding.signal), parse_size(size.spec), frame)
        found[str(size.pk)] = {"severity": round(severity, 4), "word": word(severity)}
    return found


def answer_of(finding: Finding) -> str:
    answers = list(finding.rulings.all())
    return answers[-1].answer if answers else FindingRuling.Answer.UNREAD


def finding_of(finding: Finding, sizes: list[DeliverySize], frame: tuple[int, int]) -> dict:
    return {"id": finding.pk, "kind": finding.kind, "runner_up": finding.runner_up, "score": finding.score, "confidence": finding.confidence,
            "severities": severities(finding, sizes, frame), "bbox": finding.bbox, "polygon": finding.polygon, "measure": finding.measure,
            "evidence": finding.evidence, "group": finding.group, "answer": answer_of(finding)}


def check_of(check: Check | None, work: dict[str, Work]) -> dict | None:
    if check is None:
        return None
    task = work.get(str(check.pk))
    running = check.state in ("waiting", "running")
    return {"id": check.pk, "state": check.state, "progress": 1.0 if not running else task.progress if task else 0.0,
            "words": task.words if task and running else "", "overall": check.overall, "reason": check.reason}


def verdict_of(verdict: Verdict | None) -> dict | None:
    if verdict is None or verdict.ruling == Verdict.Ruling.TAKEN_BACK:
        return None
    return {"id": verdict.pk, "ruling": verdict.ruling, "size": verdict.size.name if verdict.size else None, "person": verdict.person.called, "at": verdict.made_at}


def worst_of(book: Ledger, cell_key: tuple[int, int], frame: tuple[int, int]) -> tuple[str, float, str] | None:
    """(kind, severity, word) of the worst finding at the ledger's size; findings answered *not there* or *acceptable* are left out."""
    row = book.checked.get(cell_key)
    if row is None or book.size is None:
        return None
    size = parse_size(book.size.spec)
    rated = [(visibility(signal_of(finding.signal), size, frame), finding.kind) for finding in row.findings.all()
             if answer_of(finding) not in (FindingRuling.Answer.NOT_THERE, FindingRuling.Answer.ACCEPTABLE)]
    if not rated:
        return None
    severity, kind = max(rated)
    return kind, round(severity, 4), word(severity)


def cell_of(book: Ledger, cell: Cell, frame: tuple[int, int]) -> dict:
    row = book.checked.get((cell.attempt_id, cell.region_id))
    worst = worst_of(book, (cell.attempt_id, cell.region_id), frame)
    return {"id": cell.pk, "region": cell.region_id, "attempt": cell.attempt_id, "state": book.cell_state(cell), "revision": cell.revision,
            "verdict": verdict_of(cell.current), "overall": row.overall if row else None, "findings": len(row.findings.all()) if row else 0,
            "worst_kind": worst[0] if worst else None, "worst_severity": worst[1] if worst else None, "worst_word": worst[2] if worst else None,
            "crop": f"/api/cells/{cell.pk}/crop/"}


def bench_of(picture: Picture, person, size: DeliverySize | None) -> dict:
    book = ledger(picture, size)
    original = picture.original
    frame = (original.width, original.height)
    work = {row.subject: row for row in Work.objects.filter(picture=picture, kind="check")}
    sizes = list(picture.job.sizes.all())
    attempts = list(picture.attempts.select_related("run__method", "image").order_by("number"))
    backdrops = {row.region_version.region_id: row.backdrop for row in book.checked.values()}
    return {
        "id": picture.pk, "number": picture.number, "name": picture.name, "job": picture.job.name, "deadline": picture.job.deadline,
        "role": picture.job.role_of(person), "state": book.state, "done": book.done, "undecided": book.undecided,
        "sizes": [{"id": row.pk, "name": row.name, "spec": row.spec, "scale": parse_size(row.spec).scale(*frame)} for row in sizes],
        "size": book.size.pk if book.size else None, "original": image_of(original),
        "regions": [{"id": region.pk, "number": region.number, "name": region.name, "bbox": list(region.current.bbox), "outlines": region.current.outlines,
                     "state": book.region_state(region.pk), "holder": book.holder(region.pk), "order": book.order(region.pk),
                     "backdrop": backdrops.get(region.pk)} for region in book.regions],
        "attempts": [{"id": attempt.pk, "number": attempt.number, "method": attempt.run.method.name, "kind": attempt.run.method.kind, "maker": attempt.maker,
                      "seconds": attempt.run.seconds, "cost": str(attempt.run.cost) if attempt.run.cost is not None else None,
                      "settings": attempt.run.settings, "image": image_of(attempt.image), "check_of": check_of(book.checks.get(attempt.pk), work)}
                     for attempt in attempts],
        "cells": [cell_of(book, cell, frame) for cell in book.cells],
    }


def cell_detail(cell: Cell) -> dict:
    """A cell's findings, groups and abstentions from the newest finished check."""
    row = cell.region.current and cell.region.current.checked.filter(check_run__attempt=cell.attempt, check_run__state="done").order_by("-check_run_id") \
        .prefetch_related("findings__rulings").first()
    original = cell.attempt.picture.original
    sizes = list(cell.attempt.picture.job.sizes.all())
    if not row:
        return {"cell": cell.pk, "checked": False, "backdrop": None, "overall": None, "scores": {}, "abstained": {}, "groups": [], "findings": []}
    return {"cell": cell.pk, "checked": True, "backdrop": row.backdrop, "overall": row.overall, "scores": row.scores, "abstained": row.abstained,
            "groups": row.groups, "findings": [finding_of(finding, sizes, (original.width, original.height)) for finding in row.findings.all()]}


def desk_picture(picture: Picture) -> dict:
    book = ledger(picture)
    frame = (picture.original.width, picture.original.height)
    running = list(Work.objects.filter(picture=picture, kind="check", state__in=("waiting", "running")))
    worst = None
    for region in book.undecided:
        order = book.order(region)
        found = worst_of(book, (order[0], region), frame) if order else None
        if found and (worst is None or found[1] > worst[1]):
            worst = found
    return {"id": picture.pk, "number": picture.number, "name": picture.name, "job": picture.job.name, "deadline": picture.job.deadline, "state": book.state,
            "regions": len(book.regions), "undecided": len(book.undecided), "attempts": picture.attempts.count(), "worst": worst[2] if worst else None,
            "worst_severity": worst[1] if worst else None, "checking": len(running),
            "progress": sum(row.progress for row in running) / len(running) if running else None,
            "failed": sum(check.state == "failed" or (check.state == "done" and check.overall is None) for check in book.checks.values()),
            "crop": f"/api/pictures/{picture.pk}/crop/"}
