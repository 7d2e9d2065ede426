"""Footage that is uploaded: put by at once, read by a worker, refused with one message or ready to be
part of a shot.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator

from django.conf import settings
from django.db import IntegrityError, transaction

from arrivals.models import Upload
from arrivals.uploading import Receiver
from images.blobs import put_stream
from jobs.models import Job
from people.models import Person
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core.errors import Refused
from zweiblick_core.io import read
from zweiblick_core.rules.states import advance
from zweiblick_core.shots.frames import USUAL_RATE, numbered
from zweiblick_core.shots.video import BEGINNING, container_of

from .models import Footage
from .opening import PNG, ZIP, holds_masks, named, opened, path_of
from .proxies import ask_proxies

#: What is asked of the queue.
WORK = "footage"
_VIDEO = {"mov": "video/mp4", "matroska": "video/x-matroska", "avi": "video/x-msvideo"}


def media_type_of(start: bytes) -> str | None:
    """What a file is by its first bytes: a ZIP, a PNG or one of the videos that are read."""
    if start.startswith(b"PK\x03\x04"):
        return ZIP
    if start.startswith(b"\x89PNG\r\n\x1a\n"):
        return PNG
    return _VIDEO.get(container_of(start) or "")


def _refuse_beginning(name: str, start: bytes, whole: bool) -> None:
    if media_type_of(start) is None:
        raise Refused(
            f"{name}: is no footage; videos (MP4, QuickTime, Matroska, AVI), ZIPs of numbered pictures and PNG masks are read"
        )


def _refuse_known(job: Job, sha256: str, name: str) -> None:
    known = Footage.objects.filter(job=job, blob_id=sha256).exclude(state="refused").first()
    if known is not None:
        raise Refused(f"{name}: is here already, as {known.name}")


def receive(upload: Upload, bytes_of: Callable[[], Iterator[bytes]]) -> int:
    """Put an upload by and have it read.

    Raises:
        Refused: it came over damaged, or is here already.
    """
    row = keep(upload.job, upload.name, bytes_of, upload.size, upload.person, upload.sha256)
    return row.pk


def keep(
    job: Job,
    name: str,
    bytes_of: Callable[[], Iterator[bytes]],
    size: int,
    person: Person,
    announced: str = "",
) -> Footage:
    """Put footage by and have it read.

    Args:
        bytes_of: its bytes, which can be read as often as is wanted. size: how many they are.
        announced: the hash that they must have, hex; "": any.

    Raises:
        Refused: it came over damaged, is no footage, or is here already.
    """
    digest, start = hashlib.sha256(), b""
    for chunk in bytes_of():
        start = start or chunk[:BEGINNING]
        digest.update(chunk)
    sha256 = digest.hexdigest()
    if announced and announced != sha256:
        raise Refused(f"{name}: came over damaged; send it again")
    _refuse_beginning(name, start, True)
    _refuse_known(job, sha256, name)
    blob = put_stream(bytes_of, sha256, size, media_type_of(start) or "")
    try:
        with transaction.atomic():
            # What was refused once may be brought again: what is read may have become more.
            Footage.objects.filter(job=job, blob=blob, state="refused").delete()
            row = Footage.objects.create(job=job, blob=blob, name=name[:180], person=person)
            ask(WORK, str(row.pk))
    except IntegrityError as error:  # the same file twice at the same moment
        raise Refused(f"{name}: is here already") from error
    return row


RECEIVER = Receiver(_refuse_beginning, _refuse_known, receive)


def run_reading(lease: Lease) -> None:
    """Read what footage is. Its frames are counted; few of them are decoded."""
    row = Footage.objects.filter(pk=lease.work.subject).select_related("blob").first()
    if row is None or row.state != "reading":
        with lease.writing():
            return
    lease.progress(0.1, "reading")
    try:
        masks = holds_masks(row)
    except Refused as error:
        raise named(row, error) from error
    if masks:
        _read_masks(row)
    else:
        _read_frames(row)
    with lease.writing():
        row.state = advance("arrival", row.state, "read")
        row.save()
        if row.holds == "frames":
            ask_proxies(row)


def _read_frames(row: Footage) -> None:
    shot = opened(row)
    if shot.count > settings.MOST_FRAMES:
        raise Refused(f"{row.name}: has {shot.count} frames; {settings.MOST_FRAMES} are taken")
    if shot.width * shot.height > settings.MOST_PIXELS:
        raise Refused(f"{row.name}: its frames have more than {settings.MOST_PIXELS} pixels")
    try:
        next(iter(shot))
    except StopIteration as error:
        raise Refused(f"{row.name}: has no frame that can be decoded") from error
    row.holds, row.form, row.frames, row.first = "frames", shot.form, shot.count, shot.first
    row.width, row.height, row.depth = shot.width, shot.height, shot.depth
    row.rate, row.facts = str(shot.rate), list(shot.facts)


def _read_masks(row: Footage) -> None:
    # What they mark is seen once there is a shot that they are of.
    try:
        place = path_of(row)
        by_number = numbered(place) if place.is_dir() else {0: place}
        mask = read(str(by_number[min(by_number)]))
    except Refused as error:
        raise named(row, error) from error
    row.holds, row.form, row.frames, row.first = "masks", "pictures", len(by_number), min(by_number)
    row.width, row.height = mask.width, mask.height
    row.rate, row.facts = str(USUAL_RATE), []


def refused(work: Work) -> None:
    """It cannot be used: people see why."""
    row = Footage.objects.filter(pk=work.subject, state="reading").first()
    if row is not None:
        Footage.objects.filter(pk=row.pk).update(
            state=advance("arrival", row.state, "refused"), reason=work.error
        )
