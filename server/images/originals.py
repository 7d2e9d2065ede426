"""The originals of many pictures at once."""

from __future__ import annotations

from collections.abc import Iterable

from jobs.models import Picture

from .models import Image


def know_originals(pictures: Iterable[Picture]) -> None:
    """Look the originals of pictures up in one query, so that none asks for its own."""
    rows = list(pictures)
    found = {
        image.picture_id: image
        for image in Image.objects.filter(
            picture__in={picture.pk for picture in rows}, role=Image.Role.ORIGINAL
        ).select_related("blob")
    }
    for picture in rows:
        picture.original = found.get(picture.pk)
