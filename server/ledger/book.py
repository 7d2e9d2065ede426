"""A picture's ledger: its cells with what the rules say of them at one size."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Prefetch

from checks.carrying import standing_outside
from checks.models import Check, CheckedRegion, Finding
from jobs.models import DeliverySize, Picture
from looks.models import OwnFinding
from verdicts.models import Cell, SecondLook, Verdict
from zweiblick_core.report import Signal
from zweiblick_core.rules import outside
from zweiblick_core.rules import verdicts as rules
from zweiblick_core.visibility import parse_size, visibility


def demand_of(size: DeliverySize | None, picture: Picture) -> float:
    """How much a size shows of a picture: output pixels for one pixel of the original, over pixels
    a degree; larger shows more.
    """
    original = picture.original
    parsed = parse_size(size.spec if size else None)
    return parsed.scale(original.width, original.height) / parsed.pixels_per_degree * 100


def _moment(when: datetime) -> float:
    return when.timestamp()


@dataclass
class Ledger:
    """A picture's cells with what the rules say of them at one size."""

    picture: Picture
    size: DeliverySize | None
    demand: float
    cells: list[Cell]
    facts: dict[int, rules.CellFacts]
    checked: dict[tuple[int, int], CheckedRegion]
    checks: dict[int, Check]
    regions: list[Any]
    own: dict[tuple[int, int], list[OwnFinding]]
    changes: dict[int, list[outside.Change]]
    second_looks: dict[int, SecondLook]

    @property
    def seconds(self) -> dict[int, rules.SecondLook]:
        """By region, the second look that stands, as the rules see it."""
        return {region: self._second(look) for region, look in self.second_looks.items()}

    def _second(self, look: SecondLook) -> rules.SecondLook:
        if look.answered_at is None:
            return rules.SecondLook(look.cell.attempt_id, None)
        given = _moment(look.answered_at)
        demand = demand_of(look.size, self.picture) if look.size else None
        said = rules.Verdict(look.ruling, demand, given) if look.ruling else None
        return rules.SecondLook(look.cell.attempt_id, given, said)

    @property
    def held_up(self) -> set[int]:
        """Attempts that what they changed outside every region keeps from being done."""
        return {attempt for attempt, found in self.changes.items() if outside.held_up(found)}

    def holding_up(self, attempt: int) -> list[outside.Change]:
        """The changes outside that keep an attempt from being done."""
        return [one for one in self.changes.get(attempt, []) if outside.holds_up(one)]

    def of_region(self, region_id: int) -> list[rules.CellFacts]:
        return [fact for fact in self.facts.values() if fact.region == region_id]

    def cell_state(self, cell: Cell) -> str:
        return rules.cell_state(
            self.facts[cell.pk],
            self.of_region(cell.region_id),
            self.demand,
            self.seconds.get(cell.region_id),
        )

    def region_state(self, region_id: int) -> str:
        return rules.region_state(
            self.of_region(region_id), self.demand, self.seconds.get(region_id)
        )

    def holder(self, region_id: int) -> int | None:
        return rules.holder(self.of_region(region_id), self.demand)

    @property
    def state(self) -> str:
        return rules.picture_state(
            self.facts.values(),
            [region.pk for region in self.regions],
            self.demand,
            self.held_up,
            self.seconds,
        )

    @property
    def done(self) -> int | None:
        return rules.done_attempt(
            self.facts.values(),
            [region.pk for region in self.regions],
            self.demand,
            self.held_up,
            self.seconds,
        )

    @property
    def undecided(self) -> list[int]:
        return [region.pk for region in self.regions if self.region_state(region.pk) == "undecided"]

    def order(self, region_id: int) -> list[int]:
        """Attempts by how well they hold in a region."""
        return rules.order_of_attempts(
            {fact.attempt: fact.overall for fact in self.of_region(region_id)}
        )


def ledger(picture: Picture, size: DeliverySize | None = None) -> Ledger:
    """Everything needed to judge a picture, in a fixed number of queries."""
    size = size or picture.job.sizes.first()
    regions = list(picture.regions.select_related("current").order_by("number"))
    demand = demand_of(size, picture)
    # Cells before their checks: an attempt that comes in meanwhile must not stand here without its
    # check.
    cells = list(
        Cell.objects.filter(
            attempt__picture=picture, attempt__withdrawn_at=None, region__withdrawn_at=None
        )
        .select_related("attempt", "region", "current__size", "current__person")
        .order_by("region__number", "attempt__number")
    )
    checks: dict[int, Check] = {}
    for check in (
        Check.objects.filter(attempt__picture=picture, attempt__withdrawn_at=None)
        .defer("report")
        .prefetch_related("outside_rulings__person")
        .order_by("id")
    ):
        checks[check.attempt_id] = check
    checked = {
        (row.check_run.attempt_id, row.region_version.region_id): row
        for row in CheckedRegion.objects.filter(check_run__in=checks.values())
        .select_related("region_version", "check_run")
        .defer("check_run__report")
        .prefetch_related(
            Prefetch(
                "findings", Finding.objects.only("checked", "position", "kind", "signal", "group")
            ),
            "findings__rulings",
        )
    }
    demands = {row.pk: demand_of(row, picture) for row in picture.job.sizes.all()}
    facts = {}
    for cell in cells:
        verdict = None
        if cell.current and cell.current.ruling != Verdict.Ruling.TAKEN_BACK:
            verdict = rules.Verdict(
                cell.current.ruling,
                demands.get(cell.current.size_id or 0)
                if cell.current.ruling == Verdict.Ruling.PASSES_AT_SIZE
                else None,
                _moment(cell.current.made_at),
            )
        row = checked.get((cell.attempt_id, cell.region_id))
        facts[cell.pk] = rules.CellFacts(
            cell.attempt_id,
            cell.region_id,
            _moment(cell.attempt.made_at),
            verdict,
            row.overall if row else None,
        )
    own: dict[tuple[int, int], list[OwnFinding]] = {}
    for mark in (
        OwnFinding.objects.standing()
        .filter(attempt__picture=picture, attempt__withdrawn_at=None)
        .select_related("region_version")
    ):
        own.setdefault((mark.attempt_id, mark.region_version.region_id), []).append(mark)
    changes = {
        attempt: list(_changes(check, size, picture))
        for attempt, check in checks.items()
        if check.outside
    }
    looks = {
        look.cell.region_id: look
        for look in SecondLook.objects.standing()
        .filter(cell__attempt__picture=picture, cell__attempt__withdrawn_at=None)
        .select_related("cell", "size", "asked", "person")
    }
    return Ledger(
        picture, size, demand, cells, facts, checked, checks, regions, own, changes, looks
    )


def _changes(check: Check, size: DeliverySize | None, picture: Picture) -> Iterator[outside.Change]:
    """What an attempt changed outside every region, as the rules see it at a size."""
    said = standing_outside(check) if check.outside else {}
    parsed = parse_size(size.spec if size else None)
    frame = (picture.original.width, picture.original.height)
    for number, change in enumerate(check.outside):
        yield outside.Change(
            said[number].answer if number in said else "unread",
            visibility(Signal.from_dict(change["signal"]), parsed, frame),
            picture.job.bar.get("overreach", 0.0),
        )
