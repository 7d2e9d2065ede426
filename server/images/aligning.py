"""How results lie to their originals: found once for a pair of blobs, stored, and read by all that
needs it.
"""

from __future__ import annotations

from zweiblick_core.align import Alignment as CoreAlignment
from zweiblick_core.align import register

from .decoding import decoded
from .models import Alignment, Blob, Image

#: Grows when the core registers in another way.
ALIGNING_VERSION = 1


def stored_alignment(original: Blob, result: Blob) -> CoreAlignment | None:
    """The alignment of a pair that was registered already; None if it was not."""
    row = Alignment.objects.filter(
        original=original.pk, result=result.pk, version=ALIGNING_VERSION
    ).first()
    return CoreAlignment.from_dict(row.found) if row else None


def keep_alignment(original: Blob, result: Blob, found: CoreAlignment) -> None:
    """Store what was found of a pair; whoever stored first is right."""
    Alignment.objects.get_or_create(
        original=original,
        result=result,
        version=ALIGNING_VERSION,
        defaults={"found": found.to_dict()},
    )


def alignment_of(original: Blob, result: Blob) -> CoreAlignment:
    """How a result lies to its original, registered now if nobody did yet. For workers: it may
    decode both.
    """
    found = stored_alignment(original, result)
    if found is None:
        found = register(decoded(original), decoded(result))
        keep_alignment(original, result, found)
    return found


def registered(image: Image) -> bool:
    """Whether it is known how a result lies to its original."""
    assert image.picture.original is not None
    return stored_alignment(image.picture.original.blob, image.blob) is not None


def image_alignment(image: Image) -> CoreAlignment:
    """How a picture's result lies to its original."""
    assert image.picture.original is not None
    return alignment_of(image.picture.original.blob, image.blob)
