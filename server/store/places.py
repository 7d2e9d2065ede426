"""The store's four places, as the settings configure them."""

from __future__ import annotations

from typing import cast

from django.core.files.storage import storages

from .durable import DurableStorage


def blobs() -> DurableStorage:
    """Bytes by their hash: never changed, never removed while anything refers to them."""
    return cast(DurableStorage, storages["default"])


def derived() -> DurableStorage:
    """What is computed from blobs: can be removed and made again."""
    return cast(DurableStorage, storages["derived"])


def deliveries() -> DurableStorage:
    """Zips that leave the house: can be built again."""
    return cast(DurableStorage, storages["deliveries"])


def arrivals() -> DurableStorage:
    """Files that arrived and are part of nothing yet."""
    return cast(DurableStorage, storages["arrivals"])
