"""Receiving files, seeing what fits, bringing pictures in. Every file is whole and judged, or it is
not there.
"""

from __future__ import annotations

import os
import tempfile
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path

import cv2
import numpy as np
from django.conf import settings
from django.db import IntegrityError, transaction
from django.utils import timezone

from attempts.intake import Facts, add_attempt, add_picture
from attempts.models import Attempt
from images.models import Image
from images.storage import blob_bytes
from jobs.models import Job, Picture
from zweiblick_core.errors import Refused
from zweiblick_core.reading import Picture as CorePicture
from zweiblick_core.reading import eight_bit, read, read_mask
from zweiblick_core.regions import from_mask, proposed
from zweiblick_core.registering import register

from .models import Arrival

SMALL = 240


def _path(key: str, ending: str = "") -> Path:
    return Path(settings.ARRIVALS) / key[:2] / f"{key}{ending}"


def _write(path: Path, data: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, name = tempfile.mkstemp(dir=path.parent)
    with os.fdopen(handle, "wb") as file:
        file.write(data)
    os.replace(name, path)


def _small(pixels: np.ndarray) -> bytes:
    scale = min(1.0, SMALL / max(pixels.shape[:2]))
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    ok, data = cv2.imencode(
        ".jpg",
        np.ascontiguousarray(eight_bit(small)[..., ::-1].round().astype(np.uint8)),
        [cv2.IMWRITE_JPEG_QUALITY, 86],
    )
    assert ok
    return data.tobytes()


def refuse_twice(job: Job, sha256: str, name: str) -> None:
    """Raises: Refused: the same bytes are in the job already, brought in or waiting."""
    waiting = Arrival.objects.filter(job=job, sha256=sha256).first()
    if waiting is not None:
        raise Refused(f"{name}: is here already, as {waiting.name}")
    stored = (
        Image.objects.filter(picture__job=job, blob_id=sha256).select_related("picture").first()
    )
    if stored is not None:
        raise Refused(
            f"{name}: was brought in already, as {stored.name} of picture {stored.picture.number}, {stored.picture.name}"
        )


def _unlike_others(job: Job, name: str) -> str:
    """Two files from two folders may have one name; the second is told apart by a number."""
    taken, stem, number = set(job.arrivals.values_list("name", flat=True)), Path(name), 2
    while name in taken:
        name = f"{stem.stem} ({number}){stem.suffix}"
        number += 1
    return name


def receive(job: Job, name: str, data: bytes, person) -> Arrival:
    """Read a file and put it by.

    Raises:
        Refused: not a picture, cut short, too many pixels, another format, or here already. Nothing
            is kept then.
    """
    decoded = read(data, settings.MOST_PIXELS) if data else _empty(name)
    refuse_twice(job, decoded.sha256, name)
    name = _unlike_others(job, name[:180])
    values = np.unique(
        decoded.pixels[:: max(1, decoded.height // 256), :: max(1, decoded.width // 256)]
    )
    row = Arrival(
        job=job,
        name=name,
        sha256=decoded.sha256,
        size=len(data),
        width=decoded.width,
        height=decoded.height,
        format=decoded.format,
        depth=decoded.depth,
        facts={"profile": decoded.profile, "two_valued": len(values) <= 2},
        person=person,
    )
    _write(_path(row.key), data)
    _write(_path(row.key, ".jpg"), _small(decoded.pixels))
    try:
        with transaction.atomic():
            row.save()
    except IntegrityError as error:  # the same file twice at the same moment
        _forget_files(row.key)
        raise Refused(f"{name}: is here already") from error
    return row


def _empty(name: str) -> CorePicture:
    raise Refused(f"{name}: is empty")


def _forget_files(key: str) -> None:
    for ending in ("", ".jpg"):
        _path(key, ending).unlink(missing_ok=True)


def small_of(arrival: Arrival) -> bytes:
    return _path(arrival.key, ".jpg").read_bytes()


def bytes_of(arrival: Arrival) -> bytes:
    try:
        return _path(arrival.key).read_bytes()
    except OSError as error:
        raise Refused(f"{arrival.name}: is not there any more; drop it again") from error


def forget(arrival: Arrival) -> None:
    with transaction.atomic():
        key = arrival.key
        arrival.delete()
        transaction.on_commit(lambda: _forget_files(key))


def forget_old() -> int:
    """What nobody brought in for long is forgotten."""
    old = list(
        Arrival.objects.filter(made_at__lt=timezone.now() - timedelta(hours=settings.ARRIVALS_KEPT))
    )
    for arrival in old:
        forget(arrival)
    return len(old)


def must_fit(original: CorePicture, result: CorePicture, name: str, in_place: bool = False) -> None:
    """Args: in_place: the result must lie in the original's own frame, since pixels are to be
    compared one by one.

    Raises: Refused: the result cannot belong to the original, with the reason.
    """
    found = register(original, result)
    if found.kind == "unmatched":
        raise Refused(f"{name}: cannot belong to this original: {found.reason}")
    if in_place and found.kind != "same":
        raise Refused(
            f"{name}: cannot belong to this slip: it was {'; '.join(found.done)}, and what was locked must be the same pixel by pixel"
        )


def fit_of(original: Arrival | Picture, arrival: Arrival) -> dict:
    """Whether an arrival belongs to an original, and how many regions what changed would give:
    {fits, reason, regions}.
    """
    key = f"picture {original.pk}" if isinstance(original, Picture) else str(original.pk)
    if key not in arrival.fits:
        data = (
            blob_bytes(original.original.blob)
            if isinstance(original, Picture)
            else bytes_of(original)
        )
        first, second = (
            read(data, settings.MOST_PIXELS),
            read(bytes_of(arrival), settings.MOST_PIXELS),
        )
        try:
            must_fit(first, second, arrival.name)
            found = {"fits": True, "reason": "", "regions": len(proposed(first, second))}
        except Refused as error:
            found = {"fits": False, "reason": str(error), "regions": 0}
        arrival.fits = {**arrival.fits, key: found}
        arrival.save(update_fields=["fits"])
    return arrival.fits[key]


@dataclass(frozen=True)
class Coming:
    """One result to be brought in."""

    arrival: Arrival
    facts: Facts


@transaction.atomic
def bring_in(
    job: Job, name: str, original: Arrival, mask: Arrival | None, results: list[Coming], person
) -> Picture:
    """One picture with its results; regions from the mask, or from what the results changed. All of
    it or nothing.

    Raises:
        Refused: a result cannot belong to the original, the mask does not fit, or no region would
            come of it.
    """
    Job.objects.select_for_update().get(pk=job.pk)
    data = bytes_of(original)
    first = read(data, settings.MOST_PIXELS)
    frame = first.pixels.shape[:2]
    files = [(coming, bytes_of(coming.arrival)) for coming in results]
    wanted = read_mask(bytes_of(mask), frame) if mask is not None else np.zeros(frame, bool)
    for coming, content in files:
        decoded = read(content, settings.MOST_PIXELS)
        must_fit(first, decoded, coming.arrival.name)
        if mask is None:
            for region in proposed(first, decoded):
                wanted |= region.full(frame)
    if not wanted.any():
        raise Refused(
            f"{original.name}: no region can be proposed, since no result changes anything; give a mask"
        )
    regions = from_mask(wanted)
    picture = add_picture(
        job,
        name,
        original.name,
        data,
        [(f"region {number}", region.full(frame)) for number, region in enumerate(regions, 1)],
        person,
    )
    for coming, content in files:
        add_attempt(picture, coming.arrival.name, content, coming.facts, person)
    for arrival in [original, *([mask] if mask else []), *(coming.arrival for coming in results)]:
        forget(arrival)
    return picture


@transaction.atomic
def bring_result(picture: Picture, coming: Coming, person) -> Attempt:
    """A further result for a picture that is there already.

    Raises:
        Refused: it cannot belong to the original.
    """
    content = bytes_of(coming.arrival)
    must_fit(
        read(blob_bytes(picture.original.blob), settings.MOST_PIXELS),
        read(content, settings.MOST_PIXELS),
        coming.arrival.name,
    )
    attempt = add_attempt(picture, coming.arrival.name, content, coming.facts, person)
    forget(coming.arrival)
    return attempt
