"""Ruling on cells and findings, and what follows from it for regions and pictures."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.db.models import Prefetch
from looks.models import OwnFinding, saw

from checks.models import Check, CheckedRegion, Finding, FindingRuling
from history.models import record
from jobs.models import DeliverySize, Picture
from zweiblick_core.rules import verdicts as rules
from zweiblick_core.visibility import parse_size

from .models import Cell, Verdict


class Stale(Exception):
    """Somebody else ruled on this cell since the person saw it."""


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
    regions: list
    own: dict[tuple[int, int], list[OwnFinding]]

    def of_region(self, region_id: int) -> list[rules.CellFacts]:
        return [fact for fact in self.facts.values() if fact.region == region_id]

    def cell_state(self, cell: Cell) -> str:
        return rules.cell_state(self.facts[cell.pk], self.of_region(cell.region_id), self.demand)

    def region_state(self, region_id: int) -> str:
        return rules.region_state(self.of_region(region_id), self.demand)

    def holder(self, region_id: int) -> int | None:
        return rules.holder(self.of_region(region_id), self.demand)

    @property
    def state(self) -> str:
        return rules.picture_state(
            self.facts.values(), [region.pk for region in self.regions], self.demand
        )

    @property
    def done(self) -> int | None:
        return rules.done_attempt(
            self.facts.values(), [region.pk for region in self.regions], self.demand
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
        Cell.objects.filter(attempt__picture=picture)
        .select_related("attempt", "region", "current__size", "current__person")
        .order_by("region__number", "attempt__number")
    )
    checks: dict[int, Check] = {}
    for check in Check.objects.filter(attempt__picture=picture).defer("report").order_by("id"):
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
                demands.get(cell.current.size_id)
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
        .filter(attempt__picture=picture)
        .select_related("region_version")
    ):
        own.setdefault((mark.attempt_id, mark.region_version.region_id), []).append(mark)
    return Ledger(picture, size, demand, cells, facts, checked, checks, regions, own)


def ensure_cells(picture: Picture) -> None:
    """Every region in every attempt has its cell."""
    for attempt in picture.attempts.all():
        for region in picture.regions.all():
            Cell.objects.get_or_create(attempt=attempt, region=region)


def _name(cell: Cell) -> str:
    return f"region {cell.region.number} in attempt {cell.attempt.number}"


@transaction.atomic
def rule(
    cell_id: int, person, ruling: str, seen_revision: int | None, size: DeliverySize | None
) -> Verdict:
    """Append a verdict and make it stand.

    Args:
        seen_revision: the cell's revision that the person saw; None rules whatever stands.
        size: for *passes at size*, the size it passes at.

    Raises:
        Stale: the cell has changed since.
    """
    cell = (
        Cell.objects.select_for_update()
        .select_related("attempt__picture__job", "region__current", "current")
        .get(pk=cell_id)
    )
    if seen_revision is not None and seen_revision != cell.revision:
        raise Stale
    check = Check.objects.filter(attempt=cell.attempt, state="done").order_by("-id").first()
    verdict = Verdict.objects.create(
        cell=cell,
        ruling=ruling,
        examination=check,
        region_version=cell.region.current,
        size=size,
        supersedes=cell.current,
        person=person,
    )
    before = cell.current.ruling if cell.current else None
    cell.current, cell.revision = verdict, cell.revision + 1
    cell.save()
    saw(cell.attempt.picture, person)
    record(
        cell.attempt.picture,
        person,
        "verdict",
        _name(cell),
        before=before,
        after={"ruling": ruling, "size": size.name if size else None},
    )
    return verdict


@transaction.atomic
def take_back(cell_id: int, person, seen_revision: int | None) -> Cell:
    """Take the standing verdict back; what stood before it stands again. Both stay on record.

    Raises:
        Stale: the cell has changed since, or nothing stands.
    """
    cell = (
        Cell.objects.select_for_update()
        .select_related("attempt__picture__job", "region", "current__supersedes")
        .get(pk=cell_id)
    )
    if (
        (seen_revision is not None and seen_revision != cell.revision)
        or cell.current is None
        or cell.current.ruling == Verdict.Ruling.TAKEN_BACK
    ):
        raise Stale
    taken = cell.current
    previous = taken.supersedes
    if previous is None or previous.ruling == Verdict.Ruling.TAKEN_BACK:
        cell.current = Verdict.objects.create(
            cell=cell,
            ruling=Verdict.Ruling.TAKEN_BACK,
            region_version=taken.region_version,
            supersedes=taken,
            person=person,
        )
    else:
        # The earlier verdict is given again rather than pointed to, so that the order of verdicts
        # tells what stood when.
        cell.current = Verdict.objects.create(
            cell=cell,
            ruling=previous.ruling,
            examination=previous.examination,
            region_version=previous.region_version,
            size=previous.size,
            supersedes=previous.supersedes,
            person=previous.person,
        )
    cell.revision += 1
    cell.save()
    record(
        cell.attempt.picture,
        person,
        "verdict taken back",
        _name(cell),
        before=taken.ruling,
        after=None if cell.current.ruling == Verdict.Ruling.TAKEN_BACK else cell.current.ruling,
    )
    return cell


@transaction.atomic
def answer(finding: Finding, person, said: str) -> FindingRuling:
    """Append what a person says of a finding."""
    finding = (
        Finding.objects.select_for_update()
        .select_related(
            "checked__check_run__attempt__picture__job", "checked__region_version__region"
        )
        .get(pk=finding.pk)
    )
    before = finding.rulings.last()
    made = FindingRuling.objects.create(finding=finding, answer=said, person=person)
    attempt = finding.checked.check_run.attempt
    record(
        attempt.picture,
        person,
        "finding",
        f"{finding.kind} in region {finding.checked.region_version.region.number}, attempt {attempt.number}",
        before=before.answer if before else "unread",
        after=said,
    )
    return made
