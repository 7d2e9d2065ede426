"""A shot as a stream of frames: numbered picture files, or a video file. Frames are read one after
another and never all kept.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Protocol, runtime_checkable

import numpy as np

from ..errors import Refused
from ..io import read

#: What numbered files may be.
PICTURES = frozenset({".png", ".tif", ".tiff", ".jpg", ".jpeg"})
#: What numbered files are taken to run at, frames a second, where nobody says.
USUAL_RATE = Fraction(24)
_NUMBERED = re.compile(r"^(?P<name>.*?)(?P<number>\d+)$")


class Frames(Protocol):
    """Where a shot's frames come from: (height, width, 3), uint8 or uint16 of 0..65535, R'G'B'."""

    def __iter__(self) -> Iterator[np.ndarray]: ...


@runtime_checkable
class Direct(Frames, Protocol):
    """Frames that can be had one by one, without those before."""

    def at(self, number: int) -> np.ndarray:
        """One frame, counted from 0. Raises: IndexError: there is none."""
        ...


def counted_to(frames: Frames, number: int) -> np.ndarray:
    """One frame, read from the beginning. Raises: IndexError: there is none."""
    for at, pixels in enumerate(frames):
        if at == number:
            return pixels
    raise IndexError(number)


@dataclass(frozen=True)
class Shot:
    """A shot that can be read from its beginning as often as is wanted.

    Attributes:
        name: of the file or folder.
        form: "pictures" or the video's codec.
        count: frames. width, height: pixels of each. depth: bits a channel, as stored.
        rate: frames a second.
        first: the number of its first frame, as the files are numbered; 0 for a video.
        facts: what its file says of colour, in words.
        frames: the frames, in order.
    """

    name: str
    form: str
    count: int
    width: int
    height: int
    depth: int
    rate: Fraction
    first: int
    facts: tuple[str, ...]
    frames: Frames

    def __iter__(self) -> Iterator[np.ndarray]:
        return iter(self.frames)

    def at(self, number: int) -> np.ndarray:
        """One frame, counted from 0; read from the beginning where nothing quicker is known.

        Raises:
            IndexError: there is none. Refused: it cannot be read.
        """
        if not 0 <= number < self.count:
            raise IndexError(number)
        if isinstance(self.frames, Direct):
            return self.frames.at(number)
        return counted_to(self.frames, number)

    def described(self) -> dict[str, object]:
        """What a report says about it."""
        return {
            "name": self.name,
            "form": self.form,
            "frames": self.count,
            "width": self.width,
            "height": self.height,
            "depth": self.depth,
            "rate": float(self.rate),
            "first": self.first,
            "colour": list(self.facts),
        }


@dataclass(frozen=True)
class Numbered:
    """Numbered picture files of one name, in the order of their numbers."""

    files: tuple[Path, ...]
    size: tuple[int, int]

    def __iter__(self) -> Iterator[np.ndarray]:
        for file in self.files:
            yield self._read(file)

    def at(self, number: int) -> np.ndarray:
        """One frame, counted from 0."""
        return self._read(self.files[number])

    def _read(self, file: Path) -> np.ndarray:
        pixels = read(str(file)).pixels
        if pixels.shape[:2] != self.size:
            height, width = pixels.shape[:2]
            raise Refused(
                f"{file.name}: is {width} x {height}, the first frame {self.size[1]} x {self.size[0]}"
            )
        return pixels


def numbered(folder: Path) -> dict[int, Path]:
    """The numbered picture files of a folder, by number.

    Raises:
        Refused: there are none, or of several names, or one number twice.
    """
    found: dict[int, Path] = {}
    names: set[str] = set()
    for file in sorted(folder.iterdir()):
        match = _NUMBERED.match(file.stem)
        if file.suffix.lower() not in PICTURES or match is None or file.name.startswith("."):
            continue
        number = int(match["number"])
        if number in found:
            raise Refused(f"{folder.name}: has frame {number} twice")
        found[number] = file
        names.add(match["name"])
    if not found:
        raise Refused(f"{folder.name}: has no numbered pictures")
    if len(names) > 1:
        raise Refused(
            f"{folder.name}: has numbered pictures of several names ({', '.join(sorted(names))})"
        )
    return found


def open_shot(path: str, rate: Fraction | None = None) -> Shot:
    """A shot from a folder of numbered pictures or from a video file.

    Args:
        rate: frames a second of numbered pictures; `USUAL_RATE` if nobody says. A video has its own.

    Raises:
        Refused: it cannot be read, frames are missing, or their rate varies.
    """
    place = Path(path)
    if not place.is_dir():
        from .video import open_video  # its library is loaded only where there is a video

        return open_video(place)
    by_number = numbered(place)
    first, last = min(by_number), max(by_number)
    if len(by_number) < 2:
        raise Refused(f"{place.name}: is a single picture, not a shot")
    missing = [number for number in range(first, last + 1) if number not in by_number]
    if missing:
        more = f" and {len(missing) - 1} more" if len(missing) > 1 else ""
        raise Refused(f"{place.name}: lacks frame {missing[0]}{more}")
    opening = read(str(by_number[first]))
    return Shot(
        place.name,
        "pictures",
        len(by_number),
        opening.width,
        opening.height,
        opening.depth,
        rate or USUAL_RATE,
        first,
        (f"profile: {opening.profile}",),
        Numbered(
            tuple(by_number[number] for number in sorted(by_number)),
            (opening.height, opening.width),
        ),
    )
