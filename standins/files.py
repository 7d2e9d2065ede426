"""Files that are there whole or not at all."""

from __future__ import annotations

import os
from pathlib import Path


def write_durably(path: Path, data: bytes) -> None:
    """Write a file under a passing name, flush it to the disk, and rename it."""
    part = path.with_name(path.name + ".part")
    with part.open("wb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())
    os.replace(part, path)
