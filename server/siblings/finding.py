"""Finding near-identical pictures: by fingerprint first, then by register."""

from __future__ import annotations

from collections.abc import Iterator

from attempts.models import Attempt
from images.decoding import decoded
from jobs.models import Picture
from work.leases import Lease, ask
from zweiblick_core.align import Alignment, register
from zweiblick_core.compare.likeness import NEAR, apart, fingerprint

from .models import Fingerprint, Sibling

#: A new picture is registered with so many of those that look like it.
_MOST = 12
#: So many pictures are caught up with at a time.
_AT_ONCE = 50


def ask_fingerprint(*, attempt: Attempt, **_: object) -> None:
    """A picture's first attempt came in: it is compared with the job's others."""
    if not Fingerprint.objects.filter(picture=attempt.picture_id).exists():
        ask("fingerprint", str(attempt.picture_id), attempt.picture)


def ask_missing() -> int:
    """Pictures that a former version brought in; how many there were."""
    rows = Picture.objects.filter(fingerprint=None, attempts__isnull=False).distinct()
    missing = list(rows[:_AT_ONCE])
    for picture in missing:
        ask("fingerprint", str(picture.pk), picture)
    return len(missing)


def run_fingerprint(lease: Lease) -> None:
    """Take a picture's fingerprint, and register it with those that look like it."""
    picture = Picture.objects.filter(pk=lease.work.subject).select_related("job").first()
    if picture is None or picture.original is None:
        with lease.writing():
            return
    lease.progress(0.1, "reading")
    original = decoded(picture.original.blob)
    bits = fingerprint(original)
    # Stored before others are looked at: of two pictures at once, one at least sees the other.
    Fingerprint.objects.get_or_create(picture=picture, defaults={"bits": f"{bits:016x}"})
    found = list(_alike(picture, bits))
    with lease.writing():
        for first, second, alignment in found:
            Sibling.objects.get_or_create(
                first=first, second=second, defaults={"alignment": alignment.to_dict()}
            )


def _alike(picture: Picture, bits: int) -> Iterator[tuple[Picture, Picture, Alignment]]:
    """The job's pictures that look like one, with how the later one lies to the earlier."""
    others = (
        Fingerprint.objects.filter(picture__job=picture.job_id, picture__withdrawn_at=None)
        .exclude(picture=picture)
        .select_related("picture")
    )
    near = sorted((apart(bits, int(one.bits, 16)), one.picture_id, one.picture) for one in others)
    for distance, _, other in near[:_MOST]:
        if distance > NEAR:
            return
        first, second = sorted((picture, other), key=lambda one: one.pk)
        alignment = register(decoded(first.original.blob), decoded(second.original.blob))
        if alignment.kind != "unmatched":
            yield first, second, alignment
