"""A new original for a picture that is there already: which regions it touches is asked before it is
taken, and what was ruled on those lapses. The former original is kept.
"""

from __future__ import annotations

from typing import Any

from django.db import transaction

from attempts.events import original_renewed, renewing_original
from attempts.intake import locked_picture
from checks.running import ask_checks_anew
from history.models import record
from images.aligning import keep_alignment, stored_alignment
from images.blobs import put_image
from images.decoding import decoded, read_bounded
from images.models import Image
from images.pyramids import ask_pyramid
from jobs.models import Picture
from people.models import Person
from regions.models import Region
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core.align import register
from zweiblick_core.compare import MARGIN, same_pixels, same_when_saved_anew, saved_as
from zweiblick_core.errors import Refused
from zweiblick_core.io import Picture as CorePicture

from .models import Arrival, Incoming
from .receiving import bytes_of, forget
from .taking import take_arrivals


def _key(picture: Picture) -> str:
    """What a comparison is called among an arrival's: another original is another comparison."""
    return f"new original of {picture.pk}, {picture.original.blob_id[:12]}"


def renewal_of(picture: Picture, arrival: Arrival) -> dict[str, Any]:
    """Whether an arrival can be a picture's new original, and which regions it touches: {state,
    fits, reason, touched}; asked of a worker if it is not known yet.
    """
    found = arrival.fits.get(_key(picture))
    if found is not None:
        return {"state": "done", **found}
    work = ask("renewal", f"{picture.pk}|{arrival.pk}")
    if work.state == "failed":
        return {"state": "failed", "fits": False, "reason": work.error, "touched": []}
    return {"state": "working", "fits": False, "reason": "", "touched": []}


def run_renewal(lease: Lease) -> None:
    """Compare an arrival with a picture's original, region by region."""
    of, _, pk = lease.work.subject.partition("|")
    arrival = Arrival.objects.filter(pk=pk).first()
    picture = Picture.objects.filter(pk=of).first()
    if arrival is None or picture is None or _key(picture) in arrival.fits:
        with lease.writing():
            return
    lease.progress(0.1, "reading")
    before, after = decoded(picture.original.blob), read_bounded(bytes_of(arrival))
    found: dict[str, Any] = {"fits": True, "reason": "", "touched": []}
    try:
        _refuse_other_frame(before, after, arrival.name)
        found["touched"] = touched_by(picture, before, after)
    except Refused as error:
        found |= {"fits": False, "reason": str(error)}
    with lease.writing(), transaction.atomic():
        row = Arrival.objects.select_for_update().filter(pk=arrival.pk).first()
        if row is not None:
            row.fits = {**row.fits, _key(picture): found}
            row.save(update_fields=["fits"])


def renewal_failed(work: Work) -> None:
    """A file could not be read: that is what there is to say of it."""


def _refuse_other_frame(before: CorePicture, after: CorePicture, name: str) -> None:
    if before.sha256 == after.sha256:
        raise Refused(f"{name}: is this picture's original already")
    if (before.width, before.height) != (after.width, after.height):
        raise Refused(
            f"{name}: is {after.width}x{after.height}, the original {before.width}x{before.height};"
            " bring it in as a picture of its own"
        )
    found = register(before, after)
    if found.kind != "same":
        raise Refused(
            f"{name}: does not lie on the original ({'; '.join(found.done) or found.reason});"
            " bring it in as a picture of its own"
        )


def touched_by(picture: Picture, before: CorePicture, after: CorePicture) -> list[int]:
    """Regions in or around which (`MARGIN` px) two originals differ by more than saving anew."""
    expected = saved_as(before, after)
    touched = []
    for region in picture.regions.select_related("current").order_by("number"):
        if before.pixels.dtype == after.pixels.dtype:
            if same_pixels(before.pixels, after.pixels, region.drawn.core, MARGIN).same:
                continue
            if (
                expected is not None
                and same_when_saved_anew(expected, after.pixels, region.drawn.core, MARGIN).same
            ):
                continue
        touched.append(region.pk)
    return touched


@transaction.atomic
def ask_new_original(
    picture: Picture, arrival: Arrival, touched: list[int], person: Person
) -> Incoming:
    """Ask for an arrival to become a picture's original.

    Args:
        touched: regions on which nothing that was ruled counts any more.

    Raises:
        Refused: it was not compared, or does not fit; a region is not the picture's; the picture is
            signed off or a slip of it is open; or the file is being brought in already.
    """
    row = locked_picture(picture.pk)
    renewing_original.send(sender=Picture, picture=row)
    found = arrival.fits.get(_key(row))
    if found is None:
        raise Refused(f"{arrival.name}: was not compared with the original yet")
    if not found["fits"]:
        raise Refused(found["reason"])
    if set(touched) - set(row.regions.values_list("pk", flat=True)):
        raise Refused("This picture has no such region.")
    made = Incoming.objects.create(
        job=row.job,
        picture=row,
        wanted={"new original": arrival.pk, "touched": sorted(set(touched)), "results": []},
        person=person,
    )
    take_arrivals(made, [arrival.pk])
    ask("incoming", str(made.pk), row)
    return made


def renew(lease: Lease, row: Incoming) -> None:
    """Read the new original and put it in the former one's place; all of it or nothing."""
    picture = row.picture
    assert picture is not None
    arrival = row.arrivals.filter(pk=row.wanted["new original"]).first()
    if arrival is None:
        raise Refused("The file is not here any more; drop it again.")
    data = bytes_of(arrival)
    read = read_bounded(data)
    with lease.writing():
        held = locked_picture(picture.pk)
        renewing_original.send(sender=Picture, picture=held)
        former: Image = held.original
        former.role = Image.Role.FORMER
        former.save(update_fields=["role"])
        image = put_image(held, Image.Role.ORIGINAL, arrival.name, data, read)
        del held.original
        _keep_lying(held, former, image)
        ask_pyramid(image)
        regions = list(Region.objects.filter(picture=held, pk__in=row.wanted["touched"]))
        record(
            held,
            row.person,
            "new original",
            image.name,
            before={"file": former.name, "sha256": former.blob_id},
            after={"sha256": image.blob_id, "touches": [one.name for one in regions]},
        )
        original_renewed.send(sender=Picture, picture=held, touched=regions, person=row.person)
        ask_checks_anew(picture=held)
        Incoming.objects.filter(pk=row.pk).update(settled=True)
        forget(arrival)


def _keep_lying(picture: Picture, former: Image, image: Image) -> None:
    """Results lie to the new original as they lay to the former one: those lie on each other."""
    for attempt in picture.attempts.select_related("image__blob"):
        known = stored_alignment(former.blob, attempt.image.blob)
        if known is not None:
            keep_alignment(image.blob, attempt.image.blob, known)
        attempt.image.picture = picture
        ask_pyramid(attempt.image)
