"""What lies in a folder and is whole."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

READ = {".jpg", ".jpeg", ".png", ".tif", ".tiff"}


@dataclass(frozen=True)
class Seen:
    """A file as it was seen: who still writes it changes its size or its time."""

    path: Path
    size: int
    changed: int


def files_in(folder: Path) -> Iterator[Seen]:
    """Pictures in a folder and the folders in it, by name; hidden ones are nobody's."""
    for path in sorted(folder.rglob("*")):
        hidden = any(part.startswith(".") for part in path.relative_to(folder).parts)
        if path.suffix.lower() in READ and not hidden and path.is_file():
            stat = path.stat()
            yield Seen(path, stat.st_size, stat.st_mtime_ns)


def name_of(path: Path, folder: Path) -> str:
    """What a file arrives as: one in a folder of its own carries that folder's name, since exports
    are sorted so; "fortnimm/quay.jpg" is "quay-fortnimm.jpg".
    """
    inside = path.relative_to(folder).parts[:-1]
    if not inside:
        return path.name
    said = {word.lower() for word in _words(path.stem)}
    fresh = [word for word in _words(inside[-1]) if word.lower() not in said]
    return f"{path.stem}-{'-'.join(fresh)}{path.suffix}" if fresh else path.name


def _words(text: str) -> list[str]:
    return [word for word in re.split(r"[\W_]+", text) if word]
