"""A region's surroundings with the ground held still: both shots, brought to one reference frame.

What is kept lies in files of its own, mapped into memory, which the system takes back where it is short.
"""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np

#: How far around what was removed is looked, parts of its longer side and pixels.
_AROUND, _AT_LEAST = 1.6, 40
#: A window is reduced until its longer side has no more pixels than this.
LONGEST = 640


@dataclass(frozen=True)
class Box:
    """A part of the reference frame, at a scale.

    Attributes:
        left, top: its corner, pixels of the reference frame; may lie beyond the frame.
        width, height: pixels of the window. scale: pixels of the window for one of the frame.
    """

    left: float
    top: float
    width: int
    height: int
    scale: float

    @property
    def matrix(self) -> np.ndarray:
        """From the reference frame's pixels to the window's, float (3, 3)."""
        s = self.scale
        return np.array([[s, 0, -s * self.left], [0, s, -s * self.top], [0, 0, 1]])

    def warped(self, plane: np.ndarray, matrix: np.ndarray, flags: int) -> np.ndarray:
        """A frame's plane in the window; `matrix` leads from the frame to the reference."""
        return np.asarray(
            cv2.warpPerspective(plane, self.matrix @ matrix, (self.width, self.height), flags=flags)
        )


def box_around(boxes: list[tuple[float, float, float, float]], seen: tuple[float, ...]) -> Box:
    """A window about what was removed.

    Args:
        boxes: left, top, right, bottom of it in each frame, pixels of the reference frame.
        seen: left, top, right, bottom of all that any frame shows there.
    """
    left, top = (min(box[i] for box in boxes) for i in (0, 1))
    right, bottom = (max(box[i] for box in boxes) for i in (2, 3))
    one = max(max(box[2] - box[0], box[3] - box[1]) for box in boxes)
    margin = _AROUND * one + _AT_LEAST
    left, top = max(seen[0], left - margin), max(seen[1], top - margin)
    right, bottom = min(seen[2], right + margin), min(seen[3], bottom + margin)
    longest = max(right - left, bottom - top, 1.0)
    scale = min(1.0, LONGEST / longest)
    return Box(
        float(np.floor(left)),
        float(np.floor(top)),
        max(16, int(np.ceil((right - left) * scale))),
        max(16, int(np.ceil((bottom - top) * scale))),
        scale,
    )


