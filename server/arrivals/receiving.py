"""Receiving files: put by at once, read by a worker, refused with one message or ready to be brought
in.
"""

from __future__ import annotations

import time
from collections.abc import Iterable
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
from django.conf import settings
from django.db import IntegrityError, transaction

from attempts.fitting import refuse_stored
from images.crops import small_jpeg
from images.decoding import read_bounded
from jobs.models import Job
from people.models import Person
from slips.matching import answered_by
from slips.models import Return
from store.durable import Damaged
from store.places import arrivals
from work.clock import now
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core.errors import Refused
from zweiblick_core.io import read_header
from zweiblick_core.rules.states import advance

from .models import Arrival, Incoming, Upload, new_key

#: So much of a file is looked at before it is taken: formats have their headers at the start.
_HEADER = 4_000_000


def stored_name(key: str, ending: str = "") -> str:
    """Where a file waits; `.jpg` is the small picture of it."""
    return f"{key[:2]}/{key}{ending}"


def refuse_waiting(job: Job, sha256: str, name: str) -> None:
    """Raises: Refused: the same bytes wait in the job already."""
    waiting = Arrival.objects.filter(job=job, sha256=sha256).first()
    if waiting is not None:
        raise Refused(f"{name}: is here already, as {waiting.name}")


def _unlike_others(job: Job, name: str) -> str:
    """Two files from two folders may have one name; the second gets a number."""
    taken, stem, number = set(job.arrivals.values_list("name", flat=True)), Path(name), 2
    while name in taken:
        name = f"{stem.stem} ({number}){stem.suffix}"
        number += 1
    return name


def refuse_header(name: str, start: bytes, whole: bool) -> None:
    """Look at a file's header alone.

    Args:
        start: its first bytes; `whole`: they are all.

    Raises:
        Refused: it is no picture that is read, or has too many pixels.
    """
    try:
        read_header(start, settings.MOST_PIXELS)
    except Refused as error:
        # A header that needs more than its first megabytes is left to the worker.
        if whole or not start or "limit" in str(error) or "is a " in str(error):
            raise Refused(str(error).replace("the file", name, 1)) from error


def receive(
    job: Job, name: str, chunks: Iterable[bytes], size: int, person: Person, sha256: str = ""
) -> Arrival:
    """Put a file by and have it read.

    Args:
        sha256: what its bytes were announced to be, hex; "": whatever they are.

    Raises:
        Refused: it is no picture by its header, or here already. Nothing is kept then.
    """
    pieces = iter(chunks)
    start = b""
    while len(start) < min(size, _HEADER):
        piece = next(pieces, b"")
        if not piece:
            break
        start += piece
    refuse_header(name, start, len(start) >= size)
    key = new_key()
    try:
        written = arrivals().write(stored_name(key), _joined(start, pieces), sha256)
    except Damaged as error:
        raise Refused(f"{name}: came over damaged; send it again") from error
    try:
        refuse_waiting(job, written.sha256, name)
        refuse_stored(job, written.sha256, name)
        with transaction.atomic():
            row = Arrival.objects.create(
                job=job,
                key=key,
                name=_unlike_others(job, name[:180]),
                sha256=written.sha256,
                size=written.size,
                person=person,
            )
            ask("arrival", str(row.pk))
    except IntegrityError as error:  # the same file twice at the same moment
        _forget_files(key)
        raise Refused(f"{name}: is here already") from error
    except BaseException:
        _forget_files(key)
        raise
    return row


def _joined(start: bytes, rest: Iterable[bytes]) -> Iterable[bytes]:
    yield start
    yield from rest


def run_arrival(lease: Lease) -> None:
    """Read a file that arrived."""
    row = Arrival.objects.filter(pk=lease.work.subject).first()
    if row is None or row.state != "reading":
        with lease.writing():
            return
    lease.progress(0.1, "reading")
    try:
        picture = read_bounded(bytes_of(row))
    except Refused as error:
        raise Refused(str(error).replace("the file", row.name, 1)) from error
    arrivals().write(stored_name(row.key, ".jpg"), [small_jpeg(picture.pixels)])
    every = (slice(None, None, max(1, side // 256)) for side in (picture.height, picture.width))
    values = np.unique(picture.pixels[tuple(every)])
    slip = answered_by(picture, row.name, row.person)
    with lease.writing():
        Arrival.objects.filter(pk=row.pk).update(
            state=advance("arrival", row.state, "read"),
            width=picture.width,
            height=picture.height,
            format=picture.format,
            depth=picture.depth,
            facts={
                "profile": picture.profile,
                "two_valued": len(values) <= 2,
                "pages": picture.pages,
                "slip": slip.pk if slip else None,
            },
        )


def arrival_failed(work: Work) -> None:
    """It cannot be used: people see why, and nothing of the file is kept."""
    row = Arrival.objects.filter(pk=work.subject, state="reading").first()
    if row is not None:
        Arrival.objects.filter(pk=row.pk).update(
            state=advance("arrival", row.state, "refused"), reason=work.error
        )
        _forget_files(row.key)


def _forget_files(key: str) -> None:
    for ending in ("", ".jpg"):
        arrivals().remove(stored_name(key, ending))


def small_of(arrival: Arrival) -> bytes | None:
    """A small JPEG of an arrival; None while it is not read."""
    try:
        return arrivals().bytes_of(stored_name(arrival.key, ".jpg"))
    except Damaged:
        return None


def bytes_of(arrival: Arrival) -> bytes:
    """Raises: Refused: the file is gone or damaged."""
    try:
        return arrivals().bytes_of(stored_name(arrival.key), arrival.sha256)
    except Damaged as error:
        raise Refused(f"{arrival.name}: is not there any more; drop it again") from error


def forget(arrival: Arrival) -> None:
    """Forget an arrival and its files."""
    with transaction.atomic():
        key = arrival.key
        arrival.delete()
        transaction.on_commit(lambda: _forget_files(key))


def kept_until(arrival: Arrival) -> datetime:
    """When a file that nobody brought in is forgotten."""
    kept: datetime = arrival.made_at + timedelta(hours=settings.ARRIVALS_KEPT)
    return kept


def forget_old() -> int:
    """What nobody brought in for long is forgotten, and what a dead writer left."""
    limit = now() - timedelta(hours=settings.ARRIVALS_KEPT)
    old = list(Arrival.objects.filter(made_at__lt=limit, taken_by=None))
    for arrival in old:
        forget(arrival)
    Incoming.objects.filter(settled=True, made_at__lt=limit, arrivals=None).delete()
    _forget_strays(time.time() - 86_400)
    return len(old)


def _forget_strays(older: float) -> None:
    """Files without a row: their writer died, or what they became is stored elsewhere."""
    known = set(Arrival.objects.values_list("key", flat=True))
    known |= set(Upload.objects.values_list("key", flat=True))
    known |= set(Return.objects.filter(settled=False).values_list("key", flat=True))
    for name in list(arrivals().names()):
        if name.split("/")[1].split(".")[0] not in known and arrivals().touched(name) < older:
            arrivals().remove(name)
    arrivals().sweep(older)
