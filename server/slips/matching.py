"""Which slip a file answers, wherever it was dropped. For workers: it decodes."""

from __future__ import annotations

from images.aligning import image_alignment, registered
from images.decoding import decoded
from people.models import Person
from zweiblick_core.compare import Sent, belongs
from zweiblick_core.io import Picture

from .area import area_asked
from .models import Slip

#: So many slips are looked at, the newest first: each costs a decode.
_MOST = 24


def answered_by(result: Picture, name: str, person: Person) -> Slip | None:
    """The slip with a retoucher that a file answers, of those that a person sees; None where it is
    none of them or more than one.
    """
    rows = (
        Slip.objects.visible_to(person)
        .filter(
            state__in=("sent", "working"),
            worker__isnull=False,
            attempt__image__width=result.width,
            attempt__image__height=result.height,
        )
        .select_related("picture__job", "attempt__image__blob", "attempt__image__picture")
        .order_by("-sent_at")[:_MOST]
    )
    open_ones = {row.pk: row for row in rows if registered(row.attempt.image)}
    found = belongs(result, name, map(_sent, open_ones.values()))
    return None if found is None else open_ones[found]


def _sent(slip: Slip) -> Sent:
    image = slip.attempt.image
    alignment, frame = image_alignment(image), (image.height, image.width)
    areas = [area_asked(part, alignment, frame) for part in slip.regions.select_related("version")]
    return Sent(
        slip.pk,
        decoded(image.blob),
        [area for area in areas if area is not None],
        [package_name(slip), slip.key],
    )


def package_name(slip: Slip) -> str:
    """What a slip's package is called; a file called so is known to answer it."""
    return f"slip-{slip.picture.number:02d}-{slip.round}"


def called(slip: Slip) -> str:
    """A slip in words."""
    return f"slip {slip.round} of {slip.picture.number:02d} {slip.picture.name}"
