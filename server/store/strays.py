"""Files that nothing refers to any more."""

from __future__ import annotations

import time
from collections.abc import Collection

from .durable import DurableStorage

#: What is younger may belong to something that is just being stored, seconds.
YOUNG = 86_400.0


def remove_strays(storage: DurableStorage, folder: str, kept: Collection[str]) -> None:
    """Remove a folder's files but those that are kept, by name, and those that are young."""
    for name in list(storage.names()):
        stray = name.startswith(folder) and name not in kept
        if stray and storage.touched(name) < time.time() - YOUNG:
            storage.remove(name)
