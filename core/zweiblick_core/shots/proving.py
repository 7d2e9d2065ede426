"""Proof that what was not sent back is as it was: frame by frame, outside the outlines that were sent."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np

from ..compare.locks import RIM
from ..io import eight_bit
from ..rules.shots import Range, in_ranges, ranges_of
from .frames import Shot
from .mending.asked import refuse_unlike

#: A frame is compared in squares of so many pixels a side.
_BLOCK = 16
#: Saving anew changes a square's mean by so many times what it changes the frame's squares by, or by so many
#: levels of 255, at most.
_USUALLY, _LEVELS = 8.0, 4.0
#: So many places are named at most.
_NAMED = 24

#: For each frame a region's outer rings of [x, y].
Rings = Sequence[Sequence[Sequence[Sequence[float]]]]


@dataclass(frozen=True)
class Touched:
    """A place that differs though it was not sent. bbox: x, y, width, height. pixels: how many differ."""

    frame: int
    bbox: tuple[int, int, int, int]
    pixels: int


@dataclass(frozen=True)
class RestProof:
    """What a returned shot did to what was not sent.

    Attributes:
        margin: pixels about the outlines that were sent in which it may differ.
        frames: how many were compared.
        same, recoded, differing: ranges of frames that are the same to the bit; but for being saved anew;
            and that differ.
        kept: by region, ranges of frames in which it was not sent and is the same to the bit, with its rim.
        places: where it differs, the largest first.
    """

    margin: int
    frames: int
    same: list[Range]
    recoded: list[Range]
    differing: list[Range]
    kept: dict[str, list[Range]]
    places: list[Touched] = field(default_factory=list)

    @property
    def holds(self) -> bool:
        """Whether all is the same, or but for being saved anew."""
        return not self.differing


def prove_rest(
    before: Shot,
    after: Shot,
    outlines: Mapping[str, Rings],
    sent: Mapping[str, Sequence[Range]],
    margin: int = RIM,
) -> RestProof:
    """Compare two shots outside of what was sent.

    What saving anew explains is estimated from each frame itself: it changes most squares alike, an edit few
    of them by more.

    Args:
        outlines: of every region, in every frame of the original.
        sent: of each region, the frames in which it was sent.

    Raises:
        Refused: the shots are not of the same frames, or cannot be read.
    """
    refuse_unlike(before, after)
    states: list[str] = []
    kept: dict[str, list[int]] = {name: [] for name in outlines}
    places: list[Touched] = []
    for number, (old, new) in enumerate(zip(before, after, strict=True)):
        shape = (old.shape[0], old.shape[1])
        differs = _differing(old, new)
        touched = bool(differs.any())
        free = np.zeros(shape, bool)
        for name, rings in outlines.items() if touched else ():
            if in_ranges(number, sent.get(name, ())):
                free |= area_of(rings[number], shape, margin)
        beyond = bool((differs & ~free).any())
        place = _beyond_saving(old, new, free) if beyond else None
        if place is not None:
            x, y, w, h = place
            count = int((differs & ~free)[y : y + h, x : x + w].sum())
            places.append(Touched(number, place, count))
        states.append(_state(beyond, place is not None))
        for name, rings in outlines.items():
            if in_ranges(number, sent.get(name, ())):
                continue
            if not touched or not (differs & area_of(rings[number], shape, RIM)).any():
                kept[name].append(number)
    of = lambda word: ranges_of(at for at, state in enumerate(states) if state == word)
    places.sort(key=lambda one: -one.pixels)
    return RestProof(
        margin,
        len(states),
        of("same"),
        of("recoded"),
        of("differing"),
        {name: ranges_of(numbers) for name, numbers in kept.items()},
        places[:_NAMED],
    )


def _state(differs: bool, beyond_saving: bool) -> str:
    if not differs:
        return "same"
    return "differing" if beyond_saving else "recoded"


def _differing(old: np.ndarray, new: np.ndarray) -> np.ndarray:
    """Bool (height, width). Frames of another depth differ everywhere: nothing is proven by what was
    converted.
    """
    if old.dtype != new.dtype:
        return np.ones(old.shape[:2], bool)
    return np.asarray((old != new).any(axis=-1))


def area_of(
    rings: Sequence[Sequence[Sequence[float]]], shape: tuple[int, int], margin: int
) -> np.ndarray:
    """What rings enclose in a frame, and so many pixels about it; bool (height, width)."""
    mask = np.zeros(shape, np.uint8)
    if rings:
        points = [np.round(np.asarray(ring, float) - 0.5).astype(np.int32) for ring in rings]
        cv2.fillPoly(mask, points, 1)
        size = 2 * margin + 1
        mask = np.asarray(
            cv2.dilate(mask, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size)))
        )
    return mask > 0


def _beyond_saving(
    old: np.ndarray, new: np.ndarray, free: np.ndarray
) -> tuple[int, int, int, int] | None:
    """The box of what differs by more than saving a frame anew explains: x, y, width, height; None if
    nothing does.
    """
    apart = cv2.cvtColor(eight_bit(new), cv2.COLOR_RGB2GRAY).astype(np.float32)
    apart -= cv2.cvtColor(eight_bit(old), cv2.COLOR_RGB2GRAY)
    apart[free] = 0
    height, width = (-(-side // _BLOCK) for side in apart.shape)
    padded = np.zeros((height * _BLOCK, width * _BLOCK), np.float32)
    padded[: apart.shape[0], : apart.shape[1]] = apart
    means = padded.reshape(height, _BLOCK, width, _BLOCK).mean(axis=(1, 3))
    usual = 1.4826 * float(np.median(np.abs(means - np.median(means))))
    far = np.abs(means) > max(_LEVELS, _USUALLY * usual)
    # An edit among pixels that are otherwise the same to the bit, however small, is none of saving.
    untouched = np.abs(padded).reshape(height, _BLOCK, width, _BLOCK).max(axis=(1, 3)) == 0
    if untouched.mean() > 0.5:
        differs = np.zeros(padded.shape, bool)
        differs[: free.shape[0], : free.shape[1]] = _differing(old, new) & ~free
        far = differs.reshape(height, _BLOCK, width, _BLOCK).any(axis=(1, 3))
    if not far.any():
        return None
    x, y, w, h = (_BLOCK * side for side in cv2.boundingRect(far.view(np.uint8)))
    return x, y, min(w, apart.shape[1] - x), min(h, apart.shape[0] - y)
