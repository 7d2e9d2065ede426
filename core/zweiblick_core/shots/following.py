"""The first pass over a shot: what its frames are compared and followed by is kept in small."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from .carrying import Outlines, ThingFollower, nearest, warped
from .ground import Follower, Motion
from .timing import Sampler

#: Frames are followed at a size of so many pixels a side at most.
_LONGEST = 1280
#: Ground is looked at so far around what is removed: parts of its longer side, and pixels.
_AROUND, _AT_LEAST = 2.0, 60
#: Something moves over the ground where its outline, carried with the ground, shares less than this
#: with what was drawn.
_STANDS = 0.5
#: What was drawn once stands where, in the median of so many frames, so much of what was removed in its
#: own frame is removed there too: what differs by more levels than this.
_LOOKS, _WORKED, _GREY = 13, 0.4, 8
#: The frame of a result that shows each of the original's.
Shown = Mapping[int, int]


@dataclass
class Small:
    """A shot's frames in small.

    Attributes:
        greys: uint8 (frames, height, width), mapped from a file. scale: their pixels for one of the
            shot's. signatures: as of `Sampler.of`.
    """

    greys: np.ndarray
    scale: float
    signatures: list[tuple[np.ndarray, np.ndarray]]
    _folder: tempfile.TemporaryDirectory[str]

    def close(self) -> None:
        """Remove its file."""
        self.greys = np.zeros((0, 1, 1), np.uint8)
        self._folder.cleanup()

    def mask(self, drawn: np.ndarray) -> np.ndarray:
        """A frame's mask in small, bool."""
        height, width = self.greys.shape[1:]
        return (
            cv2.resize(drawn.astype(np.uint8) * 255, (width, height), interpolation=cv2.INTER_AREA)
            > 127
        )


def grey_of(pixels: np.ndarray) -> np.ndarray:
    """uint8 (height, width) of a frame of any depth."""
    eight = pixels if pixels.dtype == np.uint8 else (pixels >> 8).astype(np.uint8)
    return cv2.cvtColor(np.ascontiguousarray(eight), cv2.COLOR_RGB2GRAY)


def in_small(
    frames: Iterable[np.ndarray], count: int, sampler: Sampler, drawn: Mapping[int, np.ndarray]
) -> Small:
    """Read a shot once.

    Args:
        count: how many frames at most. sampler: of the original.
        drawn: what was removed, by frame; the nearest is left out of each signature.
    """
    folder = tempfile.TemporaryDirectory(prefix="zweiblick-small-")
    greys: np.ndarray | None = None
    scale, signatures = 1.0, []
    source, removed = -1, None
    number = -1
    for number, pixels in zip(range(count), frames, strict=False):
        grey = grey_of(pixels)
        if drawn and nearest(drawn, number) != source:
            source = nearest(drawn, number)
            marked = drawn[source].astype(np.uint8)
            removed = np.asarray(cv2.dilate(marked, np.ones((25, 25), np.uint8))) > 0
        same = removed is not None and removed.shape == grey.shape
        signatures.append(sampler.of(grey, removed if same else None))
        if greys is None:
            scale = min(1.0, _LONGEST / max(grey.shape))
            shape = (round(grey.shape[0] * scale), round(grey.shape[1] * scale))
            greys = np.lib.format.open_memmap(
                Path(folder.name) / "greys.npy", mode="w+", dtype=np.uint8, shape=(count, *shape)
            )
        greys[number] = (
            grey
            if scale == 1.0
            else cv2.resize(grey, greys.shape[:0:-1], interpolation=cv2.INTER_AREA)
        )
    if greys is None:
        greys = np.zeros((0, 1, 1), np.uint8)
    return Small(greys[: number + 1], scale, signatures, folder)


