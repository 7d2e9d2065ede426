"""How the ground about a region moves through a shot, as the camera sees it.

Corners of the surroundings are followed from frame to frame (Lucas and Kanade 1981; Bouguet 2001) and
against one reference frame, so that no error adds up; a homography is fitted to them without those that
move otherwise, as what passes in front does (Fischler and Bolles 1981).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

#: Corners that are followed at most, and the fewest that a homography or a similarity is fitted to.
_CORNERS, _FOR_HOMOGRAPHY, _FOR_SIMILARITY = 400, 40, 8
#: Light is evened out over so many pixels, structure of fewer levels than this left as it is.
_EVENED, _PLAIN = 25, 3.0
#: How far from the model a corner may lie, pixels.
_NEAR = 1.0
#: How far from its place a corner may end that is followed there and back, pixels.
_COMES_BACK = 0.4
_TRACKED, _LEVELS = (17, 17), 4
_UNTIL = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 20, 0.01)


@dataclass(frozen=True)
class Motion:
    """Of the ground about a region, for each frame.

    Attributes:
        matrices: float (frames, 3, 3), from a frame's pixels to the reference frame's.
        sure: bool (frames,), whether the frame was matched by enough corners; where not, its motion
            is carried on from its neighbour.
        reference: the frame whose pixels the ground is described in.
    """

    matrices: np.ndarray
    sure: np.ndarray
    reference: int

    @property
    def speed(self) -> np.ndarray:
        """Pixels that the ground moved since the frame before, at the frame's origin; float
        (frames,), the first as the second.
        """
        corners = np.linalg.inv(self.matrices) @ np.array([0.0, 0.0, 1.0])
        places = corners[:, :2] / corners[:, 2:]
        moved = np.hypot(*np.diff(places, axis=0).T)
        return np.concatenate([moved[:1], moved]) if len(moved) else np.zeros(len(places))


class Follower:
    """Follows the ground from one frame to the next, beginning with the reference frame."""

    def __init__(self, grey: np.ndarray, surroundings: np.ndarray) -> None:
        """Args: grey: uint8 (height, width), the reference frame. surroundings: bool, where its
        ground is looked at: no part of what is removed.
        """
        self.reference = _evened(grey)
        found = cv2.goodFeaturesToTrack(
            self.reference, _CORNERS, 0.004, 5, mask=surroundings.astype(np.uint8), blockSize=5
        )
        self.corners = np.zeros((0, 1, 2), np.float32) if found is None else found
        #: From the reference to the frame that was seen last.
        self.matrix = np.eye(3)
        self.last = self.reference

    def follow(self, grey: np.ndarray) -> tuple[np.ndarray, bool]:
        """The matrix from this frame's pixels to the reference's, and whether enough was seen.

        Args:
            grey: uint8 (height, width); a neighbour in time of the one before.
        """
        if len(self.corners) < _FOR_SIMILARITY:
            return np.linalg.inv(self.matrix), False
        grey = _evened(grey)
        step = self._fitted(self.last, grey, self._predicted(), None)
        if step is not None:
            self.matrix = step @ self.matrix
        # Against the reference itself, from where they should be by now.
        exact = self._fitted(self.reference, grey, self.corners, self._predicted())
        self.last = grey
        if exact is not None:
            self.matrix = exact
        return np.linalg.inv(self.matrix), exact is not None or step is not None

    def _predicted(self) -> np.ndarray:
        found: np.ndarray = cv2.perspectiveTransform(self.corners, self.matrix)
        return found.astype(np.float32)

    def _fitted(
        self, first: np.ndarray, second: np.ndarray, corners: np.ndarray, guess: np.ndarray | None
    ) -> np.ndarray | None:
        height, width = second.shape
        inside = (
            (corners[:, 0, 0] > 2)
            & (corners[:, 0, 0] < width - 3)
            & (corners[:, 0, 1] > 2)
            & (corners[:, 0, 1] < height - 3)
        )
        if guess is not None:
            inside &= (
                (guess[:, 0, 0] > 2)
                & (guess[:, 0, 0] < width - 3)
                & (guess[:, 0, 1] > 2)
                & (guess[:, 0, 1] < height - 3)
            )
        if inside.sum() < _FOR_SIMILARITY:
            return None
        before = np.ascontiguousarray(corners[inside])
        start = before.copy() if guess is None else np.ascontiguousarray(guess[inside])
        flags = 0 if guess is None else cv2.OPTFLOW_USE_INITIAL_FLOW
        after, seen, _ = cv2.calcOpticalFlowPyrLK(
            first,
            second,
            before,
            start,
            winSize=_TRACKED,
            maxLevel=_LEVELS,
            criteria=_UNTIL,
            flags=flags,
        )
        # Whoever does not come back was covered on the way, or slid along an edge.
        again, back, _ = cv2.calcOpticalFlowPyrLK(
            second,
            first,
            after,
            before.copy(),
            winSize=_TRACKED,
            maxLevel=_LEVELS,
            criteria=_UNTIL,
            flags=cv2.OPTFLOW_USE_INITIAL_FLOW,
        )
        off = np.hypot(*(again - before)[:, 0].T)
        kept = (seen.ravel() == 1) & (back.ravel() == 1) & (off < _COMES_BACK)
        return fitted(before[kept, 0], after[kept, 0])


def _evened(grey: np.ndarray) -> np.ndarray:
    """A frame without its light, uint8: what is followed is taken to keep its brightness, and light that
    changes would be taken for motion.
    """
    plane = grey.astype(np.float32)
    plane -= cv2.blur(plane, (_EVENED, _EVENED))
    spread = cv2.blur(np.abs(plane), (2 * _EVENED + 1, 2 * _EVENED + 1)) + _PLAIN
    return np.asarray(np.clip(128 + 40 * plane / spread, 0, 255).astype(np.uint8))


def fitted(before: np.ndarray, after: np.ndarray) -> np.ndarray | None:
    """The homography that leads points (n, 2) to where they are after, without those that move
    otherwise; a similarity where there are few. None: too few agree.
    """
    if len(before) < _FOR_SIMILARITY:
        return None
    if len(before) >= _FOR_HOMOGRAPHY:
        matrix, kept = cv2.findHomography(before, after, cv2.USAC_MAGSAC, _NEAR, maxIters=2000)
        if matrix is not None and kept.sum() >= max(_FOR_HOMOGRAPHY / 2, 0.3 * len(before)):
            return np.asarray(matrix, float)
    similar, kept = cv2.estimateAffinePartial2D(
        before, after, method=cv2.RANSAC, ransacReprojThreshold=_NEAR
    )
    if similar is None or kept.sum() < max(_FOR_SIMILARITY / 2, 0.3 * len(before)):
        return None
    return np.vstack([similar, [0, 0, 1]])
