"""Large files arrive in parts: a dropped connection costs one part, and the rest goes on where it
stopped.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import timedelta

from django.conf import settings
from django.db import transaction

from attempts.fitting import refuse_stored
from config.limits import PART
from jobs.models import Job
from people.models import Person
from store.places import arrivals
from work.clock import now
from zweiblick_core.errors import Refused

from .models import Upload
from .receiving import receive, refuse_header, refuse_waiting

#: So many files a person can have under way.
MOST = 1000


@dataclass(frozen=True)
class Receiver:
    """What becomes of a file once it is here.

    Attributes:
        refuse: looks at a file's name, its first bytes and whether they are all; raises Refused if
            it is none of what is received.
        known: raises Refused if the job has a file of this hash already.
        receive: takes an upload's bytes, which can be read as often as is wanted; a number by which
            what came of them is known. Raises Refused if it cannot be used.
    """

    refuse: Callable[[str, bytes, bool], None]
    known: Callable[[Job, str, str], None]
    receive: Callable[[Upload, Callable[[], Iterator[bytes]]], int]


def _known_picture(job: Job, sha256: str, name: str) -> None:
    refuse_waiting(job, sha256, name)
    refuse_stored(job, sha256, name)


def _receive_picture(row: Upload, read: Callable[[], Iterator[bytes]]) -> int:
    return receive(row.job, row.name, read(), row.size, row.person, row.sha256).pk


#: What files can be uploaded as; apps join in `AppConfig.ready()`.
_RECEIVERS: dict[str, Receiver] = {}


def receives(what: str, receiver: Receiver) -> None:
    """Join with a kind of file.

    Raises:
        ValueError: there is such a kind already.
    """
    if what in _RECEIVERS:
        raise ValueError(f"two apps receive files as {what!r}")
    _RECEIVERS[what] = receiver


receives("picture", Receiver(refuse_header, _known_picture, _receive_picture))


class OutOfStep(Exception):
    """A part that does not begin where the file has come to."""


def _part(upload: Upload, offset: int) -> str:
    return f"{upload.key[:2]}/{upload.key}.{offset:012d}"


@transaction.atomic
def begin(
    job: Job, name: str, size: int, sha256: str, person: Person, what: str = "picture"
) -> Upload:
    """Begin a file, or go on with it: the same person's file of the same hash and size.

    Args:
        what: it is received as.
        sha256: of the whole file, hex; "" where whoever sends it cannot tell.

    Raises:
        Refused: it is empty or too large, waits or is stored in the job already, or there are too
            many under way.
    """
    if not 0 < size <= settings.MOST_BYTES:
        most = settings.MOST_BYTES // 1_000_000
        raise Refused(f"{name}: a file has 1 byte to {most} MB")
    mine = Upload.objects.select_for_update().filter(person=person)
    if sha256:
        if not re.fullmatch(r"[0-9a-f]{64}", sha256):
            raise Refused(f"{name}: a hash is 64 hexadecimal digits")
        _RECEIVERS[what].known(job, sha256, name)
        known = mine.filter(job=job, sha256=sha256, size=size, what=what).first()
        if known is not None:
            return known
    if mine.count() >= MOST:
        raise Refused(f"{MOST} files are under way; wait for some of them")
    return Upload.objects.create(
        job=job, name=name[:180], size=size, sha256=sha256, person=person, what=what
    )


@transaction.atomic
def take_part(upload: Upload, offset: int, data: bytes) -> Upload:
    """Keep the next part.

    Raises:
        OutOfStep: it does not begin where the file has come to.
        Refused: it is empty or too large, reaches beyond the file, or begins no picture.
    """
    row = Upload.objects.select_for_update().get(pk=upload.pk)
    if offset != row.received:
        raise OutOfStep
    if not 0 < len(data) <= min(PART, row.size - offset):
        raise Refused(f"{row.name}: a part has 1 to {PART} bytes, and none beyond the file's end")
    if offset == 0:
        _RECEIVERS[row.what].refuse(row.name, data, len(data) == row.size)
    arrivals().write(_part(row, offset), [data])
    row.received = offset + len(data)
    row.parts = [*row.parts, offset]
    row.save()
    return row


def finish(upload: Upload) -> int:
    """All parts are there: the file is received. Returns the number of what came of it.

    Raises:
        Refused: its bytes are not those that were announced, or it cannot be used; begin anew.
    """
    row = Upload.objects.select_related("job", "person").get(pk=upload.pk)
    try:
        arrived = _RECEIVERS[row.what].receive(row, lambda: _joined(row))
    except Refused:
        forget_upload(row)
        raise
    # Whatever else goes wrong, a full disk for instance, the parts stay and it is tried again.
    forget_upload(row)
    return arrived


def _joined(upload: Upload) -> Iterator[bytes]:
    for offset in upload.parts:
        yield arrivals().bytes_of(_part(upload, offset))


def forget_upload(upload: Upload) -> None:
    """Forget a file that is under way, and its parts."""
    parts = [_part(upload, offset) for offset in upload.parts]
    Upload.objects.filter(pk=upload.pk).delete()
    for part in parts:
        arrivals().remove(part)


def forget_old_uploads() -> int:
    """What nobody went on with for long; how many there were."""
    limit = now() - timedelta(hours=settings.ARRIVALS_KEPT)
    old = list(Upload.objects.filter(touched_at__lt=limit))
    for upload in old:
        forget_upload(upload)
    return len(old)
