"""Drawing a shot's regions in frames, and correcting them there."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Max

from history.models import record_job
from people.models import Person
from zweiblick_core.errors import Refused

from .checking import ask_checks
from .models import Shot, ShotRegion
from .outlining import keep_outline, mask_from


@transaction.atomic
def draw(
    shot: Shot,
    region: ShotRegion | None,
    frame: int,
    rings: list[list[list[float]]],
    person: Person,
) -> ShotRegion:
    """Draw a region in one frame; of one that is drawn already, correct it there. An edit is a new
    version: earlier checks and rulings keep theirs.

    Raises:
        Refused: the outline is none, or there is no such frame.
    """
    if not 0 <= frame < shot.original.frames:
        raise Refused(f"The shot has frames 0 to {shot.original.frames - 1}.")
    mask = mask_from(rings, shot)
    Shot.objects.select_for_update().get(pk=shot.pk)
    if region is None:
        number = (shot.regions.aggregate(most=Max("number"))["most"] or 0) + 1
        region = ShotRegion.objects.create(shot=shot, number=number)
    else:
        region = ShotRegion.objects.select_for_update().get(pk=region.pk)
        region.version += 1
        region.save()
        region.outlines.filter(frame=frame, until=None).update(until=region.version - 1)
    keep_outline(region, frame, mask, person)
    record_job(
        shot.job,
        person,
        "outline of a shot drawn",
        f"{shot.name}, region {region.number}, frame {frame}",
        after={"version": region.version},
    )
    ask_checks(shot)
    return region


@transaction.atomic
def forget_outline(shot: Shot, region: ShotRegion, frame: int, person: Person) -> None:
    """Take back what was drawn in one frame; the region is carried there from its other frames.

    Raises:
        Refused: nothing is drawn there, or nowhere else.
    """
    row = ShotRegion.objects.select_for_update().get(pk=region.pk)
    stands = row.outlines.filter(until=None)
    if not stands.filter(frame=frame).exists():
        raise Refused(f"Region {row.number} is not drawn in frame {frame}.")
    if stands.count() == 1:
        raise Refused(f"Region {row.number} is drawn in no other frame.")
    row.version += 1
    row.save()
    stands.filter(frame=frame).update(until=row.version - 1)
    record_job(
        shot.job,
        person,
        "outline of a shot taken back",
        f"{shot.name}, region {row.number}, frame {frame}",
        after={"version": row.version},
    )
    ask_checks(shot)
