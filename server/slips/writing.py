"""Writing a slip from what failed, and changing it until it is sent."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date
from typing import Any

from django.db import transaction

from attempts.intake import locked_picture
from attempts.models import Attempt
from history.models import record
from jobs.models import Membership, Picture
from outside.asking import tiers
from people.models import Person
from verdicts.models import Cell
from zweiblick_core.errors import Refused
from zweiblick_core.methods import DESCRIBED
from zweiblick_core.rules import advice, slips

from .advising import advice_for
from .flaws import flaws_of
from .models import OPEN, Slip, SlipRegion
from .sending import held


@dataclass(frozen=True)
class Recipient:
    """Whom a slip goes to: a retoucher, a built-in method by its name, the outside service by the
    name of its tier, or, with none of them, the retoucher's desk.
    """

    worker: Person | None = None
    method: str = ""
    tier: str = ""


@dataclass(frozen=True)
class Edit:
    """What is changed on a slip; what is None stays.

    Attributes:
        regions: {region, changes, note} each; changes and note may be missing.
        cells: the cells that the slip takes, all of them: failed ones of the picture, one a region.
        due: a day, or None for none; only with `due_given`.
    """

    note: str | None = None
    regions: list[dict[str, Any]] = field(default_factory=list[dict[str, Any]])
    cells: list[int] | None = None
    to: Recipient | None = None
    due: date | None = None
    due_given: bool = False


#: Built-in methods that a slip can go to: those that need no spot to be pinned.
METHODS = tuple(
    one.name for one in DESCRIBED if not any(asks.kind == "offset" for asks in one.asks)
)


@transaction.atomic
def write_slip(attempt: Attempt, person: Person) -> Slip:
    """A slip from the regions of an attempt that are ruled *rework* or *rebuild*, with what is
    wrong and what is suggested.

    Raises:
        Refused: no region of it failed, or one of them is out on another slip.
    """
    picture = locked_picture(attempt.picture_id)
    cells = [cell for cell in failed_cells([picture]) if cell.attempt_id == attempt.pk]
    if not cells:
        raise Refused(
            f"no region of attempt {attempt.number} is ruled rework or rebuild, so there is nothing to send back"
        )
    return write_for(picture, attempt, cells, person)


def write_for(picture: Picture, attempt: Attempt, cells: list[Cell], person: Person) -> Slip:
    """A slip that works on an attempt, from failed cells of its picture, one a region. Done in a
    transaction that holds the picture.

    Raises:
        Refused: one of the regions is out on another slip.
    """
    _refuse_out(picture, cells)
    number = (picture.slips.order_by("-round").values_list("round", flat=True).first() or 0) + 1
    slip = Slip.objects.create(picture=picture, attempt=attempt, round=number, written_by=person)
    for cell in cells:
        _take_on(slip, cell)
    record(
        picture,
        person,
        "slip written",
        f"slip {number}",
        after={"attempt": attempt.number, "regions": len(cells)},
    )
    return slip


def failed_cells(pictures: list[Picture]) -> list[Cell]:
    """The cells of some pictures that a slip can take, by region and attempt; in one query."""
    rows = (
        Cell.objects.filter(
            attempt__picture__in=pictures, attempt__withdrawn_at=None, current__isnull=False
        )
        .filter(region__withdrawn_at=None)
        .select_related("region__current", "current", "attempt__picture", "attempt__run__method")
        .order_by("region__number", "attempt__number")
    )
    standing = {row.pk: row.current.ruling for row in rows if row.current is not None}
    wanted = set(slips.may_send(standing))
    return [row for row in rows if row.pk in wanted]


def _refuse_out(picture: Picture, cells: list[Cell], but: Slip | None = None) -> None:
    out = (
        SlipRegion.objects.filter(
            slip__picture=picture,
            slip__state__in=OPEN,
            region__in=[cell.region_id for cell in cells],
        )
        .exclude(slip=but)
        .select_related("region", "slip")
        .first()
    )
    if out is not None:
        raise Refused(
            f"region {out.region.number} is on slip {out.slip.round} already, which is {out.slip.state}; withdraw that one first, or wait for it"
        )


def _take_on(slip: Slip, cell: Cell) -> None:
    flaws = flaws_of(cell.attempt, cell.region)
    assert cell.current is not None
    SlipRegion.objects.create(
        slip=slip,
        region=cell.region,
        attempt=cell.attempt,
        version=cell.region.drawn,
        verdict=cell.current,
        flaws=flaws,
        changes=advice_for(cell, flaws),
        note=cell.current.words,
    )


def edit_slip(slip: Slip, person: Person, edit: Edit) -> Slip:
    """Change a slip that was not sent yet.

    Raises:
        Refused: it was sent; a change, a cell or a method is unknown; or the worker is no retoucher
            of the job. Nothing is changed then.
    """
    with transaction.atomic():
        row = held(slip)
        if row.state != "written":
            raise Refused(
                f"slip {row.round} is {row.state}; only one that was not sent yet can be changed"
            )
        before = _said(row)
        if edit.note is not None:
            row.note = edit.note
        if edit.to is not None:
            _address(row, edit.to)
        if edit.due_given:
            row.due = edit.due
        row.packed = ""
        row.save()
        if edit.cells is not None:
            _take(row, edit.cells)
        _reword(row, edit.regions)
        after = _said(row)
        if after != before:
            changed = {name for name in before | after if before.get(name) != after.get(name)}
            record(
                row.picture,
                person,
                "slip edited",
                f"slip {row.round}",
                before={name: before.get(name) for name in sorted(changed)},
                after={name: after.get(name) for name in sorted(changed)},
            )
    return row


def _address(slip: Slip, to: Recipient) -> None:
    if to.worker is not None and slip.picture.job.role_of(to.worker) != Membership.Role.RETOUCHER:
        raise Refused(f"{to.worker.called} is no retoucher of this job")
    if to.method and to.method not in METHODS:
        raise Refused(f"a slip cannot go to a method “{to.method}”")
    if to.tier and to.tier not in {tier.name for tier in tiers()}:
        raise Refused(f"a slip cannot go outside under “{to.tier}”")
    if sum(map(bool, (to.worker, to.method, to.tier))) > 1:
        raise Refused("a slip goes to one recipient")
    slip.worker, slip.tier = to.worker, to.tier
    slip.method = {"name": to.method} if to.method else None


def _take(slip: Slip, wanted: list[int]) -> None:
    """Have the slip take these cells and no others; what stays keeps its words and changes."""
    picture = slip.picture
    offered = {cell.pk: cell for cell in failed_cells([picture])}
    parts = {(part.attempt_id, part.region_id): part for part in slip.regions.all()}
    if any(cell not in offered for cell in wanted):
        raise Refused("a slip takes regions of its picture that are ruled rework or rebuild")
    cells = [offered[cell] for cell in dict.fromkeys(wanted)]
    if not cells:
        raise Refused("a slip takes one region at least; withdraw it instead")
    if len({cell.region_id for cell in cells}) < len(cells):
        raise Refused("a region is on a slip once: of one attempt")
    _refuse_out(picture, cells, slip)
    kept = {(cell.attempt_id, cell.region_id) for cell in cells}
    for place, part in parts.items():
        if place not in kept:
            part.delete()
    for cell in cells:
        if (cell.attempt_id, cell.region_id) not in parts:
            _take_on(slip, cell)


def _reword(slip: Slip, regions: list[dict[str, Any]]) -> None:
    parts = {part.region_id: part for part in slip.regions.all()}
    for given in regions:
        part = parts.get(given["region"])
        if part is None:
            raise Refused("a region is not on this slip")
        if "changes" in given:
            reason = advice.refuse_unknown(given["changes"])
            if reason:
                raise Refused(reason)
            part.changes = given["changes"]
        if "note" in given:
            part.note = given["note"]
        part.save()


def _said(slip: Slip) -> dict[str, object]:
    """What a slip says, as history keeps it."""
    said: dict[str, object] = {
        "to": slip.recipient,
        "words": slip.note,
        "due": slip.due.isoformat() if slip.due else None,
    }
    for part in slip.regions.select_related("region", "attempt"):
        said[f"region {part.region.number}"] = {
            "attempt": part.attempt.number,
            "words": part.note,
            "changes": part.changes,
        }
    return said
