"""Starting a run, ruling in it, going back one. Nothing is ruled by itself."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import F, QuerySet

from jobs.models import Membership
from ledger.models import RegionState
from people.models import Person
from verdicts.models import Cell
from verdicts.seconds import take_back_or_reopen
from zweiblick_core.errors import Refused
from zweiblick_core.rules.likely import Likely, Past, Stop, asked_in_full
from zweiblick_core.rules.verdicts import FAILING, PASSING

from .models import Run, RunStop

#: So many stops a run has at most.
MOST = 500
ORDERS = ("worst", "surest")


def _open_to(person: Person, asked: dict[str, Any]) -> QuerySet[RegionState]:
    """Undecided regions that were examined, in jobs that the person supervises."""
    jobs = Membership.objects.filter(person=person, role=Membership.Role.SUPERVISOR).values("job")
    rows = RegionState.objects.filter(
        state="undecided",
        cell__isnull=False,
        overall__isnull=False,
        picture__withdrawn_at=None,
        picture__job__in=jobs,
    )
    for word in str(asked.get("q") or "").split():
        rows = rows.filter(picture__name__icontains=word)
    if asked.get("job") is not None:
        rows = rows.filter(picture__job=asked["job"])
    if asked.get("kind"):
        rows = rows.filter(worst_kind=asked["kind"])
    return rows.order_by(
        F("worst_severity").desc(nulls_last=True), "picture__job__deadline", "region"
    )


def past_of(person: Person) -> Past:
    """What was ruled in the jobs that a person supervises, by the overall it had."""
    jobs = Membership.objects.filter(person=person, role=Membership.Role.SUPERVISOR).values("job")
    rows = Cell.objects.filter(
        attempt__picture__job__in=jobs,
        attempt__withdrawn_at=None,
        current__ruling__in=(*PASSING, *FAILING),
        current__carried_from=None,
        current__examination__isnull=False,
        current__examination__regions__region_version=F("current__region_version"),
    ).values_list("current__examination__regions__overall", "current__ruling")
    return Past((overall, ruling in PASSING) for overall, ruling in rows)


@transaction.atomic
def start_run(person: Person, asked: dict[str, Any]) -> Run:
    """Start a run through what is undecided.

    Args:
        asked: {"q", "job", "kind", "order"}; "order" of `ORDERS`.

    Raises:
        Refused: nothing of it is undecided and examined.
    """
    rows = list(_open_to(person, asked)[:MOST])
    if not rows:
        raise Refused("Nothing that is looked for is undecided and examined.")
    past = past_of(person)
    found = [(row, past.likely(row.overall or 0.0)) for row in rows]
    if asked.get("order") == "surest":
        found.sort(key=lambda one: -abs(one[1].chance - 0.5))
    run = Run.objects.create(person=person, asked=asked)
    RunStop.objects.bulk_create(
        [_stop(run, number, row, likely) for number, (row, likely) in enumerate(found, 1)]
    )
    return run


def _stop(run: Run, number: int, row: RegionState, likely: Likely) -> RunStop:
    assert row.cell_id is not None
    return RunStop(
        run=run,
        number=number,
        cell_id=row.cell_id,
        likely=likely.ruling,
        chance=likely.chance,
        passed=likely.passed,
        of=likely.of,
        sure=likely.sure,
        in_full=asked_in_full(run.pk, row.cell_id, likely),
    )


def ruled_in(run: Run, cell: Cell, ruling: str, seconds: float | None) -> None:
    """Keep that a stop was ruled; a cell that is no stop of the run says nothing to it."""
    RunStop.objects.filter(run=run, cell=cell).update(ruled=ruling, seconds=seconds)


def reopen_stops(cell: Cell, person: Person) -> None:
    """A ruling that was taken back is open again in the person's runs."""
    RunStop.objects.filter(run__person=person, cell=cell).update(ruled="", seconds=None)


@transaction.atomic
def go_back(run: Run, person: Person) -> RunStop:
    """Take the run's last ruling back.

    Raises:
        Refused: nothing was ruled in it. Stale: it was ruled on otherwise since.
    """
    stop = run.stops.exclude(ruled="").select_related("cell").last()
    if stop is None:
        raise Refused("Nothing was ruled in this run yet.")
    take_back_or_reopen(stop.cell_id, person, None)
    stop.ruled, stop.seconds = "", None
    stop.save()
    return stop


def stops_of(run: Run) -> list[RunStop]:
    """A run's stops with what an address needs."""
    return list(run.stops.select_related("cell__region", "cell__attempt__picture"))


def gone_by(stops: list[RunStop]) -> set[int]:
    """Stops that nobody needs to rule on any more: decided meanwhile by others, or withdrawn."""
    still = set(
        RegionState.objects.filter(
            state="undecided",
            picture__withdrawn_at=None,
            region__in=[stop.cell.region_id for stop in stops],
        ).values_list("region_id", flat=True)
    )
    return {stop.pk for stop in stops if not stop.ruled and stop.cell.region_id not in still}


def plain(stop: RunStop) -> Stop:
    """As the rules see it."""
    return Stop(stop.likely, stop.sure, stop.in_full, stop.ruled, stop.seconds)
