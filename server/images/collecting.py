"""Collecting what nothing refers to: blobs that nothing holds, derived files that can be made again,
what a dead writer left. What is referred to is never touched.
"""

from __future__ import annotations

import time
from datetime import timedelta

from django.conf import settings
from django.db import models, transaction
from django.db.models import Q

from store.guard import store_guard
from store.places import blobs, derived
from work.clock import now

from .aiding import AID_VERSION
from .derivation import folder_name
from .models import Blob, Derived
from .pyramids import PYRAMID_VERSION

#: What is younger than this may belong to something that is just being stored, seconds.
YOUNG = 86_400.0
#: Aids and single frames of shots are drawn again when somebody looks; so long they are kept, seconds.
KEPT = {"aid": 30 * 86_400.0, "single frame": 2 * 86_400.0}
_CURRENT = {"pyramid": PYRAMID_VERSION, "aid": AID_VERSION}


def collect() -> dict[str, int]:
    """Collect once; how much of each sort went. Does nothing while a backup is being made."""
    with store_guard(wait=0) as mine:
        if not mine:
            return {}
        return {
            "blobs": _blob_rows(),
            "blob files": _blob_files(),
            "derived": _derived_rows() + _derived_files(),
            "leftovers": sum(place.sweep(time.time() - YOUNG) for place in (blobs(), derived())),
        }


def _unreferred() -> Q:
    """The condition that nothing refers to a blob that it has to be kept for."""
    holding = [
        relation.name
        for relation in Blob._meta.related_objects
        if relation.on_delete is models.PROTECT
    ]
    return Q(**dict.fromkeys(holding))


def _blob_rows() -> int:
    """Blobs that no image and no footage holds. The file goes while the row is locked, so that whoever stores the
    same bytes meanwhile waits and then finds that it has to write them.
    """
    count = 0
    old = now() - timedelta(seconds=YOUNG)
    for key in list(
        Blob.objects.filter(_unreferred(), made_at__lt=old).values_list("pk", flat=True)[:500]
    ):
        with transaction.atomic():
            blob = Blob.objects.select_for_update().filter(_unreferred(), pk=key).first()
            if blob is not None:
                path = blob.path
                blob.delete()
                blobs().remove(path)
                count += 1
    return count


def _blob_files() -> int:
    """Files without a row: their writer died before the row was stored."""
    known = set(Blob.objects.values_list("pk", flat=True))
    count = 0
    for name in blobs().names():
        key = name.split("/")[1]
        if key in known or blobs().touched(name) > time.time() - YOUNG or key.startswith("."):
            continue
        # Asked again: it may have been stored since.
        if not Blob.objects.filter(pk=key).exists():
            blobs().remove(name)
            count += 1
    return count


def _derived_rows() -> int:
    count = 0
    for row in Derived.objects.all().iterator():
        dated = row.version != _CURRENT.get(row.recipe, row.version) or row.recipe == "crop"
        kept = KEPT.get(row.recipe)
        idle = kept is not None and derived().touched(folder_name(row)) < time.time() - kept
        if dated or idle:
            folder = folder_name(row)  # a deleted row has no key
            row.delete()
            derived().remove(folder)
            count += 1
    return count


def _derived_files() -> int:
    """Folders and files without a row: half-drawn aids, crops nobody asked for in a while."""
    known = set(Derived.objects.values_list("pk", flat=True))
    limit = time.time() - settings.DERIVED_KEPT
    count = 0
    for name in derived().names():
        key = name.split("/")[1].split(".")[0]
        if key and key not in known and derived().touched(name) < limit:
            derived().remove(name)
            count += 1
    return count
