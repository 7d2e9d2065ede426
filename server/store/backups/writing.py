"""Writing a backup."""

from __future__ import annotations

import gzip
import json
import os
import shutil
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from django.apps import apps
from django.core import serializers
from django.core.serializers.json import DjangoJSONEncoder
from django.db import connection, models, transaction

from store.durable import MAKING, Damaged, DurableStorage
from store.guard import store_guard
from store.places import arrivals, blobs

from .format import MANIFEST, SCHEMA, kept_models, migrations, sha256_of


class _Exact(DjangoJSONEncoder):
    """Moments to the microsecond; Django's own stops at the millisecond."""

    def default(self, o: Any) -> Any:
        return o.isoformat() if isinstance(o, datetime) else super().default(o)


def write_backup(place: Path) -> Path:
    """Back everything up into a folder of `place`; blobs that an earlier backup has are not copied
    again.

    Rows are read in one snapshot. Blobs are only ever added, and nothing collects them while the
    guard is held, so every row's file is there to be copied after.

    Raises:
        Damaged: a blob is missing or has other bytes than were stored; nothing is kept then.
        OSError: the place cannot be written to, or is full.
    """
    name = datetime.now(UTC).strftime("%Y-%m-%dT%H-%M-%S-%fZ")
    place.mkdir(parents=True, exist_ok=True)
    scratch = place / f"{MAKING}{name}"
    with store_guard(wait=600) as mine:
        if not mine:
            raise Damaged("something else keeps the store; try again later")
        try:
            (scratch / "rows").mkdir(parents=True)
            rows = _write_rows(scratch / "rows")
            kept = _copy_blobs(place)
            waiting = _copy_arrivals(scratch)
            manifest = {
                "schema": SCHEMA,
                "made_at": name,
                "migrations": migrations(),
                "rows": rows,
                "blobs": kept,
                "arrivals": waiting,
            }
            _write(scratch / MANIFEST, json.dumps(manifest, indent=1).encode())
            os.rename(scratch, place / name)
        except BaseException:
            shutil.rmtree(scratch, ignore_errors=True)
            raise
    return place / name


def _write(path: Path, data: bytes) -> None:
    with path.open("wb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())


def _write_rows(folder: Path) -> dict[str, dict[str, Any]]:
    """All rows as they stood at one moment: by model, how many and the hash of their file."""
    found = {}
    with connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
    with transaction.atomic():
        # The first read fixes the snapshot for all that follow.
        for model in kept_models():
            label = model._meta.label_lower
            path = folder / f"{label}.jsonl.gz"
            count = _write_model(model, path)
            found[label] = {"rows": count, "sha256": sha256_of(path)}
    return found


def _write_model(model: type[models.Model], path: Path) -> int:
    rows = model._base_manager.order_by(model._meta.pk.name).iterator(chunk_size=500)
    count = 0
    with gzip.open(path, "wt", encoding="utf-8", compresslevel=3) as file:
        for row in rows:
            serializers.serialize("jsonl", [row], stream=file, cls=_Exact)
            count += 1
    return count


def _copy_blobs(place: Path) -> list[list[Any]]:
    """Copy what is not there yet; [hash, bytes] of all."""
    shelf = DurableStorage(location=place / "blobs")
    kept = []
    table = apps.get_model("images", "Blob")
    for blob in table.objects.order_by("pk").iterator():
        if not shelf.stands(blob.path, blob.size, blob.sha256):
            data = blobs().bytes_of(blob.path, blob.sha256)
            shelf.write(blob.path, [data], blob.sha256)
        kept.append([blob.sha256, blob.size])
    return kept


def _copy_arrivals(scratch: Path) -> list[str]:
    """Files that wait to be brought in; those that went meanwhile are of no use to anybody."""
    shelf = DurableStorage(location=scratch / "arrivals")
    kept = []
    for name in arrivals().names():
        if MAKING in name:
            continue
        try:
            shelf.write(name, [arrivals().bytes_of(name)])
            kept.append(name)
        except Damaged:
            continue
    return kept
