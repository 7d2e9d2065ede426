"""Footage as the core's shots. A ZIP's frames are unpacked once, into something derived."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path, PurePosixPath

import numpy as np
from django.conf import settings

from images.derivation import folder_name, keep_ready, key_of, stands_whole
from images.models import Blob, Derived
from store.places import blobs
from store.places import derived as derived_store
from zweiblick_core.errors import Refused
from zweiblick_core.io import read, read_header
from zweiblick_core.shots import Shot, open_shot
from zweiblick_core.shots.frames import PICTURES, numbered

from .models import Footage

ZIP = "application/zip"
PNG = "image/png"
_FRAMES_VERSION = 1
_CHUNK = 1 << 20
#: Frames of a ZIP may come to so many times the bytes of a whole upload.
_UNPACKED = 4
#: So many frames tell whether they are masks.
_LOOKED_AT = 5


def opened(footage: Footage) -> Shot:
    """Footage as a shot that can be read.

    Raises:
        Refused: it is none, with its own name.
    """
    try:
        shot = open_shot(str(path_of(footage)), Fraction(footage.rate))
    except Refused as error:
        raise named(footage, error) from error
    return replace(shot, name=footage.name, frames=_Named(footage, shot))


class _Named:
    """A shot's frames; what is wrong with one is said of the file as people know it."""

    def __init__(self, footage: Footage, shot: Shot) -> None:
        self._footage, self._shot = footage, shot

    def __iter__(self) -> Iterator[np.ndarray]:
        try:
            yield from self._shot
        except Refused as error:
            raise named(self._footage, error) from error

    def at(self, number: int) -> np.ndarray:
        """One frame, counted from 0."""
        try:
            return self._shot.at(number)
        except Refused as error:
            raise named(self._footage, error) from error


def named(footage: Footage, error: Refused) -> Refused:
    """The same refusal, of the file by the name that people know, without that of the store's."""
    stored = (footage.blob_id, PurePosixPath(folder_name(_unpacked(footage.blob))).name)
    words = re.sub("|".join(stored), footage.name, str(error))
    return Refused(words if footage.name in words else f"{footage.name}: {words}")


def path_of(footage: Footage) -> Path:
    """Where its frames are: a video file, a single mask, or a folder of numbered pictures.

    Raises:
        Refused: a ZIP that cannot be unpacked.
    """
    if footage.blob.media_type == ZIP:
        return _folder(footage)
    return Path(blobs().path(footage.blob.path))


def _unpacked(blob: Blob) -> Derived:
    key = key_of(blob.pk, "frames", {}, _FRAMES_VERSION)
    return Derived.objects.filter(pk=key).first() or Derived(
        key=key, source_id=blob.pk, recipe="frames", version=_FRAMES_VERSION
    )


def _folder(footage: Footage) -> Path:
    derived = _unpacked(footage.blob)
    if not stands_whole(derived):
        with derived_store().making(folder_name(derived)) as folder:
            _unpack(footage, folder)
        keep_ready(derived)
    return derived_store().folder(folder_name(derived))


def _unpack(footage: Footage, folder: Path) -> None:
    """Write a ZIP's pictures by their own names, without its folders."""
    most = _UNPACKED * settings.MOST_BYTES
    had = 0
    try:
        with zipfile.ZipFile(Path(blobs().path(footage.blob.path))) as packed:
            members = [one for one in packed.infolist() if _is_frame(one.filename)]
            if not members:
                raise Refused(f"{footage.name}: has no numbered pictures")
            if len(members) > settings.MOST_FRAMES:
                raise Refused(
                    f"{footage.name}: has {len(members)} frames; {settings.MOST_FRAMES} are taken"
                )
            for member in members:
                target = folder / PurePosixPath(member.filename).name
                if target.exists():
                    raise Refused(f"{footage.name}: has {target.name} twice")
                with packed.open(member) as source, target.open("wb") as file:
                    while chunk := source.read(_CHUNK):
                        had += len(chunk)
                        if had > most:
                            raise Refused(f"{footage.name}: unpacks to more than {most} bytes")
                        file.write(chunk)
                with target.open("rb") as file:
                    _refuse_frame(footage, target.name, file.read(4_000_000))
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError) as error:
        raise Refused(f"{footage.name}: is a ZIP that cannot be unpacked ({error})") from error


def _refuse_frame(footage: Footage, name: str, start: bytes) -> None:
    try:
        read_header(start, settings.MOST_PIXELS)
    except Refused as error:
        raise Refused(f"{footage.name}: {str(error).replace('the file', name, 1)}") from error


def _is_frame(name: str) -> bool:
    place = PurePosixPath(name)
    hidden = any(part.startswith((".", "__")) for part in place.parts)
    return not hidden and place.suffix.lower() in PICTURES


def holds_masks(footage: Footage) -> bool:
    """Whether its frames are masks: PNGs of two values."""
    if footage.blob.media_type == PNG:
        return True
    if footage.blob.media_type != ZIP:
        return False
    files = [file for _, file in sorted(numbered(path_of(footage)).items())]
    some = [files[int(at)] for at in np.linspace(0, len(files) - 1, min(_LOOKED_AT, len(files)))]
    if any(file.suffix.lower() != ".png" for file in some):
        return False
    values = [np.unique(read(str(file)).pixels) for file in some]
    # A shot may begin black; one that is black or white throughout is none.
    return all(len(one) <= 2 for one in values) and any(len(one) == 2 for one in values)
