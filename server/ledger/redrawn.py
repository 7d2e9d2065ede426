"""What a region's new outline, or the picture's new original, leaves of the rulings on it."""

from __future__ import annotations

from attempts.models import Attempt
from checks.models import Check, Finding, FindingRuling
from history.models import record
from jobs.models import Picture
from looks.models import OwnFinding
from people.models import Person
from regions.editing import frame_of
from regions.events import Redrawn
from regions.models import Region
from verdicts.models import Cell, Verdict
from zweiblick_core.rules.outlines import ruling_stands


def on_outlines_changed(*, picture: Picture, redrawn: list[Redrawn], **_: object) -> None:
    """Rulings stand where the outline's change says nothing about them; the others lapse."""
    frame = frame_of(picture)
    for one in redrawn:
        if one.before is None or one.before.pk == one.after.pk:
            continue
        cells = (
            Cell.objects.select_for_update()
            .filter(region=one.region)
            .exclude(current=None)
            .select_related("attempt", "current__size")
        )
        for cell in cells:
            _reconsider(cell, one, picture, frame)


def _reconsider(cell: Cell, one: Redrawn, picture: Picture, frame: tuple[int, int]) -> None:
    standing = cell.current
    if standing is None or one.before is None or standing.ruling == Verdict.Ruling.TAKEN_BACK:
        return
    stands = ruling_stands(
        standing.ruling,
        one.before.core,
        one.after.core,
        _flaws(cell.attempt, one.region),
        frame,
    )
    cell.current = Verdict.objects.create(
        cell=cell,
        ruling=standing.ruling if stands else Verdict.Ruling.TAKEN_BACK,
        examination=standing.examination,
        region_version=one.after,
        size=standing.size if stands else None,
        supersedes=standing,
        carried_from=standing if stands else None,
        person=standing.person if stands else one.person,
    )
    cell.revision += 1
    cell.save()
    if not stands:
        record(
            picture,
            one.person,
            "ruling lapsed",
            f"region {one.region.number} in attempt {cell.attempt.number}",
            before=standing.ruling,
            after={"outline": one.after.version},
        )


def on_original_renewed(
    *, picture: Picture, touched: list[Region], person: Person, **_: object
) -> None:
    """Rulings lapse on the regions that a new original touches; all others stand."""
    cells = (
        Cell.objects.select_for_update()
        .filter(region__in=touched, attempt__picture=picture)
        .exclude(current=None)
        .exclude(current__ruling=Verdict.Ruling.TAKEN_BACK)
        .select_related("attempt", "region", "current__region_version")
    )
    for cell in cells:
        standing = cell.current
        if standing is None:
            continue
        cell.current = Verdict.objects.create(
            cell=cell,
            ruling=Verdict.Ruling.TAKEN_BACK,
            examination=standing.examination,
            region_version=standing.region_version,
            supersedes=standing,
            person=person,
        )
        cell.revision += 1
        cell.save()
        record(
            picture,
            person,
            "ruling lapsed",
            f"region {cell.region.number} in attempt {cell.attempt.number}",
            before=standing.ruling,
            after={"original": picture.original.name},
        )


def _flaws(attempt: Attempt, region: Region) -> list[list[list[float]]]:
    """Where people say that flaws are: what they confirmed in the newest check, and outlined."""
    check = Check.objects.filter(attempt=attempt, state="done").order_by("-id").first()
    findings = Finding.objects.filter(
        checked__check_run=check, checked__region_version__region=region
    ).prefetch_related("rulings")
    confirmed = [
        finding.polygon
        for finding in findings
        if (answers := list(finding.rulings.all()))
        and answers[-1].answer == FindingRuling.Answer.CONFIRMED
    ]
    own = OwnFinding.objects.standing().filter(attempt=attempt, region_version__region=region)
    return confirmed + [one.polygon for one in own]
