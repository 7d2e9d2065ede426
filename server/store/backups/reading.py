"""Verifying a backup, and restoring one into an empty house."""

from __future__ import annotations

from pathlib import Path

from django.apps import apps
from django.core import serializers
from django.db import connection, transaction

from store.durable import DurableStorage
from store.places import arrivals, blobs

from .format import kept_models, lines_of, migrations, read_manifest, sha256_of


def problems_of(folder: Path) -> list[str]:
    """What is wrong with a backup, a line each; empty if it can be restored whole."""
    try:
        manifest = read_manifest(folder)
    except ValueError as error:
        return [str(error)]
    found = []
    for label, known in manifest["rows"].items():
        path = folder / "rows" / f"{label}.jsonl.gz"
        if not path.is_file():
            found.append(f"rows of {label}: missing")
        elif sha256_of(path) != known["sha256"]:
            found.append(f"rows of {label}: other bytes than were written")
    shelf = DurableStorage(location=folder.parent / "blobs")
    for sha256, size in manifest["blobs"]:
        if not shelf.stands(f"{sha256[:2]}/{sha256}", size, sha256):
            found.append(f"blob {sha256}: missing or damaged")
    shelf = DurableStorage(location=folder / "arrivals")
    found += [
        f"arrival {name}: missing" for name in manifest["arrivals"] if not shelf.is_file(name)
    ]
    return found


def restore(folder: Path) -> dict[str, int]:
    """Bring a backup back, whole or not at all: files first, which harm nobody, then all rows in
    one transaction. How many rows of each model there are.

    Raises:
        ValueError: the backup is not whole, this house is not empty, or its database has other
            migrations; nothing is changed then.
    """
    wrong = problems_of(folder)
    if wrong:
        raise ValueError("this backup is not whole: " + "; ".join(wrong[:5]))
    manifest = read_manifest(folder)
    if manifest["migrations"] != migrations():
        raise ValueError(
            "the backup's database has other migrations than this one: use the version that made it, then migrate"
        )
    full = [model._meta.label for model in kept_models() if model._base_manager.exists()]
    if full:
        raise ValueError(f"this house is not empty: it has rows of {', '.join(full[:5])}")
    shelf = DurableStorage(location=folder.parent / "blobs")
    for sha256, size in manifest["blobs"]:
        path = f"{sha256[:2]}/{sha256}"
        if not blobs().stands(path, size, sha256):
            blobs().write(path, [shelf.bytes_of(path, sha256)], sha256)
    waiting = DurableStorage(location=folder / "arrivals")
    for name in manifest["arrivals"]:
        arrivals().write(name, [waiting.bytes_of(name)])
    with transaction.atomic(), connection.constraint_checks_disabled():
        counts = {label: _load(folder, label) for label in manifest["rows"]}
        for label, known in manifest["rows"].items():
            if counts[label] != known["rows"]:
                raise ValueError(f"rows of {label}: {counts[label]} of {known['rows']}")
        connection.check_constraints(
            [apps.get_model(label)._meta.db_table for label in manifest["rows"]]
        )
    return counts


def _load(folder: Path, label: str) -> int:
    count = 0
    rows = serializers.deserialize("jsonl", lines_of(folder / "rows" / f"{label}.jsonl.gz"))
    for row in rows:
        # As they were, without anything that saving would set anew.
        row.save(force_insert=True)
        count += 1
    return count
