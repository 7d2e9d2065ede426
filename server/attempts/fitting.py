"""Whether a file belongs to a picture, before anything is stored. For workers: it decodes."""

from __future__ import annotations

from images.models import Image
from jobs.models import Job
from zweiblick_core.align import Alignment
from zweiblick_core.errors import Refused


def refuse_unmatched(found: Alignment, name: str, in_place: bool = False) -> None:
    """Args: in_place: the result must lie in the original's own frame, since pixels are to be
    compared one by one.

    Raises: Refused: the result cannot belong to the original, with the reason.
    """
    if found.kind == "unmatched":
        raise Refused(f"{name}: cannot belong to this original: {found.reason}")
    if in_place and found.kind != "same":
        raise Refused(
            f"{name}: cannot belong to this slip: it was {'; '.join(found.done)}, and what was locked must be the same pixel by pixel"
        )


def refuse_stored(job: Job, sha256: str, name: str) -> None:
    """Raises: Refused: the same bytes were brought into the job already."""
    stored = (
        Image.objects.filter(picture__job=job, blob_id=sha256).select_related("picture").first()
    )
    if stored is not None:
        raise Refused(
            f"{name}: was brought in already, as {stored.name} of picture {stored.picture.number}, {stored.picture.name}"
        )
