"""One region across all attempts: their order by machine and by people, and the settings of each."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils import timezone

from attempts.models import Attempt
from history.models import record
from jobs.models import DeliverySize
from looks.models import PairChoice, Pick
from people.models import Person
from regions.models import Region
from zweiblick_core.compare import Choice, agreement, differing, next_pair, strengths
from zweiblick_core.report import Signal
from zweiblick_core.visibility import parse_size, visibility, word

from .book import Ledger, ledger


def choices_of(region: Region) -> list[Choice]:
    return [
        Choice(row.left_id, row.right_id, row.better_id)
        for row in region.pairs.filter(withdrawn_at=None)
    ]


def _worst_group(book: Ledger, attempt: int, region: int) -> tuple[str, str] | None:
    """(its words, severity word) of the most visible group at the ledger's size."""
    row = book.checked.get((attempt, region))
    if row is None or book.size is None:
        return None
    size, original = parse_size(book.size.spec), book.picture.original
    rated = [
        (
            visibility(Signal.from_dict(finding.signal), size, (original.width, original.height)),
            finding.group,
        )
        for finding in row.findings.all()
    ]
    if not rated:
        return None
    severity, group = max(rated)
    return next((str(one["words"]) for one in row.groups if one["id"] == group), group), word(
        severity
    )


def spread_of(region: Region, size: DeliverySize | None) -> dict[str, Any]:
    """What the Spread needs of a region besides the Bench's own data."""
    book = ledger(region.picture, size)
    attempts = {attempt.pk: attempt for attempt in region.picture.attempts.select_related("run")}
    order = book.order(region.pk)
    choices = choices_of(region)
    by_people = {one.attempt: one for one in strengths(order, choices)}
    rows = []
    for place, pk in enumerate(order):
        before = attempts[order[place - 1]].run.settings if place else None
        group = _worst_group(book, pk, region.pk)
        strength = by_people[pk]
        rows.append(
            {
                "attempt": pk,
                "differs": [
                    {"name": one.name, "before": one.before, "after": one.after}
                    for one in differing(before, attempts[pk].run.settings)
                ]
                if before is not None
                else [],
                "group": group[0] if group else None,
                "word": group[1] if group else None,
                "strength": {
                    "chance": strength.chance,
                    "low": strength.low,
                    "high": strength.high,
                    "pairs": strength.pairs,
                }
                if strength.pairs
                else None,
            }
        )
    picked = region.picks.select_related("person").last()
    overall = {
        fact.attempt: fact.overall for fact in book.of_region(region.pk) if fact.overall is not None
    }
    return {
        "region": region.pk,
        "rows": rows,
        "pairs": len(choices),
        "picked": {"attempt": picked.attempt_id, "person": picked.person.called}
        if picked
        else None,
        "agreement": agreement(
            {pk: one.chance for pk, one in by_people.items() if one.pairs}, overall
        ),
    }


@transaction.atomic
def pick(region: Region, attempt: Attempt, person: Person) -> Pick:
    made = Pick.objects.create(region=region, attempt=attempt, person=person)
    record(
        region.picture,
        person,
        "picked",
        f"region {region.number}",
        after=f"attempt {attempt.number}",
    )
    return made


def pair_for(region: Region, person: Person) -> tuple[Attempt, Attempt] | None:
    """The next blind pair, left and right; None below two attempts."""
    attempts = {
        attempt.pk: attempt
        for attempt in region.picture.attempts.select_related("image__picture", "image__blob")
    }
    pair = next_pair(sorted(attempts), choices_of(region), seed=person.pk * 1_000_003 + region.pk)
    return (attempts[pair[0]], attempts[pair[1]]) if pair else None


@transaction.atomic
def choose(
    region: Region, person: Person, left: Attempt, right: Attempt, better: Attempt | None
) -> PairChoice:
    made = PairChoice.objects.create(
        region=region, left=left, right=right, better=better, person=person
    )
    record(
        region.picture,
        person,
        "blind pair",
        f"region {region.number}",
        before={"left": f"attempt {left.number}", "right": f"attempt {right.number}"},
        after=f"attempt {better.number}" if better else "no difference",
    )
    return made


@transaction.atomic
def unchoose(region: Region, person: Person) -> bool:
    """Take the person's last choice in this region back; whether there was one."""
    last = (
        PairChoice.objects.select_for_update()
        .filter(region=region, person=person, withdrawn_at=None)
        .last()
    )
    if last is None:
        return False
    last.withdrawn_at = timezone.now()
    last.save()
    record(region.picture, person, "blind pair taken back", f"region {region.number}")
    return True
