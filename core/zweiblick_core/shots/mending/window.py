"""A region's surroundings in colour and at full size, the ground held still."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np

from ..locked import Box
from ..part import Part

#: So far around what is removed is looked at, parts of its longer side and pixels: what no frame shows is
#: copied from there.
_AROUND, _AT_LEAST = 1.6, 40
#: So many frames, evenly over the shot, tell what the ground looks like.
FRAMES = 64
#: What lies so near to what was removed, or to what passes in front, shows something of it, pixels.
_NEAR = 4


def window_of(part: Part) -> Box:
    """Where a region is in any frame, and what lies about it, in pixels of the reference frame."""
    mask = np.zeros(part.locked.mask.shape[1:], np.uint8)
    longest = 1
    for one in part.locked.mask:
        mask |= one.view(np.uint8)
        longest = max(longest, *cv2.boundingRect(one.view(np.uint8))[2:])
    box = part.box
    x, y, w, h = cv2.boundingRect(mask)
    margin = int(_AROUND * longest + _AT_LEAST * box.scale)
    left, top = max(0, x - margin), max(0, y - margin)
    right, bottom = min(box.width, x + w + margin), min(box.height, y + h + margin)
    return Box(
        box.left + np.floor(left / box.scale),
        box.top + np.floor(top / box.scale),
        max(1, int(np.ceil((right - left) / box.scale))),
        max(1, int(np.ceil((bottom - top) / box.scale))),
        1.0,
    )


@dataclass
class Window:
    """Some frames of a region's window, mapped from a file.

    Attributes:
        part, box: whose it is, where it lies. numbers: the frames that are kept.
        frames: uint8 or uint16 (frames, height, width, 3). mask: what was removed there, bool.
        seen: bool, where a frame shows ground: not what was removed, nor what passes in front.
        clear: bool, where nothing passes in front, whether something was removed there or not.
    """

    part: Part
    box: Box
    numbers: list[int]
    frames: np.ndarray
    mask: np.ndarray
    seen: np.ndarray
    clear: np.ndarray
    _folder: tempfile.TemporaryDirectory[str] = field(repr=False)

    @classmethod
    def of(cls, part: Part, dtype: np.dtype[np.generic]) -> Window:
        """Empty; frames are written by `put`."""
        folder = tempfile.TemporaryDirectory(prefix="zweiblick-window-")
        box = window_of(part)
        count = len(part.locked)
        numbers = sorted({int(at) for at in np.linspace(0, count - 1, min(FRAMES, count))})
        shape = (len(numbers), box.height, box.width)

        def mapped(name: str, kind: np.dtype[np.generic], *more: int) -> np.ndarray:
            place = Path(folder.name) / f"{name}.npy"
            return np.asarray(
                np.lib.format.open_memmap(place, mode="w+", dtype=kind, shape=(*shape, *more))
            )

        mask, seen, clear = (mapped(name, np.dtype(bool)) for name in ("mask", "seen", "clear"))
        return cls(part, box, numbers, mapped("frames", dtype, 3), mask, seen, clear, folder)

    def put(self, number: int, pixels: np.ndarray) -> None:
        """Write one of the original's frames, if it is one of those that are kept."""
        if number not in self.numbers:
            return
        at = self.numbers.index(number)
        self.frames[at] = self.of_frame(pixels, number, cv2.INTER_CUBIC)
        self.mask[at] = self.of_frame(self.mask_in(number, pixels.shape[:2]), number) > 127
        valid = self.of_frame(np.full(pixels.shape[:2], 255, np.uint8), number) > 254
        self.clear[at] = valid & ~_grown(self.covered(number), _NEAR)
        self.seen[at] = self.clear[at] & ~_grown(self.mask[at], _NEAR)

    def of_frame(self, plane: np.ndarray, number: int, flags: int = cv2.INTER_LINEAR) -> np.ndarray:
        """A plane of one frame, held still in the window."""
        return self.box.warped(plane, self.part.motion.matrices[number], flags)

    def mask_in(self, number: int, shape: tuple[int, ...]) -> np.ndarray:
        """What was removed in a frame, uint8 0 or 255, of the frame's own (height, width)."""
        return self.part.mask(number, (shape[0], shape[1])).astype(np.uint8) * np.uint8(255)

    def covered(self, number: int) -> np.ndarray:
        """What something passes in front of, bool, in the window."""
        step = self.box.matrix @ np.linalg.inv(self.part.box.matrix)
        plane = self.part.locked.covered[number].astype(np.uint8) * np.uint8(255)
        size = (self.box.width, self.box.height)
        return np.asarray(cv2.warpPerspective(plane, step, size, flags=cv2.INTER_LINEAR) > 127)

    def ever(self) -> np.ndarray:
        """What was removed in any frame of the shot, bool, in the window."""
        whole = np.zeros((self.box.height, self.box.width), bool)
        step = self.box.matrix @ np.linalg.inv(self.part.box.matrix)
        plane = self.part.locked.ever().astype(np.uint8) * np.uint8(255)
        whole |= cv2.warpPerspective(plane, step, whole.shape[::-1], flags=cv2.INTER_LINEAR) > 127
        return whole

    def close(self) -> None:
        """Remove its files."""
        nothing = np.zeros((0, 1, 1), bool)
        self.frames = self.mask = self.seen = self.clear = nothing
        self._folder.cleanup()


def _grown(mask: np.ndarray, by: int) -> np.ndarray:
    kernel = np.ones((2 * by + 1,) * 2, np.uint8)
    return np.asarray(cv2.dilate(mask.astype(np.uint8), kernel) > 0)
