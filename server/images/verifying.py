"""Comparing the store with its rows, and repairing what can be."""

from __future__ import annotations

import time
from dataclasses import dataclass
from pathlib import Path

from store.durable import Damaged, DurableStorage
from store.places import blobs, derived

from .derivation import stands_whole
from .models import Blob, Derived, Image
from .pyramids import ask_pyramid


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong. `repaired`: what was done about it; empty if nothing could be."""

    words: str
    repaired: str = ""


def verify_store(repair: bool, backup: Path | None = None) -> list[Problem]:
    """Compare every blob with its row, every derived thing with its folder.

    Args:
        repair: bring damaged blobs back from `backup` (a folder that `manage.py backup` wrote),
            have missing tiles made again, remove what a dead writer left.
    """
    return [*_blobs(repair, backup), *_derived(repair), *_leftovers(repair)]


def _shown_by(blob: Blob) -> str:
    images = Image.objects.filter(blob=blob).select_related("picture__job")
    return "; ".join(
        f"{image.name} of picture {image.picture.number}, {image.picture.name}, {image.picture.job.name}"
        for image in images
    )


def _blobs(repair: bool, backup: Path | None) -> list[Problem]:
    found = []
    for blob in Blob.objects.order_by("pk").iterator():
        if blobs().stands(blob.path, blob.size, blob.sha256):
            continue
        state = "damaged" if blobs().is_file(blob.path) else "missing"
        done = _from_backup(blob, backup) if repair and backup is not None else ""
        found.append(Problem(f"blob {blob.sha256} is {state}: {_shown_by(blob) or 'unused'}", done))
    return found


def _from_backup(blob: Blob, backup: Path) -> str:
    shelf = DurableStorage(location=backup / "blobs")
    try:
        blobs().write(blob.path, [shelf.bytes_of(blob.path, blob.sha256)], blob.sha256)
    except Damaged:
        return ""
    return "brought back from the backup"


def _derived(repair: bool) -> list[Problem]:
    found = []
    for row in Derived.objects.filter(ready=True).exclude(recipe="crop").iterator():
        if stands_whole(row):
            continue
        done = ""
        if repair:
            row.delete()
            done = "will be made again when somebody looks"
            if row.recipe == "pyramid":
                for image in Image.objects.filter(blob=row.source_id).select_related("picture"):
                    ask_pyramid(image)
                done = "asked for again"
        found.append(Problem(f"{row.recipe} of blob {row.source_id} is missing", done))
    return found


def _leftovers(repair: bool) -> list[Problem]:
    found = []
    for place in (blobs(), derived()):
        limit = time.time() - 3600
        for path in place.leftovers(limit):
            found.append(
                Problem(f"left by a dead writer: {path.name}", "removed" if repair else "")
            )
        if repair:
            place.sweep(limit)
    return found
