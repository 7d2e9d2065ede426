"""Drawing regions: every edit is a new version; what was is kept."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from history.models import record
from jobs.models import Picture
from people.models import Person
from zweiblick_core.errors import Refused
from zweiblick_core.regions import Region as Area
from zweiblick_core.regions import merged, parts

from .events import Redrawn, outlines_changed, withdrawing
from .models import Region, RegionVersion, encode_mask


class OutlineStale(Exception):
    """Somebody else drew this region since the person saw it."""


def frame_of(picture: Picture) -> tuple[int, int]:
    """(height, width) of a picture's original."""
    return picture.original.height, picture.original.width


def store_version(region: Region, area: Area, person: Person | None) -> RegionVersion:
    """Append a version and make it stand."""
    newest = region.versions.aggregate(newest=Max("version"))["newest"] or 0
    x, y, width, height = area.bbox
    region.current = RegionVersion.objects.create(
        region=region,
        version=newest + 1,
        x=x,
        y=y,
        width=width,
        height=height,
        mask_png=encode_mask(area.mask),
        made_by=person,
    )
    region.save()
    return region.current


def _held(picture: Picture) -> Picture:
    """Hold the picture's row: regions are numbered, drawn and withdrawn one after the other."""
    row: Picture = Picture.every.select_for_update().select_related("job").get(pk=picture.pk)
    return row


def _numbered(picture: Picture) -> int:
    return (Region.every.filter(picture=picture).aggregate(n=Max("number"))["n"] or 0) + 1


def _made(picture: Picture, name: str, area: Area, person: Person) -> Redrawn:
    number = _numbered(picture)
    region = Region.every.create(
        picture=picture, number=number, name=name.strip() or f"region {number}"
    )
    return Redrawn(region, None, store_version(region, area, person), person)


def _said(region: Region) -> str:
    return f"region {region.number}, {region.name}"


@transaction.atomic
def draw_region(picture: Picture, name: str, area: Area, person: Person) -> Region:
    """A region that was not there before. Every attempt is examined for it."""
    row = _held(picture)
    made = _made(row, name, area, person)
    record(row, person, "region drawn", _said(made.region), after={"pixels": int(area.mask.sum())})
    outlines_changed.send(sender=Region, picture=row, redrawn=[made])
    return made.region


@transaction.atomic
def redraw(region: Region, area: Area, person: Person, seen: int | None) -> RegionVersion:
    """Another outline for a region.

    Args:
        seen: the version that the person began from; None whatever stands.

    Raises:
        OutlineStale: somebody else drew it since.
        Refused: it was withdrawn.
    """
    picture = _held(region.picture)
    row = Region.every.select_related("current", "picture").get(pk=region.pk)
    if row.withdrawn_at is not None:
        raise Refused(f"{_said(row)} was withdrawn meanwhile")
    before = row.drawn
    if seen is not None and before.version != seen:
        raise OutlineStale
    after = store_version(row, area, person)
    record(
        picture,
        person,
        "region redrawn",
        _said(row),
        before={"version": before.version, "pixels": int(before.mask.sum())},
        after={"version": after.version, "pixels": int(area.mask.sum())},
    )
    outlines_changed.send(
        sender=Region, picture=picture, redrawn=[Redrawn(row, before, after, person)]
    )
    return after


@transaction.atomic
def correct(region: Region, person: Person, name: str | None, backdrop: str | None) -> Region:
    """Another name, or another word for what lies behind it; None leaves it as it is."""
    picture = _held(region.picture)
    row = Region.every.select_related("picture").get(pk=region.pk)
    before = {"name": row.name, "backdrop": row.backdrop}
    if name is not None:
        row.name = name.strip() or f"region {row.number}"
    if backdrop is not None:
        row.backdrop = backdrop
    after = {"name": row.name, "backdrop": row.backdrop}
    if after != before:
        row.save()
        record(picture, person, "region corrected", _said(row), before=before, after=after)
    return row


def _withdraw(region: Region, picture: Picture, person: Person) -> None:
    withdrawing.send(sender=Region, region=region)
    region.withdrawn_at = timezone.now()
    region.save()
    record(picture, person, "region withdrawn", _said(region))


@transaction.atomic
def withdraw_region(region: Region, person: Person) -> None:
    """It stands nowhere any more; what was said of it stays on record.

    Raises:
        Refused: it is out on a slip.
    """
    picture = _held(region.picture)
    row = Region.every.get(pk=region.pk)
    if row.withdrawn_at is None:
        _withdraw(row, picture, person)
        outlines_changed.send(sender=Region, picture=picture, redrawn=[])


@transaction.atomic
def leave_region(region: Region, person: Person, words: str) -> None:
    """Rule that the thing stays: its region stands nowhere any more, so that what an attempt did
    there is a change outside.

    Raises:
        Refused: it is out on a slip.
    """
    picture = _held(region.picture)
    row = Region.every.get(pk=region.pk)
    if row.withdrawn_at is not None:
        return
    withdrawing.send(sender=Region, region=row)
    row.withdrawn_at, row.left_by, row.left_words = timezone.now(), person, words.strip()
    row.save()
    record(picture, person, "the thing stays", _said(row), after={"words": row.left_words})
    outlines_changed.send(sender=Region, picture=picture, redrawn=[])


@transaction.atomic
def take_in_again(region: Region, person: Person) -> Region:
    """A withdrawn region stands again, as it was."""
    picture = _held(region.picture)
    row = Region.every.select_related("current").get(pk=region.pk)
    if row.withdrawn_at is not None:
        row.withdrawn_at, row.left_by, row.left_words = None, None, ""
        row.save()
        record(picture, person, "region taken in again", _said(row))
        outlines_changed.send(
            sender=Region, picture=picture, redrawn=[Redrawn(row, row.drawn, row.drawn, person)]
        )
    return row


@transaction.atomic
def split_region(region: Region, person: Person) -> list[Region]:
    """Each connected part becomes a region; the largest keeps number and name.

    Raises:
        Refused: it has one part only.
    """
    picture = _held(region.picture)
    row = Region.every.select_related("current").get(pk=region.pk)
    before = row.drawn
    areas = parts(before.core)
    if len(areas) < 2:
        raise Refused(f"{_said(row)} has one part only; take away what joins its parts first")
    first = Redrawn(row, before, store_version(row, areas[0], person), person)
    others = [
        _made(picture, f"{row.name} {number}", area, person)
        for number, area in enumerate(areas[1:], 2)
    ]
    record(
        picture,
        person,
        "region split",
        _said(row),
        after={"into": [made.region.number for made in (first, *others)]},
    )
    outlines_changed.send(sender=Region, picture=picture, redrawn=[first, *others])
    return [made.region for made in (first, *others)]


@transaction.atomic
def merge_regions(picture: Picture, numbers: list[int], person: Person) -> Region:
    """Several regions become one, which keeps the first one's number and name; the others are
    withdrawn.

    Args:
        numbers: keys of regions of this picture.

    Raises:
        Refused: fewer than two stand, or one of the others is out on a slip.
    """
    row = _held(picture)
    some = list(row.regions.filter(pk__in=numbers).select_related("current").order_by("number"))
    area = merged([one.drawn.core for one in some], frame_of(row))
    first, others = some[0], some[1:]
    before = first.drawn
    for other in others:
        _withdraw(other, row, person)
    after = store_version(first, area, person)
    record(
        row,
        person,
        "regions merged",
        _said(first),
        before=[one.number for one in some],
        after={"version": after.version},
    )
    outlines_changed.send(
        sender=Region, picture=row, redrawn=[Redrawn(first, before, after, person)]
    )
    return first
