"""Ground-tracked fill of a shot, and repaired frames carried to the rest."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from ..carrying import Outlines
from ..drawn import Drawn
from ..following import Small, in_small
from ..frames import Shot
from ..locked import brightness
from ..part import Part
from ..passing import find_passing
from ..timing import Sampler
from .asked import Mending, refuse, refuse_unlike
from .compositing import composed
from .passers import add_passing_before
from .plates import Plates, plates_of
from .window import Window

#: What a shot can be mended by, and what it rests on.
METHODS = {
    "ground-tracked fill": "what was hidden is taken from frames that show it, and made up once where none does",
    "repaired frames carried": "what was repaired in some frames is carried to the others by the ground's motion",
}
Progress = Callable[[float, str], None]


def mend(
    original: Shot,
    base: Shot,
    drawn: Drawn,
    asked: Mending,
    progress: Progress = lambda part, words: None,
) -> Iterator[np.ndarray]:
    """Fill regions of a shot from its own ground.

    Every frame's ground is brought to one frame's, evened in light, and its median taken where it is seen
    (as for a background in Cucchiara et al. 2003); that is carried back to each frame, in its light and
    with its grain, behind what passes in front. What no frame shows is made up once.

    Args:
        original: what the ground is taken from. base: what is mended: an attempt, or the original again;
            of the same frames.
        drawn: what was to be removed, by region and frame.

    Yields:
        All frames of `base`, in order; those in which nothing was asked for are its own, as are all pixels
        farther than `compositing.MARGIN` from an outline.

    Raises:
        Refused: the shots are not of the same frames, or there is no such region or frame.
    """
    refuse_unlike(original, base)
    refuse(asked, original, drawn)
    sampler = Sampler((original.height, original.width))
    smalls: list[Small] = []
    parts: list[Part] = []
    windows: list[Window] = []
    try:
        for number, shot in enumerate((original, base)):
            progress(0.15 * number, f"reading {shot.name}")
            smalls.append(in_small(shot, shot.count, sampler, Outlines()))
        shown = {number: number for number in range(original.count)}
        parts = [
            Part.of(name, drawn[name], original, (smalls[0], smalls[1]), shown)
            for name in asked.ranges
        ]
        progress(0.3, "holding the ground still")
        for number, (before, after) in enumerate(zip(original, base, strict=True)):
            for part in parts:
                part.put(number, before, after)
        for part in parts:
            find_passing(part.locked)
            if part.moves:
                add_passing_before(part.locked)
        progress(0.45, "reading the ground")
        windows = _read(original, parts)
        plates = _plates(windows, asked)
        progress(0.6, "filling")
        yield from _frames(original, base, windows, plates, asked, progress)
    finally:
        for small in smalls:
            small.close()
        for part in parts:
            part.locked.close()
        for window in windows:
            window.close()


def _read(original: Shot, parts: list[Part]) -> list[Window]:
    windows: list[Window] = []
    for number, pixels in enumerate(original):
        if not windows:
            windows = [Window.of(part, pixels.dtype) for part in parts]
        for window in windows:
            window.put(number, pixels)
    return windows


def _plates(windows: list[Window], asked: Mending) -> list[Plates]:
    found = []
    for window in windows:
        locked = window.part.locked
        locked.keep_away(3)
        repaired = {
            number: _of_depth(pixels, window.frames.dtype)
            for number, pixels in asked.repaired.items()
        }
        found.append(plates_of(window, brightness(locked), repaired, asked.seed))
    return found


def _of_depth(pixels: np.ndarray, dtype: np.dtype[np.generic]) -> np.ndarray:
    if pixels.dtype == dtype:
        return pixels
    if dtype == np.uint16:
        return pixels.astype(np.uint16) * np.uint16(257)
    return np.round(pixels / 257).astype(np.uint8)


def _frames(
    original: Shot,
    base: Shot,
    windows: list[Window],
    plates: list[Plates],
    asked: Mending,
    progress: Progress,
) -> Iterator[np.ndarray]:
    for number, (before, after) in enumerate(zip(original, base, strict=True)):
        frame = after
        for window, plate in zip(windows, plates, strict=True):
            if asked.takes(window.part.name, number):
                before = _of_depth(before, after.dtype)
                frame = composed(window, plate, number, before, frame, asked.seed)
        if number % 8 == 0:
            progress(0.6 + 0.4 * number / original.count, f"frame {number}")
        yield frame
