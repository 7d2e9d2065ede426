"""Ruling on cells and findings. What follows from it for regions and pictures: `ledger`."""

from __future__ import annotations

from django.db import transaction

from attempts.intake import locked_picture
from attempts.models import Attempt
from checks.basing import may_be_base
from checks.carrying import standing_outside
from checks.models import Check, Finding, FindingRuling, OutsideRuling
from checks.running import ask_checks_anew
from history.models import record
from jobs.models import DeliverySize, Picture
from people.models import Person
from zweiblick_core.errors import Refused

from .events import ruling as ruling_event
from .events import ruling_outside
from .models import Cell, Verdict


class Stale(Exception):
    """Somebody else ruled on this cell since the person saw it."""


def ensure_cells(picture: Picture) -> None:
    """Every region in every attempt has its cell."""
    regions = list(picture.regions.values_list("pk", flat=True))
    Cell.objects.bulk_create(
        [
            Cell(attempt_id=attempt, region_id=region)
            for attempt in picture.attempts.values_list("pk", flat=True)
            for region in regions
        ],
        ignore_conflicts=True,
    )


def cells_of_drawn(*, picture: Picture, **_: object) -> None:
    """A region that is drawn gets its cells."""
    ensure_cells(picture)


def cells_of_new(*, attempt: Attempt, **_: object) -> None:
    """An attempt that comes in gets its cells."""
    ensure_cells(attempt.picture)


def name_of(cell: Cell) -> str:
    """What history calls a cell."""
    return f"region {cell.region.number} in attempt {cell.attempt.number}"


@transaction.atomic
def rule(
    cell_id: int, person: Person, ruling: str, seen_revision: int | None, size: DeliverySize | None
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
    ruling_event.send(sender=Cell, cell=cell)
    if seen_revision is not None and seen_revision != cell.revision:
        raise Stale
    check = Check.objects.filter(attempt=cell.attempt, state="done").order_by("-id").first()
    verdict = Verdict.objects.create(
        cell=cell,
        ruling=ruling,
        examination=check,
        region_version=cell.region.drawn,
        size=size,
        supersedes=cell.current,
        person=person,
    )
    before = cell.current.ruling if cell.current else None
    cell.current, cell.revision = verdict, cell.revision + 1
    cell.save()
    record(
        cell.attempt.picture,
        person,
        "verdict",
        name_of(cell),
        before=before,
        after={"ruling": ruling, "size": size.name if size else None},
    )
    return verdict


@transaction.atomic
def take_back(cell_id: int, person: Person, seen_revision: int | None) -> Cell:
    """Take the standing verdict back; what stood before it stands again. Both stay on record.

    Raises:
        Stale: the cell has changed since, or nothing stands.
    """
    cell = (
        Cell.objects.select_for_update()
        .select_related("attempt__picture__job", "region", "current__supersedes")
        .get(pk=cell_id)
    )
    ruling_event.send(sender=Cell, cell=cell)
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
            words=previous.words,
        )
    cell.revision += 1
    cell.save()
    record(
        cell.attempt.picture,
        person,
        "verdict taken back",
        name_of(cell),
        before=taken.ruling,
        after=None if cell.current.ruling == Verdict.Ruling.TAKEN_BACK else cell.current.ruling,
    )
    return cell


@transaction.atomic
def say_of_verdict(cell_id: int, person: Person, words: str, seen_revision: int | None) -> Verdict:
    """Put words to the verdict that stands in a cell; empty: none.

    Raises:
        Refused: nothing is ruled there.
        Stale: the cell has changed since.
    """
    cell = (
        Cell.objects.select_for_update()
        .select_related("attempt__picture__job", "region", "current")
        .get(pk=cell_id)
    )
    ruling_event.send(sender=Cell, cell=cell)
    if seen_revision is not None and seen_revision != cell.revision:
        raise Stale
    verdict = cell.current
    if verdict is None or verdict.ruling == Verdict.Ruling.TAKEN_BACK:
        raise Refused("Nothing is ruled here yet; words belong to a ruling.")
    before, verdict.words = verdict.words, words.strip()
    verdict.save(update_fields=["words"])
    record(
        cell.attempt.picture,
        person,
        "words on a verdict",
        name_of(cell),
        before=before or None,
        after=verdict.words or None,
    )
    return verdict


@transaction.atomic
def answer(
    finding: Finding, person: Person, said: str | None, words: str | None = None
) -> FindingRuling:
    """Append what a person says of a finding: an answer, words, or both; what is None stays as it
    was.
    """
    finding = (
        Finding.objects.select_for_update()
        .select_related(
            "checked__check_run__attempt__picture__job", "checked__region_version__region"
        )
        .get(pk=finding.pk)
    )
    before = finding.rulings.last()
    stood = before.answer if before else FindingRuling.Answer.UNREAD
    spoken = before.words if before else ""
    made = FindingRuling.objects.create(
        finding=finding,
        answer=stood if said is None else said,
        words=spoken if words is None else words.strip(),
        person=person,
    )
    attempt = finding.checked.check_run.attempt
    record(
        attempt.picture,
        person,
        "finding",
        f"{finding.kind} in region {finding.checked.region_version.region.number}, attempt {attempt.number}",
        before={"answer": stood, "words": spoken} if words is not None else stood,
        after={"answer": made.answer, "words": made.words} if words is not None else made.answer,
    )
    return made


@transaction.atomic
def answer_outside(attempt: Attempt, number: int, person: Person, said: str) -> OutsideRuling:
    """Append what a person says of a change outside every region, by its number in the attempt's
    newest check.

    Raises:
        Refused: it has no such change; it cannot be the agreed base; the picture is signed off.
    """
    locked_picture(attempt.picture_id)
    ruling_outside.send(sender=Attempt, picture=attempt.picture)
    check = (
        Check.objects.filter(attempt=attempt, state="done").defer("report").order_by("-id").first()
    )
    if check is None or number >= len(check.outside):
        raise Refused(f"Attempt {attempt.number} changed no such place outside its regions.")
    agrees = OutsideRuling.Answer.AGREED_BASE
    if said == agrees and not may_be_base(attempt):
        raise Refused("Only an attempt of the original's own frame can be the agreed base.")
    before = standing_outside(check).get(number)
    made = OutsideRuling.objects.create(check_run=check, number=number, answer=said, person=person)
    record(
        attempt.picture,
        person,
        "change outside",
        f"attempt {attempt.number}, place {number + 1}",
        before=before.answer if before else "unread",
        after=said,
    )
    if agrees in (said, before.answer if before else None):
        # The picture's attempts are judged against it, or no longer.
        ask_checks_anew(picture=attempt.picture)
    return made
