"""How bad the flaws of a cell are at delivery sizes, and which of them count."""

from __future__ import annotations

from checks.models import Finding, FindingRuling
from jobs.models import DeliverySize
from zweiblick_core.report import Signal
from zweiblick_core.visibility import parse_size, visibility, word

from .book import Ledger

#: Answers after which a finding holds nothing up.
LET_PASS = (FindingRuling.Answer.NOT_THERE, FindingRuling.Answer.ACCEPTABLE)


def answer_of(finding: Finding) -> str:
    """What stands of a finding; its rulings are prefetched."""
    answers = list(finding.rulings.all())
    return answers[-1].answer if answers else FindingRuling.Answer.UNREAD


def words_of(finding: Finding) -> str:
    """What was said of a finding, as it stands; its rulings are prefetched."""
    answers = list(finding.rulings.all())
    return answers[-1].words if answers else ""


def counting(
    book: Ledger, cell_key: tuple[int, int], sizes: list[DeliverySize], frame: tuple[int, int]
) -> list[tuple[str, dict[int, float]]]:
    """(kind, severity by size) of what counts in a cell (attempt, region): findings that were not
    answered *not there* or *acceptable*, and what people outlined.
    """
    row = book.checked.get(cell_key)
    parsed = {size.pk: parse_size(size.spec) for size in sizes}
    rated = [
        (
            finding.kind,
            {
                pk: visibility(Signal.from_dict(finding.signal), size, frame)
                for pk, size in parsed.items()
            },
        )
        for finding in (row.findings.all() if row else [])
        if answer_of(finding) not in LET_PASS
    ]
    return rated + [
        (own.kind, {own.size_id: own.severity} if own.size_id is not None else {})
        for own in book.own.get(cell_key, [])
    ]


def worst_of(
    book: Ledger, cell_key: tuple[int, int], frame: tuple[int, int]
) -> tuple[str, float, str] | None:
    """(kind, severity, word) of the worst that reaches the client's bar at the ledger's size."""
    if book.size is None:
        return None
    bar = book.picture.job.bar
    rated = [
        (by_size[book.size.pk], kind)
        for kind, by_size in counting(book, cell_key, [book.size], frame)
        if book.size.pk in by_size and by_size[book.size.pk] >= bar.get(kind, 0.0)
    ]
    if not rated:
        return None
    severity, kind = max(rated)
    return kind, round(severity, 4), word(severity)