@dataclass
class Locked:
    """One region through a shot, the ground held still.

    Attributes:
        box: where it lies. rate: frames a second.
        original, result: luma, float16 (frames, height, width), 0..255.
        mask: bool, what was removed. valid: bool, what both frames show. covered: bool, what something
            passes in front of, once it is known; passer: what of that the original shows.
        away: bool, where ground is seen away from what was removed.
        moves: whether what was removed moves over the ground.
    """

    box: Box
    rate: float
    original: np.ndarray
    result: np.ndarray
    mask: np.ndarray
    valid: np.ndarray
    covered: np.ndarray
    passer: np.ndarray
    away: np.ndarray
    moves: bool = False
    _folder: tempfile.TemporaryDirectory[str] | None = field(default=None, repr=False)

    @classmethod
    def empty(cls, box: Box, rate: float, frames: int) -> Locked:
        """Of so many frames, to be written one after another by `put`."""
        folder = tempfile.TemporaryDirectory(prefix="zweiblick-shot-")
        shape = (frames, box.height, box.width)
        # As plain arrays: what numpy does for each access of a mapped one takes longer than the access.
        mapped = lambda name, kind: np.asarray(
            np.lib.format.open_memmap(
                Path(folder.name) / f"{name}.npy", mode="w+", dtype=kind, shape=shape
            )
        )
        return cls(
            box,
            rate,
            mapped("original", np.float16),
            mapped("result", np.float16),
            mapped("mask", bool),
            mapped("valid", bool),
            mapped("covered", bool),
            mapped("passer", bool),
            mapped("away", bool),
            _folder=folder,
        )

    def __len__(self) -> int:
        return len(self.original)

    def put(
        self,
        number: int,
        original: np.ndarray,
        result: np.ndarray,
        mask: np.ndarray,
        matrix: np.ndarray,
    ) -> None:
        """Write one frame.

        Args:
            original, result: luma, float32 (height, width) of the frame. mask: bool, of the frame.
            matrix: from the frame to the reference.
        """
        self.original[number] = self.box.warped(original, matrix, cv2.INTER_CUBIC)
        self.result[number] = self.box.warped(result, matrix, cv2.INTER_CUBIC)
        whole = np.full(original.shape, 255, np.uint8)
        self.valid[number] = self.box.warped(whole, matrix, cv2.INTER_LINEAR) > 254
        self.mask[number] = (
            self.box.warped(mask.astype(np.uint8) * np.uint8(255), matrix, cv2.INTER_LINEAR) > 127
        )

    def keep_away(self, by: int) -> None:
        """Say where ground is seen so many pixels away from what was removed, and not covered."""
        kernel = np.ones((2 * by + 1,) * 2, np.uint8)
        for number, one in enumerate(self.mask):
            near = cv2.dilate(one.view(np.uint8), kernel) > 0
            self.away[number] = self.valid[number] & ~near & ~self.covered[number]

    def ever(self) -> np.ndarray:
        """What is removed in any frame, bool (height, width)."""
        whole = np.zeros(self.mask.shape[1:], bool)
        for one in self.mask:
            whole |= one
        return whole

    def mostly_seen(self, least: float = 0.6) -> np.ndarray:
        """What is seen in that share of the frames at least, bool (height, width)."""
        count = np.zeros(self.valid.shape[1:], np.int32)
        for one in self.valid:
            count += one
        return count >= least * len(self)

    def close(self) -> None:
        """Remove its files."""
        nothing = np.zeros((0, 1, 1), bool)
        self.original = self.result = self.mask = nothing
        self.valid = self.covered = self.passer = self.away = nothing
        if self._folder is not None:
            self._folder.cleanup()
            self._folder = None


def median_over(
    stack: np.ndarray, use: np.ndarray | None = None, gains: np.ndarray | None = None
) -> np.ndarray:
    """The median over frames of a stack (frames, height, width), float32 (height, width), by rows so
    that little of it is in memory at a time; NaN where nothing may be used.

    Args:
        use: bool of the same shape, or None: everything. gains: float (frames,) that each frame is
            divided by, or None.
    """
    _, height, width = stack.shape
    found = np.empty((height, width), np.float32)
    rows = max(1, 4_000_000 // max(1, stack.shape[0] * width))
    for top in range(0, height, rows):
        part = stack[:, top : top + rows].astype(np.float32)
        if gains is not None:
            part /= gains.astype(np.float32)[:, None, None]
        if use is not None:
            part[~use[:, top : top + rows]] = np.inf
        # Sorted, what may not be used stands last.
        part.sort(axis=0)
        known = np.isfinite(part).sum(axis=0)
        low = np.take_along_axis(part, np.maximum(known - 1, 0)[None] // 2, axis=0)[0]
        high = np.take_along_axis(part, np.minimum(known // 2, len(part) - 1)[None], axis=0)[0]
        with np.errstate(invalid="ignore"):
            found[top : top + rows] = np.where(known > 0, (low + high) / 2, np.nan)
    return found


def brightness(locked: Locked) -> np.ndarray:
    """How bright each frame of the original is beside the others, float (frames,), about 1; by the
    ground away from what was removed.
    """
    away = locked.away
    gains = np.ones(len(locked))
    for _ in range(3):
        usual = median_over(locked.original, away, gains)
        bright = np.nan_to_num(usual, nan=0.0) > 16
        for number in range(len(locked)):
            seen = away[number] & bright
            if seen.sum() > 100:
                frame = locked.original[number][seen].astype(np.float32)
                gains[number] = float(np.median(frame / usual[seen]))
    return gains / float(np.median(gains))
