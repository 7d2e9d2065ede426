"""Names of what is computed from blobs."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any

from store.places import derived as derived_store

from .models import Derived


def key_of(sha256: str, recipe: str, parameters: dict[str, Any], version: int) -> str:
    """The name of something computed: a hash of all that it depends on."""
    text = "\n".join([sha256, recipe, repr(sorted(parameters.items())), str(version)])
    return hashlib.sha256(text.encode()).hexdigest()


def name_of(key: str, ending: str = "") -> str:
    """Where the store keeps what has this key."""
    return f"{key[:2]}/{key}{ending}"


def folder_name(derived: Derived) -> str:
    """The folder of something that consists of many files."""
    return name_of(derived.key)


def folder_of(derived: Derived) -> Path:
    """Where the files of something derived lie, for listing them."""
    return derived_store().folder(folder_name(derived))


def stands_whole(derived: Derived) -> bool:
    """Whether it was made and was not deleted since."""
    return derived.ready and derived_store().is_folder(folder_name(derived))


def keep_ready(derived: Derived) -> None:
    """Store that something derived stands whole."""
    derived.ready = True
    Derived.objects.update_or_create(
        key=derived.key,
        defaults={
            name: getattr(derived, name)
            for name in ("source_id", "recipe", "parameters", "version", "ready")
        },
    )
