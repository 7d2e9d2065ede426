"""Stored pictures decoded, in workers only: once for what follows each other, and never more
pixels at a time than the machine can hold.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager

from django.conf import settings

from store.places import blobs, derived
from zweiblick_core.io import Picture as CorePicture
from zweiblick_core.io import read, read_header

from .models import Blob

_kept: OrderedDict[str, CorePicture] = OrderedDict()


def blob_bytes(blob: Blob) -> bytes:
    """A blob's bytes, compared with their hash.

    Raises:
        Damaged: the file is missing or was changed.
    """
    return blobs().bytes_of(blob.path, blob.sha256)


def decoded(blob: Blob) -> CorePicture:
    """A blob's picture. Those used last are kept, up to `ZWEIBLICK_KEPT_PIXELS` in a process: what
    a worker does next is mostly about the same picture.

    Raises:
        Refused: it cannot be read; Damaged: it is not there as it was stored.
    """
    found = _kept.pop(blob.sha256, None)
    if found is None:
        found = read_bounded(blob_bytes(blob))
    _kept[blob.sha256] = found
    while len(_kept) > 1 and sum(one.pixels.size // 3 for one in _kept.values()) > (
        settings.KEPT_PIXELS
    ):
        _kept.popitem(last=False)
    return found


def forget_decoded() -> None:
    """Give the memory back."""
    _kept.clear()


def read_bounded(data: bytes) -> CorePicture:
    """Decode a file.

    Raises:
        Refused: not a picture, damaged, or more pixels than the limit.
    """
    header = read_header(data, settings.MOST_PIXELS)
    with _one_large_at_a_time(header.width * header.height):
        return read(data, settings.MOST_PIXELS)


@contextmanager
def _one_large_at_a_time(pixels: int) -> Iterator[None]:
    """Several processes may decode small pictures side by side; the large ones follow each other,
    so that the pixels in flight on a machine stay bounded.
    """
    if pixels < settings.LARGE_PIXELS:
        yield
        return
    with derived().locked(".large"):
        yield
