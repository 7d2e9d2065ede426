"""What the jobs that a person supervises say of methods and makers. A handful of queries, however
many pictures there are.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import timedelta
from statistics import median
from typing import Any

from django.db.models import QuerySet

from checks.models import CheckedRegion, FindingRuling
from jobs.models import Job, Membership
from looks.models import OwnFinding
from people.models import Person
from slips.models import SlipRegion
from verdicts.models import Cell, Verdict
from work.clock import now
from zweiblick_core.rules.following import followed
from zweiblick_core.rules.tallying import Ruled, Share, firsts, rounds, share, together

_HELD = (Verdict.Ruling.PASSES, Verdict.Ruling.PASSES_AT_SIZE)
_FAILED = (Verdict.Ruling.REWORK, Verdict.Ruling.REBUILD)


@dataclass(frozen=True)
class Asked:
    """What is tallied: one job or all; the last so many days or ever; by "method" or "maker"."""

    job: int | None = None
    days: int | None = None
    by: str = "method"


def supervised(person: Person) -> QuerySet[Job]:
    """Jobs whose work a person may tally."""
    return Job.objects.filter(
        memberships__person=person, memberships__role=Membership.Role.SUPERVISOR
    ).order_by("name", "pk")


def tally_of(person: Person, asked: Asked) -> dict[str, Any]:
    """{jobs, rows, names, kinds, advice}, as the API says them."""
    jobs = supervised(person)
    chosen = jobs.filter(pk=asked.job) if asked.job is not None else jobs
    cells = _ruled(chosen, asked)
    rows = _rows(cells, asked.by)
    shares = firsts(rows)
    return {
        "jobs": [{"id": job.pk, "name": job.name} for job in jobs],
        "rows": [
            {"name": name, "backdrop": backdrop, **one.to_dict()}
            for (name, backdrop), one in shares.items()
        ],
        "names": _names(cells, asked.by, together(shares), rounds(rows)),
        "kinds": _kinds(chosen, cells, asked),
        "advice": _advice(chosen, asked),
    }


def _since(asked: Asked) -> Any:
    return now() - timedelta(days=asked.days) if asked.days is not None else None


def _ruled(jobs: QuerySet[Job], asked: Asked) -> list[Cell]:
    """Cells that people ruled on themselves; a pass that was carried over says nothing new."""
    rows = Cell.objects.filter(
        attempt__picture__job__in=jobs.values("pk"),
        attempt__withdrawn_at=None,
        attempt__picture__withdrawn_at=None,
        current__ruling__in=(*_HELD, *_FAILED),
        current__carried_from=None,
    )
    since = _since(asked)
    if since is not None:
        rows = rows.filter(current__made_at__gte=since)
    return list(rows.select_related("current", "attempt__run__method"))


def _name(cell: Cell, by: str) -> str:
    attempt = cell.attempt
    return (attempt.maker or "nobody named") if by == "maker" else attempt.run.method.name


def _rows(cells: list[Cell], by: str) -> list[Ruled]:
    backdrops: dict[tuple[int, int], str] = {}
    checked = CheckedRegion.objects.filter(
        check_run__attempt__in={cell.attempt_id for cell in cells}
    ).order_by("check_run_id")
    for attempt, region, backdrop in checked.values_list(
        "check_run__attempt", "region_version__region", "backdrop"
    ):
        backdrops[attempt, region] = backdrop
    return [
        Ruled(
            _name(cell, by),
            backdrops.get((cell.attempt_id, cell.region_id), "not examined"),
            cell.region_id,
            cell.attempt.number,
            cell.current is not None and cell.current.ruling in _HELD,
        )
        for cell in cells
    ]


def _names(
    cells: list[Cell], by: str, held: dict[str, Share], took: dict[str, float]
) -> list[dict[str, Any]]:
    """What each took: medians over the attempts that were ruled on, each counted once."""
    runs: dict[str, dict[int, Any]] = {}
    for cell in cells:
        runs.setdefault(_name(cell, by), {})[cell.attempt_id] = cell.attempt.run
    found = []
    for name in sorted(held):
        seconds = [run.seconds for run in runs[name].values() if run.seconds is not None]
        costs = [run.cost for run in runs[name].values() if run.cost is not None]
        found.append(
            {
                "name": name,
                **held[name].to_dict(),
                "attempts": len(runs[name]),
                "rounds": took.get(name),
                "seconds": median(seconds) if seconds else None,
                "cost": str(median(costs)) if costs else None,
            }
        )
    return found


def _kinds(jobs: QuerySet[Job], cells: list[Cell], asked: Asked) -> list[dict[str, Any]]:
    """By name and kind, in how many of its ruled regions people saw that flaw: a finding that they
    confirmed, or one of their own.
    """
    ruled = {(cell.attempt_id, cell.region_id): cell for cell in cells}
    standing: dict[int, tuple[str, tuple[int, int], str]] = {}
    answers = FindingRuling.objects.filter(
        finding__checked__check_run__attempt__picture__job__in=jobs.values("pk")
    ).order_by("id")
    for pk, answer, attempt, region, kind in answers.values_list(
        "finding",
        "answer",
        "finding__checked__check_run__attempt",
        "finding__checked__region_version__region",
        "finding__kind",
    ):
        standing[pk] = (answer, (attempt, region), kind)
    seen = {
        (place, kind)
        for answer, place, kind in standing.values()
        if answer == FindingRuling.Answer.CONFIRMED
    }
    own = OwnFinding.objects.standing().filter(attempt__picture__job__in=jobs.values("pk"))
    for attempt, region, kind in own.values_list("attempt", "region_version__region", "kind"):
        seen.add(((attempt, region), kind))
    counts = Counter(
        (_name(ruled[place], asked.by), kind) for place, kind in seen if place in ruled
    )
    of = Counter(_name(cell, asked.by) for cell in cells)
    return [
        {"name": name, "kind": kind, **share(count, of[name]).to_dict()}
        for (name, kind), count in sorted(counts.items())
    ]


def _advice(jobs: QuerySet[Job], asked: Asked) -> list[dict[str, Any]]:
    """By change, how often it was asked for and followed, and how often what it answers was fixed
    then, and where it was not followed.
    """
    parts = SlipRegion.objects.filter(
        slip__picture__job__in=jobs.values("pk"), outcome__isnull=False
    )
    since = _since(asked)
    if since is not None:
        parts = parts.filter(slip__returned_at__gte=since)
    told: dict[str, list[tuple[bool, bool | None]]] = {}
    for changes, said, outcome in parts.values_list("changes", "followed", "outcome"):
        if said is None or outcome is None:
            continue
        became = [(kind, word) for kind, word in outcome["kinds"]]
        for one in followed(changes, said, became):
            told.setdefault(one.what, []).append((one.followed, one.helped))
    found = []
    for what, some in sorted(told.items()):
        helped = [result for did, result in some if did and result is not None]
        without = [result for did, result in some if not did and result is not None]
        found.append(
            {
                "what": what,
                "asked": len(some),
                "followed": sum(did for did, _ in some),
                "helped": share(sum(helped), len(helped)).to_dict(),
                "without": share(sum(without), len(without)).to_dict(),
            }
        )
    return found
