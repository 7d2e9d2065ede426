"""Outlines that are drawn in some frames, carried through all of them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, MutableMapping

import cv2
import numpy as np

from .ground import fitted

#: Corners of a thing that are followed at most.
_CORNERS = 200


class Outlines(MutableMapping[int, np.ndarray]):
    """Bool masks (height, width) by frame, of which no more is kept than what they mark: a long shot has
    many.
    """

    def __init__(self, masks: Mapping[int, np.ndarray] | None = None) -> None:
        self._kept: dict[int, tuple[tuple[int, int], tuple[int, int], np.ndarray]] = {}
        self.update(masks or {})

    def __getitem__(self, number: int) -> np.ndarray:
        shape, (top, left), part = self._kept[number]
        whole = np.zeros(shape, bool)
        whole[top : top + part.shape[0], left : left + part.shape[1]] = part
        return whole

    def __setitem__(self, number: int, mask: np.ndarray) -> None:
        x, y, w, h = cv2.boundingRect(np.ascontiguousarray(mask).view(np.uint8))
        shape = (int(mask.shape[0]), int(mask.shape[1]))
        self._kept[number] = (shape, (y, x), mask[y : y + h, x : x + w].copy())

    def __delitem__(self, number: int) -> None:
        del self._kept[number]

    def __iter__(self) -> Iterator[int]:
        return iter(self._kept)

    def __len__(self) -> int:
        return len(self._kept)


def nearest(drawn: Mapping[int, np.ndarray], number: int) -> int:
    """The frame nearest in time, of those in which something was drawn; the earlier of two."""
    return min(drawn, key=lambda one: (abs(one - number), one))


def warped(mask: np.ndarray, matrix: np.ndarray) -> np.ndarray:
    """A bool mask moved by a homography, in the same frame."""
    height, width = mask.shape
    moved = cv2.warpPerspective(
        mask.astype(np.uint8) * np.uint8(255), matrix, (width, height), flags=cv2.INTER_LINEAR
    )
    return np.asarray(moved > 127)


class ThingFollower:
    """Carries an outline with the thing itself, which moves over the ground: corners inside it are
    followed from frame to frame (Lucas and Kanade 1981).
    """

    def __init__(self, grey: np.ndarray, mask: np.ndarray) -> None:
        """Args: grey: uint8 (height, width) of the frame where it was drawn; mask: bool."""
        self.grey, self.mask = grey, mask

    def follow(self, grey: np.ndarray) -> np.ndarray:
        """The outline in the next frame, bool (height, width)."""
        step = self._step(grey)
        if step is not None:
            self.mask = warped(self.mask, step)
        self.grey = grey
        return self.mask

    def _step(self, grey: np.ndarray) -> np.ndarray | None:
        corners = cv2.goodFeaturesToTrack(
            self.grey, _CORNERS, 0.01, 3, mask=self.mask.astype(np.uint8)
        )
        if corners is None:
            return None
        after, seen, _ = cv2.calcOpticalFlowPyrLK(
            self.grey, grey, corners, corners.copy(), winSize=(15, 15), maxLevel=4
        )
        kept = seen.ravel() == 1
        if kept.sum() < 3:
            return None
        if kept.sum() < 8:
            shift = np.eye(3)
            shift[:2, 2] = np.median((after - corners)[kept, 0], axis=0)
            return shift
        return fitted(corners[kept, 0], after[kept, 0])
