"""One region on its way through the check of a shot."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from ..io import eight_bit
from ..regions import outline
from .carrying import Outlines
from .following import Small, followed, outlines_of
from .frames import Shot
from .ground import Motion
from .locked import Box, Locked, box_around
from .report import Carried


@dataclass
class Part:
    """A region of a shot.

    Attributes:
        name: the region's id. motion: of the ground about it. moves: whether it moves over that.
        outlines: what was removed, by frame, in small. small: the original in small.
        box: its window. bbox: x, y, width, height in the reference frame.
        locked: its ground-locked frames, once they are read.
    """

    name: str
    motion: Motion
    moves: bool
    outlines: Outlines
    small: Small
    box: Box
    bbox: list[float]
    locked: Locked

    @classmethod
    def of(
        cls,
        name: str,
        masks: Mapping[int, np.ndarray],
        shot: Shot,
        smalls: tuple[Small, Small | None],
        shown: Mapping[int, int],
    ) -> Part:
        """Follow what was drawn (bool masks by frame) through a shot.

        Args:
            smalls: the original in small, and the result, if it has the same frame. shown: the
                result's frame that shows each of the original's.
        """
        small, after = smalls
        motion, moves = followed(small, masks, after, shown)
        outlines = outlines_of(small, masks, motion, moves)
        frames = [_carried((0, 0, shot.width, shot.height), one) for one in motion.matrices]
        boxes = [
            _carried(cv2.boundingRect(one.view(np.uint8)), motion.matrices[number], small.scale)
            for number, one in outlines.items()
            if one.any()
        ]
        box = box_around(boxes, _around(frames))
        reference = cv2.boundingRect(outlines[motion.reference].view(np.uint8))
        locked = Locked.empty(box, float(shot.rate), shot.count)
        locked.moves = moves
        return cls(
            name,
            motion,
            moves,
            outlines,
            small,
            box,
            [round(value / small.scale, 1) for value in reference],
            locked,
        )

    def mask(self, number: int, shape: tuple[int, int]) -> np.ndarray:
        """What was removed in one frame, bool, in the frame's own size (height, width)."""
        small = self.outlines[number].astype(np.uint8) * np.uint8(255)
        return np.asarray(cv2.resize(small, shape[::-1], interpolation=cv2.INTER_LINEAR) > 127)

    def bbox_in(self, number: int) -> list[float]:
        """Its box in one frame."""
        box = cv2.boundingRect(self.outlines[number].view(np.uint8))
        return [round(value / self.small.scale, 1) for value in box]

    def carried(self) -> Carried:
        """Where it is in every frame."""
        scale = self.small.scale
        rings = [
            outline(self.outlines[number], tolerance=0.5) if number in self.outlines else []
            for number in range(len(self.motion.matrices))
        ]
        return Carried(
            self.motion.reference,
            [[float(f"{value:.8g}") for value in one.ravel()] for one in self.motion.matrices],
            [
                [[[round(x / scale, 1), round(y / scale, 1)] for x, y in ring] for ring in of_frame]
                for of_frame in rings
            ],
        )

    def is_clear(self, number: int) -> bool:
        """Whether nothing passes in front of it or beside it in a frame, and it is seen there."""
        mask = self.locked.mask[number]
        if not mask.any():
            return False
        near = cv2.dilate(mask.view(np.uint8), np.ones((61, 61), np.uint8)) > 0
        return not (near & self.locked.covered[number]).any()

    def put(self, number: int, before: np.ndarray, after: np.ndarray) -> None:
        """Write one frame's window, from no more of the frame than it shows."""
        height, width = before.shape[:2]
        matrix = self.motion.matrices[number]
        box = self.box
        to_frame = np.linalg.inv(box.matrix @ matrix)
        there = _carried((0, 0, box.width, box.height), to_frame)
        left, top = (max(0, int(np.floor(value)) - 4) for value in there[:2])
        right = min(width, int(np.ceil(there[2])) + 4)
        bottom = min(height, int(np.ceil(there[3])) + 4)
        if right <= left or bottom <= top:
            self.locked.valid[number] = False
            return
        crop = np.s_[top:bottom, left:right]
        shift = np.array([[1, 0, left], [0, 1, top], [0, 0, 1]], float)
        luma = lambda pixels: cv2.cvtColor(
            np.ascontiguousarray(eight_bit(pixels[crop])), cv2.COLOR_RGB2GRAY
        )
        self.locked.put(
            number,
            luma(before),
            luma(after),
            self.mask(number, (height, width))[crop],
            matrix @ shift,
        )


Bounds = tuple[float, float, float, float]


def _carried(box: Sequence[float], matrix: np.ndarray, scale: float = 1.0) -> Bounds:
    """Left, top, right, bottom of a box (x, y, width, height; divided by `scale` first) that was moved
    by a homography.
    """
    x, y, w, h = box
    corners = np.array([[[x, y]], [[x + w, y]], [[x, y + h]], [[x + w, y + h]]], float) / scale
    there = cv2.perspectiveTransform(corners, matrix)[:, 0]
    (left, top), (right, bottom) = there.min(axis=0), there.max(axis=0)
    return float(left), float(top), float(right), float(bottom)


def _around(boxes: Sequence[Bounds]) -> Bounds:
    """What holds all of them."""
    left, top, right, bottom = zip(*boxes, strict=True)
    return min(left), min(top), max(right), max(bottom)