def followed(
    small: Small,
    drawn: Mapping[int, np.ndarray],
    after: Small | None = None,
    shown: Shown | None = None,
) -> tuple[Motion, bool]:
    """How the ground about what was drawn moves, and whether that itself moves over it.

    Args:
        drawn: bool masks of the shot's own size, by frame; one at least.
        after: the result, if it has the same frame. shown: its frame that shows each of the
            original's.
    """
    shown = shown or {}
    reference = sorted(drawn)[len(drawn) // 2]
    motion = _ground(small, small.mask(drawn[reference]), reference, near=True)
    moves = not _stands(small, drawn, motion, reference, after, shown)
    if moves:
        motion = _ground(small, small.mask(drawn[reference]), reference, near=False)
    return motion, moves


def outlines_of(
    small: Small, drawn: Mapping[int, np.ndarray], motion: Motion, moves: bool
) -> Outlines:
    """The outline in each frame, in small: as it was drawn, or carried from the nearest that was."""
    found = Outlines({number: small.mask(mask) for number, mask in drawn.items()})
    if not moves:
        lead = _lead(small)
        back = np.linalg.inv(lead)
        for number in range(len(small.greys)):
            if number not in found:
                source = nearest(drawn, number)
                between = np.linalg.inv(motion.matrices[number]) @ motion.matrices[source]
                found[number] = warped(small.mask(drawn[source]), lead @ between @ back)
        return found
    if len(drawn) > 1:
        found.update(_between(small, drawn, motion))
        return found
    (source,) = drawn
    for step in (1, -1):
        follower = ThingFollower(np.asarray(small.greys[source]), found[source])
        number = source + step
        while 0 <= number < len(small.greys):
            found[number] = follower.follow(np.asarray(small.greys[number]))
            number += step
    return found


def _between(small: Small, drawn: Mapping[int, np.ndarray], motion: Motion) -> Outlines:
    """Outlines of frames in which nothing was drawn: the nearest that was, moved over the ground as
    something is that walks evenly from one to the next, and on.
    """
    lead = _lead(small)
    back = np.linalg.inv(lead)
    known = sorted(number for number, mask in drawn.items() if mask.any())
    here = Outlines({number: small.mask(drawn[number]) for number in known})
    on_ground = {}
    for number, mask in here.items():
        rows, columns = np.nonzero(mask)
        place = np.array([[[columns.mean(), rows.mean()]]])
        on_ground[number] = cv2.perspectiveTransform(place, lead @ motion.matrices[number] @ back)[
            0, 0
        ]
    found = Outlines()
    for number in range(len(small.greys)):
        if number in drawn:
            continue
        after = next((one for one in known if one > number), known[-1])
        at = max(1, known.index(after)) if len(known) > 1 else 0
        first, second = known[at - 1], known[at]
        if len(known) > 1 and number > known[-1]:
            first, second = known[-2], known[-1]
        part = (number - first) / max(1, second - first)
        source = nearest(here, number)
        place = on_ground[first] + part * (on_ground[second] - on_ground[first])
        step = np.eye(3)
        step[:2, 2] = place - on_ground[source]
        to_ground = lead @ motion.matrices[source] @ back
        from_ground = np.linalg.inv(lead @ motion.matrices[number] @ back)
        found[number] = warped(here[source], from_ground @ step @ to_ground)
    return found


def _lead(small: Small) -> np.ndarray:
    return np.diag([small.scale, small.scale, 1.0])


def _ground(small: Small, mask: np.ndarray, reference: int, near: bool) -> Motion:
    height, width = mask.shape
    x, y, w, h = cv2.boundingRect(mask.view(np.uint8))
    margin = int(_AROUND * max(w, h) + _AT_LEAST) if near else max(height, width)
    surroundings = np.zeros(mask.shape, bool)
    surroundings[max(0, y - margin) : y + h + margin, max(0, x - margin) : x + w + margin] = True
    surroundings &= cv2.dilate(mask.view(np.uint8), np.ones((13, 13), np.uint8)) == 0
    count = len(small.greys)
    matrices, sure = np.tile(np.eye(3), (count, 1, 1)), np.zeros(count, bool)
    sure[reference] = True
    lead = _lead(small)
    back = np.linalg.inv(lead)
    for step in (1, -1):
        follower = Follower(np.asarray(small.greys[reference]), surroundings)
        number = reference + step
        while 0 <= number < count:
            matrix, sure[number] = follower.follow(np.asarray(small.greys[number]))
            matrices[number] = back @ matrix @ lead
            number += step
    return Motion(matrices, sure, reference)


def _stands(
    small: Small,
    drawn: Mapping[int, np.ndarray],
    motion: Motion,
    reference: int,
    after: Small | None,
    shown: Shown,
) -> bool:
    """Whether what was drawn stands on the ground: outlines of other frames lie where the ground carries
    the reference's; or, of one that was drawn once, that is where it was removed in most frames.
    """
    lead = _lead(small)
    back = np.linalg.inv(lead)
    mask = small.mask(drawn[reference])
    shares = []
    for number, other in drawn.items():
        if number == reference or not other.any():
            continue
        carried = warped(mask, lead @ np.linalg.inv(motion.matrices[number]) @ back)
        own = small.mask(other)
        whole = (carried | own).sum()
        shares.append(float((carried & own).sum() / whole) if whole else 1.0)
    if shares:
        return float(np.min(shares)) >= _STANDS
    if after is None or after.greys.shape[1:] != small.greys.shape[1:]:
        return True
    return _is_worked_there(small, mask, motion, reference, after, shown)


def _is_worked_there(
    small: Small, mask: np.ndarray, motion: Motion, reference: int, after: Small, shown: Shown
) -> bool:
    """Whether the result differs from the original, in most frames, where the ground carries the
    outline: something that walked off was removed elsewhere in them.
    """
    lead = _lead(small)
    back = np.linalg.inv(lead)
    shares = {}
    count = len(small.greys)
    looked = {int(number) for number in np.linspace(0, count - 1, min(count, _LOOKS))}
    for number in sorted(looked | {reference}):
        if number not in shown:
            continue
        carried = warped(mask, lead @ np.linalg.inv(motion.matrices[number]) @ back)
        if carried.sum() < 30:
            continue
        apart = cv2.absdiff(small.greys[number], after.greys[shown[number]])
        shares[number] = float((apart[carried] > _GREY).mean())
    own = shares.pop(reference, 0.0)
    return not shares or float(np.median(list(shares.values()))) >= _WORKED * own
