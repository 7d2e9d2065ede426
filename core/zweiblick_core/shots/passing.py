"""What passes in front of the ground, as the original shows it: where a frame departs from what the
original shows there in most frames.
"""

from __future__ import annotations

import cv2
import numpy as np

from .locked import Locked, brightness, median_over

#: What departs by fewer levels is none, whatever the noise.
_LEVELS = 9.0
#: It departs by so many times the noise, and covers so many pixels at least.
_NOISES, _LEAST = 5.0, 40
#: So much of what passes lies outside of what was removed.
_OUTSIDE = 0.15
#: What departs beside something that moves in so many of its frames goes with it.
_GOES_WITH = 0.4


def find_passing(locked: Locked) -> None:
    """Write down what something passes in front of, as `locked.covered`.

    A thing that stands is part of what is usual. One that moves is not, and what passes in front of it is
    not told apart from it: within its outline the result is looked at, which shows empty ground there.
    """
    frames = _Frames(locked)
    if locked.moves:
        locked.keep_away(3)
    else:
        locked.away[:] = locked.valid
    gains = brightness(locked)
    usual = np.nan_to_num(median_over(locked.original, locked.away, gains), nan=0.0)
    # What is as bright as the thing is seen over the fill.
    filled = np.nan_to_num(median_over(locked.result, locked.valid, gains), nan=0.0)
    noise = _noise(frames, usual)
    for number in range(len(locked)):
        frame, seen = frames.of(number), locked.valid[number]
        level = _gain(frame, usual, seen)
        over = shown = _departs(frame, level * usual, noise) & seen
        if not locked.moves:
            result = locked.result[number].astype(np.float32)
            over = over | _departs(result, level * filled, noise) & seen & locked.mask[number]
        locked.covered[number] = _passing_parts(over, locked.mask[number])
        locked.passer[number] = locked.covered[number] & shown
    if locked.moves:
        _without_its_own(locked)


def _departs(frame: np.ndarray, usual: np.ndarray, noise: float) -> np.ndarray:
    """Where a frame is not as it usually is, bool; edges may lie a part of a pixel off."""
    apart = np.abs(cv2.blur(frame - usual, (3, 3)))
    edges = 0.25 * np.abs(cv2.Laplacian(cv2.GaussianBlur(usual, (0, 0), 1.0), cv2.CV_32F))
    return np.asarray(apart > max(_LEVELS, _NOISES * noise) + edges)


def _passing_parts(over: np.ndarray, inside: np.ndarray) -> np.ndarray:
    """Connected parts that are large enough and do not lie within what was removed alone: what does is
    the thing itself, or its fill.
    """
    plain = cv2.morphologyEx(over.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    plain = cv2.morphologyEx(plain, cv2.MORPH_CLOSE, np.ones((7, 7), np.uint8))
    _, labels, stats, _ = cv2.connectedComponentsWithStats(plain, connectivity=8)
    keep = stats[:, cv2.CC_STAT_AREA] >= _LEAST
    keep[0] = False
    for one in np.flatnonzero(keep):
        part = labels == one
        if (part & ~inside).sum() < _OUTSIDE * part.sum():
            keep[one] = False
    return np.asarray(keep[labels])


def _without_its_own(locked: Locked) -> None:
    """Take out what goes with the thing, as its shadow does: what departs at the same place beside it in
    most frames.
    """
    found = locked.covered
    height, width = found.shape[1:]
    boxes = [cv2.boundingRect(one.view(np.uint8)) for one in locked.mask]
    shown = [number for number, box in enumerate(boxes) if box[2]]
    if len(shown) < 4:
        return
    about = lambda number: (
        boxes[number][0] + boxes[number][2] // 2,
        boxes[number][1] + boxes[number][3] // 2,
    )
    count = np.zeros((2 * height + 1, 2 * width + 1), np.int32)
    for number in shown:
        x, y = about(number)
        count[height - y : 2 * height - y, width - x : 2 * width - x] += found[number]
    own = cv2.dilate((count > _GOES_WITH * len(shown)).astype(np.uint8), np.ones((9, 9), np.uint8))
    for number in shown:
        x, y = about(number)
        found[number] &= own[height - y : 2 * height - y, width - x : 2 * width - x] == 0


class _Frames:
    """The frames in which what passes in front is sought, luma float32."""

    def __init__(self, locked: Locked) -> None:
        self.locked = locked

    def __len__(self) -> int:
        return len(self.locked)

    def of(self, number: int) -> np.ndarray:
        frame = self.locked.original[number].astype(np.float32)
        if self.locked.moves:
            near = _about(self.locked.mask[number])
            frame[near] = self.locked.result[number][near]
        return frame


def _about(mask: np.ndarray) -> np.ndarray:
    return np.asarray(cv2.dilate(mask.view(np.uint8), np.ones((7, 7), np.uint8)) > 0)


def _gain(frame: np.ndarray, usual: np.ndarray, seen: np.ndarray) -> float:
    """How much brighter a frame is than usual, by most of what is seen."""
    bright = seen & (usual > 16)
    if bright.sum() < 50:
        return 1.0
    return float(np.median(frame[bright][::7] / usual[bright][::7]))


def _noise(frames: _Frames, usual: np.ndarray) -> float:
    """Sigma of a blurred frame about what is usual, levels; by some frames."""
    some = np.linspace(0, len(frames) - 1, min(9, len(frames))).astype(int)
    parts = []
    for number in some:
        frame, seen = frames.of(int(number)), frames.locked.valid[number]
        if seen.sum() < 100:
            continue
        apart = np.abs(cv2.blur(frame - _gain(frame, usual, seen) * usual, (3, 3)))
        parts.append(1.4826 * np.median(apart[seen][::5]))
    return float(np.median(parts)) if parts else 1.0
