"""Frames of an original and a result, one pair after another."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..io import Picture
from .frames import Shot
from .timing import Timing

#: Formats whose files lose nothing.
LOSSLESS = frozenset({"pictures", "ffv1", "png", "huffyuv", "ffvhuff", "utvideo", "rawvideo"})


def pairs(
    original: Shot, result: Shot, timing: Timing
) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
    """(number of the original's frame, it, the result's frame that shows it first)."""
    frames = enumerate(original)
    at, before = -1, np.zeros((0, 0, 3), np.uint8)
    last = -1
    for shows, after in zip(timing.shows.tolist(), result, strict=False):
        while at < shows:
            at, before = next(frames)
        if shows != last:
            yield shows, before, after
        last = shows


def some_pairs(
    original: Shot, result: Shot, timing: Timing, count: int
) -> dict[int, tuple[Picture, Picture]]:
    """So many pairs of frames, evenly over the shot, by the original's number."""
    shown = sorted({int(one) for one in timing.shows})
    wanted = {shown[int(at)] for at in np.linspace(0, len(shown) - 1, min(count, len(shown)))}
    return {
        number: (picture_of(before, original), picture_of(after, result))
        for number, before, after in pairs(original, result, timing)
        if number in wanted
    }


def picture_of(pixels: np.ndarray, shot: Shot) -> Picture:
    """A frame as a picture that is checked."""
    form = "png" if shot.form in LOSSLESS else "jpeg"
    return Picture(pixels, "", form, shot.depth, "none", "RGB", None)
