"""The one way in which files are written: temporary file, fsync, size and hash, rename, fsync of
the folder. A name therefore stands for a whole file or for none, whatever was cut off when.

Blobs, derived pictures and arrivals are three locations of this class; nothing else opens a path
of the store.
"""

from __future__ import annotations

import fcntl
import hashlib
import os
import shutil
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

from django.core.files.base import File
from django.core.files.storage import FileSystemStorage

#: What is being written has this prefix until it is whole.
MAKING = ".making-"
_CHUNK = 1 << 20


class Damaged(Exception):
    """A stored file is missing, or its bytes are not those that were stored."""


@dataclass(frozen=True)
class Written:
    """What was written: its SHA-256 (hex) and its size in bytes."""

    sha256: str
    size: int


def _sync_folder(folder: Path) -> None:
    """A rename is only durable once its folder is on disk."""
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _sync_tree(folder: Path) -> None:
    for path in folder.rglob("*"):
        if path.is_file():
            with path.open("rb") as file:
                os.fsync(file.fileno())


class DurableStorage(FileSystemStorage):
    """Django's file storage, with writes that are whole or not there.

    `save` under a name that exists replaces the file; names are given by content, so only a file
    that was damaged is ever replaced by other bytes.
    """

    def get_available_name(self, name: str, max_length: int | None = None) -> str:
        return name

    def _save(self, name: str, content: File[Any]) -> str:
        self.write(name, content.chunks())
        return name

    def write(self, name: str, chunks: Iterable[bytes], sha256: str = "") -> Written:
        """Write a file, whole or not at all.

        Args:
            sha256: the hash that the bytes must have, hex; empty: any.

        Raises:
            Damaged: the bytes that came to lie on disk are not those that were expected.
            OSError: the disk is full or cannot be written to; nothing is left behind then.
        """
        target = Path(self.path(name))
        target.parent.mkdir(parents=True, exist_ok=True)
        handle, scratch = tempfile.mkstemp(dir=target.parent, prefix=MAKING)
        digest, size = hashlib.sha256(), 0
        try:
            with os.fdopen(handle, "wb") as file:
                for chunk in chunks:
                    file.write(chunk)
                    digest.update(chunk)
                    size += len(chunk)
                file.flush()
                os.fsync(file.fileno())
            found = digest.hexdigest()
            if (sha256 and found != sha256) or os.path.getsize(scratch) != size:
                raise Damaged(f"{name}: the bytes written are not those that were meant")
            os.chmod(scratch, self.file_permissions_mode or 0o644)
            os.replace(scratch, target)
            _sync_folder(target.parent)
        except BaseException:
            Path(scratch).unlink(missing_ok=True)
            raise
        return Written(found, size)

    def stands(self, name: str, size: int, sha256: str) -> bool:
        """Whether a file is there with this size and hash: a name alone proves nothing."""
        try:
            return self.size(name) == size and self.hash_of(name).sha256 == sha256
        except OSError:
            return False

    def hash_of(self, name: str) -> Written:
        """Raises: OSError: there is no such file."""
        digest, size = hashlib.sha256(), 0
        with self.opened(name) as file:
            while chunk := file.read(_CHUNK):
                digest.update(chunk)
                size += len(chunk)
        return Written(digest.hexdigest(), size)

    def opened(self, name: str) -> BinaryIO:
        """A file to read from. Raises: OSError: there is none."""
        return Path(self.path(name)).open("rb")

    def bytes_of(self, name: str, sha256: str = "") -> bytes:
        """A file's bytes.

        Args:
            sha256: the hash that they must have, hex; empty: any.

        Raises:
            Damaged: the file is missing, or has other bytes.
        """
        try:
            with self.opened(name) as file:
                data = file.read()
        except OSError as error:
            raise Damaged(f"{name}: is missing") from error
        if sha256 and hashlib.sha256(data).hexdigest() != sha256:
            raise Damaged(f"{name}: has other bytes than were stored")
        return data

    def is_file(self, name: str) -> bool:
        return Path(self.path(name)).is_file()

    def is_folder(self, name: str) -> bool:
        return Path(self.path(name)).is_dir()

    def folder(self, name: str) -> Path:
        """Where a folder lies, for libraries that read or write paths."""
        return Path(self.path(name))

    @contextmanager
    def making(self, name: str) -> Iterator[Path]:
        """A scratch folder that becomes the folder `name` at the end, whole.

        Of two that make the same one the first stands, and the other's is thrown away: derived
        folders are named by all that they depend on, so both hold the same.
        """
        target = Path(self.path(name))
        target.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=target.parent, prefix=MAKING) as scratch:
            made = Path(scratch) / "made"
            made.mkdir(mode=0o755)
            yield made
            _sync_tree(made)
            try:
                os.rename(made, target)
            except OSError:
                if not target.is_dir():
                    raise
            _sync_folder(target.parent)

    @contextmanager
    def locked(self, name: str) -> Iterator[None]:
        """Held by one process at a time, whichever machine's processes share the folder."""
        place = Path(self.path(name))
        place.parent.mkdir(parents=True, exist_ok=True)
        with place.open("w") as file:
            fcntl.flock(file, fcntl.LOCK_EX)
            yield

    def touch(self, name: str) -> None:
        """Remember now, under a name."""
        place = Path(self.path(name))
        place.parent.mkdir(parents=True, exist_ok=True)
        place.touch()

    def touched(self, name: str) -> float:
        """When a name was last touched or written, seconds since the epoch; 0 if never."""
        try:
            return Path(self.path(name)).stat().st_mtime
        except FileNotFoundError:
            return 0.0

    def remove(self, name: str) -> None:
        """Remove a file or folder; nothing if it is gone already."""
        path = Path(self.path(name))
        if path.is_dir():
            # Out of the way in one step, so that nobody meets half of it.
            with tempfile.TemporaryDirectory(dir=path.parent, prefix=MAKING) as scratch:
                os.rename(path, Path(scratch) / "gone")
        else:
            path.unlink(missing_ok=True)

    def names(self) -> Iterator[str]:
        """Every file and folder at the second level: <first two letters>/<name>."""
        root = Path(self.location)
        for shelf in sorted(root.iterdir()) if root.is_dir() else []:
            if shelf.is_dir():
                yield from (f"{shelf.name}/{path.name}" for path in sorted(shelf.iterdir()))

    def leftovers(self, older: float) -> list[Path]:
        """What was being written when its writer died: temporary names last touched before `older`
        (seconds since the epoch).
        """
        root = Path(self.location)
        found = []
        for path in root.rglob(f"{MAKING}*") if root.is_dir() else []:
            try:
                if path.lstat().st_mtime < older:
                    found.append(path)
            except FileNotFoundError:
                continue  # its writer finished meanwhile
        return found

    def sweep(self, older: float) -> int:
        """Remove leftovers; how many there were."""
        found = self.leftovers(older)
        for path in found:
            if path.is_dir():
                shutil.rmtree(path, ignore_errors=True)
            else:
                path.unlink(missing_ok=True)
        return len(found)
