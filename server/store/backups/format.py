"""What a backup consists of."""

from __future__ import annotations

import gzip
import hashlib
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.apps import apps
from django.db import connection, models
from django.db.migrations.recorder import MigrationRecorder

SCHEMA = "zweiblick.backup/1"
MANIFEST = "manifest.json"
#: Signed in, counted or worked out anew: nothing that anybody said.
LEFT_OUT = {
    "sessions.session",
    "contenttypes.contenttype",
    "auth.permission",
    "axes.accessattempt",
    "axes.accesslog",
    "axes.accessfailurelog",
    "axes.accessattemptexpiration",
    "images.derived",
}


def kept_models() -> list[type[models.Model]]:
    """The models whose rows a backup holds, by name; links between rows have models of their own."""
    found = [
        model
        for model in apps.get_models(include_auto_created=True)
        if model._meta.managed and not model._meta.proxy and model._meta.label_lower not in LEFT_OUT
    ]
    return sorted(found, key=lambda model: model._meta.label_lower)


def migrations() -> list[str]:
    """The applied migrations: rows fit into a database with the same ones."""
    applied = MigrationRecorder(connection).applied_migrations()
    return sorted(f"{app}.{name}" for app, name in applied)


def read_manifest(folder: Path) -> dict[str, Any]:
    """Raises: ValueError: there is none that is whole."""
    try:
        manifest: dict[str, Any] = json.loads((folder / MANIFEST).read_text())
    except (OSError, ValueError) as error:
        raise ValueError(f"{folder.name}: has no manifest that can be read") from error
    if manifest.get("schema") != SCHEMA:
        raise ValueError(f"{folder.name}: is no {SCHEMA}")
    return manifest


def sha256_of(path: Path) -> str:
    """The hash of a file, hex."""
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while chunk := file.read(1 << 20):
            digest.update(chunk)
    return digest.hexdigest()


def lines_of(path: Path) -> Iterator[str]:
    """The rows of one file."""
    with gzip.open(path, "rt", encoding="utf-8") as file:
        yield from file


def newest(place: Path) -> Path:
    """The newest whole backup in a backup folder. Raises: ValueError: there is none."""
    whole = sorted(path.parent for path in place.glob(f"*/{MANIFEST}"))
    if not whole:
        raise ValueError(f"{place}: holds no backup")
    return whole[-1]
