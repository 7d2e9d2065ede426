"""What is wrong with a cell, as slips keep and compare it."""

from __future__ import annotations

from typing import Any

from attempts.models import Attempt
from checks.models import Finding, FindingRuling
from jobs.models import Picture
from looks.own import own_flaws
from regions.models import Region
from zweiblick_core.report import Signal
from zweiblick_core.rules import slips
from zweiblick_core.visibility import parse_size, visibility, word


def _severity(finding: Finding, picture: Picture) -> float:
    size, original = picture.job.sizes.first(), picture.original
    plain = finding.signal
    signal = Signal.from_dict(plain)
    return visibility(
        signal, parse_size(size.spec if size else None), (original.width, original.height)
    )


def flaws_of(attempt: Attempt, region: Region, only_sent: bool = True) -> list[dict[str, Any]]:
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
    answers = {row.pk: [one.answer for one in row.rulings.all()] for row in rows}
    said = {row.pk: ([one.words for one in row.rulings.all()] or [""])[-1] for row in rows}
    answer = lambda row: (answers[row.pk] or [FindingRuling.Answer.UNREAD])[-1]
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
                "words": said[row.pk],
                "group_words": words.get(row.group, ""),
            }
        )
    return [*own_flaws(attempt, region), *kept] if only_sent else kept


def seen_of(flaw: dict[str, Any]) -> slips.Seen:
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
