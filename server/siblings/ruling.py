"""The same region in near-identical pictures, and ruling on several at once."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from django.db import transaction
from django.db.models import Q

from attempts.models import Attempt
from jobs.models import DeliverySize, Picture
from ledger.models import RegionState
from people.models import Person
from regions.models import Region
from verdicts.models import Cell
from verdicts.seconds import rule_or_answer
from zweiblick_core.align import Alignment
from zweiblick_core.compare.likeness import counterpart
from zweiblick_core.errors import Refused

from .models import Sibling


@dataclass(frozen=True)
class Counterpart:
    """A region of a near-identical picture, and the cell in which it is to be looked at."""

    picture: Picture
    region: Region
    cell: Cell


def siblings_of(picture: Picture) -> list[tuple[Picture, Alignment]]:
    """Near-identical pictures, each with how it lies to this one."""
    rows = (
        Sibling.objects.filter(Q(first=picture) | Q(second=picture))
        .filter(first__withdrawn_at=None, second__withdrawn_at=None)
        .select_related("first", "second")
    )
    found = []
    for row in rows:
        lies = Alignment.from_dict(row.alignment)
        other = row.second if row.first_id == picture.pk else row.first
        found.append((other, lies if row.first_id == picture.pk else _turned_round(lies)))
    return sorted(found, key=lambda one: one[0].number)


def _turned_round(alignment: Alignment) -> Alignment:
    """How the first lies to the second, where it is known how the second lies to the first."""
    back = cv2.invertAffineTransform(np.array(alignment.matrix, np.float64))
    plain = alignment.to_dict()
    plain["matrix"] = [[float(one) for one in row] for row in back]
    plain["scale"] = 1 / alignment.scale
    plain["angle"] = -alignment.angle
    plain["offset"] = [float(back[0, 2]), float(back[1, 2])]
    return Alignment.from_dict(plain)


def counterparts(region: Region, attempt: Attempt | None) -> list[Counterpart]:
    """Where the region's counterparts are to be looked at: in the attempt by the same method, or in
    the one that ranks best.
    """
    method = attempt.run.method_id if attempt else None
    found = []
    for picture, alignment in siblings_of(region.picture):
        regions = {str(one.current_id): one for one in picture.regions.select_related("current")}
        original = picture.original
        area = counterpart(
            region.drawn.core,
            alignment,
            (original.height, original.width),
            [one.drawn.core for one in regions.values()],
        )
        if area is None:
            continue
        there = regions[area.id]
        cell = _cell(there, method)
        if cell is not None:
            found.append(Counterpart(picture, there, cell))
    return found


def _cell(region: Region, method: int | None) -> Cell | None:
    cells = Cell.objects.filter(region=region, attempt__withdrawn_at=None).select_related(
        "attempt__image__blob", "attempt__image__picture", "attempt__run__method", "current"
    )
    same = cells.filter(attempt__run__method=method).order_by("-attempt__number").first()
    if same is not None:
        return same
    best = RegionState.objects.filter(region=region).values_list("cell", flat=True).first()
    return cells.filter(pk=best or 0).first() or cells.order_by("-attempt__number").first()


@transaction.atomic
def rule_together(
    region: Region,
    seen: dict[int, int],
    ruling: str,
    size: DeliverySize | None,
    person: Person,
) -> int:
    """Rule on several cells of siblings at once; all of them or none.

    Args:
        seen: the revision that was seen, by cell: only what was shown counts as seen.

    Raises:
        Refused: a cell is none of the region's or its siblings'. Stale: one has changed since.
    """
    pictures = [region.picture_id, *(one.pk for one, _ in siblings_of(region.picture))]
    cells = {
        cell.pk: cell
        for cell in Cell.objects.filter(pk__in=seen, attempt__picture__in=pictures).select_related(
            "attempt"
        )
    }
    if not seen or len(cells) < len(seen):
        raise Refused("These are not all regions of siblings.")
    for pk, revision in sorted(seen.items()):
        rule_or_answer(pk, person, ruling, revision, size)
    return len(cells)
