"""Starting a run, ruling in it, going back one. Nothing is ruled by itself."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db import transaction
from django.db.models import F, QuerySet

from desk.looking import looked_for, states_of
from jobs.models import Membership, Picture
from ledger.models import RegionState
from people.models import Person
from verdicts.models import Cell
from verdicts.seconds import take_back_or_reopen
from work.clock import now
from zweiblick_core.errors import Refused
from zweiblick_core.rules.again import HOURS, Kappa, kappa, shown_again
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
        picture__job__in=jobs,
        # The worst flaw is each region's own here, not its picture's.
        picture__in=looked_for(states_of(person), {**asked, "kind": ""}, person)
        .order_by()
        .values("picture"),
    )
    if asked.get("kind"):
        rows = rows.filter(worst_kind=asked["kind"])
    return rows.select_related("picture").order_by(
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
        asked: as the Desk looks for pictures, and "order" of `ORDERS`.

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
    stops = [_stop(run, row, likely) for row, likely in found]
    ruled = _ruled_before(person, {row.picture.job_id for row in rows})
    again = shown_again(run.pk, len(stops), sorted(ruled))
    for place in sorted(again, reverse=True):
        stops.insert(place, _again(run, again[place], ruled[again[place]]))
    for number, stop in enumerate(stops, 1):
        stop.number = number
    RunStop.objects.bulk_create(stops)
    return run


def _ruled_before(person: Person, jobs: set[int]) -> dict[int, str]:
    """Cells that somebody ruled on themselves on another day, in pictures that are not signed."""
    rows = Cell.objects.filter(
        attempt__picture__job__in=jobs,
        attempt__picture__withdrawn_at=None,
        attempt__picture__standing_sign_off=None,
        attempt__withdrawn_at=None,
        region__withdrawn_at=None,
        current__person=person,
        current__made_at__lt=now() - timedelta(hours=HOURS),
        current__carried_from=None,
        current__ruling__in=(*PASSING, *FAILING),
    )
    return dict(rows.values_list("pk", "current__ruling"))


def _again(run: Run, cell: int, ruling: str) -> RunStop:
    # Asked in full: an offer would say what was ruled before.
    said = {"likely": "", "chance": 0.5, "passed": 0, "of": 0, "sure": False, "in_full": True}
    return RunStop(run=run, cell_id=cell, again=ruling, **said)


def seen_again(run: Run | None, cell: Cell) -> bool:
    """Whether a cell is shown once more in a run: what is ruled there is compared, and rules
    nothing.
    """
    return run is not None and run.stops.filter(cell=cell).exclude(again="").exists()


#: So many of a run's open stops are looked at: the one somebody is at, and the one fetched ahead.
_AHEAD = 2


def hidden_from(person: Person, picture: Picture) -> set[int]:
    """Regions of a picture whose rulings somebody does not see, because one is just being shown to
    them once more in the run that they are in. Before and after it they see what stands.
    """
    newest = Run.objects.of(person).filter(made_at__gt=now() - timedelta(hours=HOURS)).first()
    if newest is None:
        return set()
    stops = stops_of(newest)
    gone = gone_by(stops)
    ahead = [stop for stop in stops if not stop.ruled and stop.pk not in gone][:_AHEAD]
    return {
        stop.cell.region_id
        for stop in ahead
        if stop.again and stop.cell.attempt.picture_id == picture.pk
    }


def ruled_outside(cell: Cell, person: Person, ruling: str) -> None:
    """Whoever rules on a region outside their run has seen it again, too."""
    RunStop.objects.filter(run__person=person, cell__region=cell.region_id, ruled="").exclude(
        again=""
    ).update(ruled=ruling)


def own_agreement(person: Person) -> Kappa:
    """How well a person agrees with themselves, over all of their runs."""
    rows = RunStop.objects.filter(run__person=person).exclude(again="").exclude(ruled="")
    return kappa(rows.values_list("again", "ruled"))


def _stop(run: Run, row: RegionState, likely: Likely) -> RunStop:
    assert row.cell_id is not None
    return RunStop(
        run=run,
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
    if not stop.again:
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
    return {
        stop.pk
        for stop in stops
        if not stop.ruled and not stop.again and stop.cell.region_id not in still
    }


def plain(stop: RunStop) -> Stop:
    """As the rules see it."""
    return Stop(stop.likely, stop.sure, stop.in_full, stop.ruled, stop.seconds)
