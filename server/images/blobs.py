"""Putting bytes away and getting them back. Content decides the name, so nothing is ever
overwritten but what was damaged.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable

from django.db import transaction

from jobs.models import Picture
from store.places import blobs
from zweiblick_core.io import Picture as CorePicture

from .models import Blob, Image

MEDIA = {"jpeg": "image/jpeg", "png": "image/png", "tiff": "image/tiff"}


def put_blob(data: bytes, media_type: str) -> Blob:
    """Store bytes once; the same bytes again give the same blob."""
    sha = hashlib.sha256(data).hexdigest()
    return put_stream(lambda: [data], sha, len(data), media_type)


def put_stream(
    chunks: Callable[[], Iterable[bytes]], sha256: str, size: int, media_type: str
) -> Blob:
    """Store a file whose hash is known, without ever holding all of it. The file stands whole before
    its row does, and a file that is there is believed only if its hash is right.

    Args:
        chunks: its bytes, which can be read as often as is wanted.

    Raises:
        Damaged: its bytes have another hash.
    """
    blob = Blob(sha256=sha256, size=size, media_type=media_type)
    if not blobs().stands(blob.path, size, sha256):
        blobs().write(blob.path, chunks(), sha256)
    with transaction.atomic():
        stored, _ = Blob.objects.select_for_update().get_or_create(
            sha256=sha256, defaults={"size": size, "media_type": media_type}
        )
        # The collector may have removed the file before it let the row go.
        if not blobs().is_file(blob.path):
            blobs().write(blob.path, chunks(), sha256)
    return stored


def put_image(picture: Picture, role: str, name: str, data: bytes, decoded: CorePicture) -> Image:
    """Store a picture file, which was read already, under a picture."""
    blob = put_blob(data, MEDIA[decoded.format])
    return Image.objects.create(
        picture=picture,
        blob=blob,
        role=role,
        name=name[:200],
        width=decoded.width,
        height=decoded.height,
        format=decoded.format,
        depth=decoded.depth,
        profile=decoded.profile[:120],
    )
