"""Copies that were turned, made larger or smaller, or mirrored and turned, before they were laid in.

Features (ORB, Rublee and others 2011) of the fill are matched with those of everything around it and with each other, and a similarity that many matches share is sought
by random sampling (as for copies since Amerini and others 2011). That proposes; what decides is the grain again: the source is brought onto the fill, brought into register to a
fraction of a pixel, and their fine detail compared. The null is the same search for the same outline laid over untouched parts.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from ..windows import Window

#: Features sought in the whole window and in an area, at most; matches that a similarity needs.
EVERYWHERE, IN_AREA, FEWEST = 4000, 600, 8
#: How much larger or smaller a source may be.
SCALES = (0.5, 2.0)
#: A source nearer than this is the place itself, pixels.
LEAST_MOVED = 20.0


@dataclass(frozen=True)
class Similar:
    """A similarity that lays an area onto its source. `matrix`: (2, 3), window pixels, area to source; `agreement`: of fine detail, -1..1; `scale`: of the copy against its
    source; `degrees`: how the copy was turned; `area`: bool, the pixels that agree; `matches`: how many features said so."""

    matrix: np.ndarray
    agreement: float
    scale: float
    degrees: float
    mirrored: bool
    area: np.ndarray
    matches: int

    def source_of(self, area: np.ndarray) -> tuple[int, int]:
        """(x, y) of the middle of an area's source."""
        ys, xs = np.nonzero(area)
        x, y = self.matrix @ np.array([xs.mean(), ys.mean(), 1.0])
        return int(np.clip(x, 0, area.shape[1] - 1)), int(np.clip(y, 0, area.shape[0] - 1))


@dataclass(frozen=True)
class Features:
    points: np.ndarray
    words: np.ndarray


class Searcher:
    """Features of one window, found once."""

    def __init__(self, window: Window, high_pass: Callable[[np.ndarray], np.ndarray], steepness: Callable[[np.ndarray], np.ndarray]) -> None:
        self.luma, self.high_pass, self.steepness = window.luma_result, high_pass, steepness
        # Grain is no feature: half the size, and contrast that stands above it.
        self.half = np.clip(cv2.resize(self.luma, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), 0, 255).astype(np.uint8)
        self.everywhere = self._found(self.half, None, EVERYWHERE)

    def _found(self, plane: np.ndarray, mask: np.ndarray | None, most: int) -> Features:
        orb = cv2.ORB.create(nfeatures=most, scaleFactor=1.25, nlevels=4, edgeThreshold=12, patchSize=25, fastThreshold=5)
        keys, words = orb.detectAndCompute(plane, mask)
        if words is None:
            return Features(np.empty((0, 2), np.float32), np.empty((0, 32), np.uint8))
        return Features(np.array([key.pt for key in keys], np.float32).reshape(-1, 2), words)

    def _followed(self, here: np.ndarray, hull: np.ndarray, warp: np.ndarray, size: tuple[int, int]) -> np.ndarray:
        """Features lie on pixels of half the size, coarse ones farther off: corners of the area are followed into the source brought onto it (Lucas and Kanade 1981), twice."""
        grey = lambda plane: np.clip(plane, 0, 255).astype(np.uint8)
        corners = cv2.goodFeaturesToTrack(grey(here), 150, 0.01, 6, mask=hull)
        if corners is None or len(corners) < FEWEST:
            return warp
        for _ in range(2):
            there = cv2.warpAffine(self.luma, warp, size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE)
            moved, seen, _ = cv2.calcOpticalFlowPyrLK(grey(here), grey(there), corners, None, winSize=(21, 21), maxLevel=3)  # type: ignore[call-overload]
            good = seen.ravel() > 0
            if good.sum() < FEWEST:
                break
            source = moved[good, 0] @ warp[:, :2].T + warp[:, 2]
            matrix, agreed = cv2.estimateAffine2D(corners[good, 0], source.astype(np.float32), method=cv2.RANSAC, ransacReprojThreshold=1.5)
            if matrix is None or int(agreed.sum()) < max(FEWEST, 0.25 * good.sum()):
                break
            # A copy is not sheared: what turns into something else was led astray.
            if abs(np.log(abs(np.linalg.det(matrix[:, :2])) / abs(np.linalg.det(warp[:, :2])))) > 0.35:
                break
            warp = matrix.astype(np.float32)
        return warp

    def best(self, area: np.ndarray) -> Similar | None:
        """The similarity that lays an area (bool, window) onto another place with the most agreement; None where no features share one."""
        x, y, w, h = cv2.boundingRect(area.view(np.uint8))
        top, left = max(0, y // 2 - 14), max(0, x // 2 - 14)
        crop = (slice(top, (y + h) // 2 + 15), slice(left, (x + w) // 2 + 15))
        part = self.half[crop]
        inside = cv2.resize(area.view(np.uint8), self.half.shape[::-1], interpolation=cv2.INTER_NEAREST)[crop]
        found: list[Similar] = []
        for mirrored in (False, True):
            plane, mask = (np.ascontiguousarray(part[:, ::-1]), np.ascontiguousarray(inside[:, ::-1])) if mirrored else (part, inside)
            mine = self._found(plane, mask, IN_AREA)
            if len(mine.points) < FEWEST or len(self.everywhere.points) < 30:
                continue
            at = mine.points.copy()
            if mirrored:
                at[:, 0] = part.shape[1] - 1 - at[:, 0]
            at = (at + np.array([left, top], np.float32)) * 2
            one = self._similarity(mine, at, mirrored, area)
            if one is not None:
                found.append(one)
        return max(found, key=lambda one: one.agreement, default=None)

    def _similarity(self, mine: Features, at: np.ndarray, mirrored: bool, area: np.ndarray) -> Similar | None:
        there = self.everywhere.points * 2
        # Several candidates each: at its own place a feature finds itself, and repetition has many places.
        candidates = cv2.BFMatcher(cv2.NORM_HAMMING).knnMatch(mine.words, self.everywhere.words, k=4)
        pairs = [(m.queryIdx, m.trainIdx) for some in candidates for m in some if m.distance < 64 and np.hypot(*(at[m.queryIdx] - there[m.trainIdx])) > 30]
        if len(pairs) < FEWEST:
            return None
        source = np.array([at[i] for i, _ in pairs], np.float32)
        target = np.array([there[j] for _, j in pairs], np.float32)
        # A mirrored copy is a turned one of the mirrored window.
        flip = np.array([[-1.0, 0, 0], [0, 1, 0]]) if mirrored else np.array([[1.0, 0, 0], [0, 1, 0]])
        cv2.setRNGSeed(20268)
        matrix, agreed = cv2.estimateAffinePartial2D(source @ flip[:, :2].T.astype(np.float32), target, method=cv2.RANSAC, ransacReprojThreshold=3.5, maxIters=2000)
        if matrix is None or int(agreed.sum()) < FEWEST:
            return None
        scale = float(np.hypot(matrix[0, 0], matrix[1, 0]))
        if not SCALES[0] < scale < SCALES[1] or len(np.unique(source[agreed.ravel() > 0].round(), axis=0)) < FEWEST - 2:
            return None
        whole = matrix @ np.vstack([flip, [0, 0, 1]])
        return self.verified(whole, mirrored, area, source[agreed.ravel() > 0])

    def verified(self, matrix: np.ndarray, mirrored: bool, area: np.ndarray, seen: np.ndarray) -> Similar | None:
        """Bring the source onto the area and compare their fine detail where something agreed.

        Args:
            matrix: (2, 3), window pixels, area to source, roughly. seen: (n, 2) points of the area that said so.
        """
        x0, y0 = np.maximum(seen.min(axis=0).astype(int) - 20, 0)
        x1, y1 = seen.max(axis=0).astype(int) + 20
        if x1 - x0 < 40 or y1 - y0 < 40:
            x0, y0, x1, y1 = x0 - 12, y0 - 12, x1 + 12, y1 + 12
        x0, y0, x1, y1 = max(0, x0), max(0, y0), min(area.shape[1], x1), min(area.shape[0], y1)
        here = np.ascontiguousarray(self.luma[y0:y1, x0:x1])
        local = matrix.copy()
        local[:, 2] += matrix[:, :2] @ np.array([x0, y0], float)
        warp = local.astype(np.float32)
        # Compared is only where features agreed: what lies beside the copy would pull it aside.
        hull = np.zeros(here.shape, np.uint8)
        cv2.fillConvexPoly(hull, cv2.convexHull((seen - np.array([x0, y0])).astype(np.int32))[:, 0], 1)
        hull = cv2.dilate(hull, np.ones((17, 17), np.uint8)) & area[y0:y1, x0:x1].view(np.uint8)
        size = (x1 - x0, y1 - y0)
        warp = self._followed(here, hull, warp, size)
        mask = cv2.warpAffine(hull, warp, self.luma.shape[::-1], flags=cv2.INTER_NEAREST)
        try:
            stop = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 30, 1e-4)
            refined = cv2.findTransformECC(_calm(here), _calm(self.luma), warp.copy(), cv2.MOTION_AFFINE, stop, mask)[1]  # type: ignore[call-overload]
            warp = np.asarray(refined, np.float32)
        except cv2.error:
            pass  # no likeness to climb: what is known stands
        there = cv2.warpAffine(self.luma, warp, size, flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE)
        sees = cv2.warpAffine(np.ones(self.luma.shape, np.uint8), warp, size, flags=cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP)
        # What was interpolated lost its finest octave: compared is what both still have.
        fine, other = self.high_pass(cv2.GaussianBlur(here, (0, 0), 0.7)), self.high_pass(cv2.GaussianBlur(there, (0, 0), 0.7))
        inside = area[y0:y1, x0:x1] & (sees > 0)
        if inside.sum() < 300:
            return None
        box = (21, 21)
        power = cv2.blur(fine * fine + other * other, box) + 1e-3
        local_agreement = cv2.blur(2 * fine * other, box) / power
        agree = (local_agreement > 0.3) & inside
        # Structure may be alike by nature (courses of bricks): judged is the finest detail, evened out, over all of it and over what agreed in coarser detail.
        grain = [luma - cv2.GaussianBlur(luma, (0, 0), 1.0) for luma in (here, there)]
        grain = [plane / np.sqrt(cv2.GaussianBlur(plane * plane, (0, 0), 4.0) + 0.05) for plane in grain]
        parts = [inside] + ([agree] if agree.sum() > max(400, 0.15 * inside.sum()) else [])
        slope = np.maximum(self.steepness(here), self.steepness(there))
        # Edges agree wherever they are regular; grain only in a copy. So it is sought where neither has structure.
        flats = [part & (slope <= np.quantile(slope[part], 0.4)) for part in parts]
        value = max(float((grain[0][flat] * grain[1][flat]).mean() / np.sqrt((grain[0][flat] ** 2).mean() * (grain[1][flat] ** 2).mean() + 1e-9)) for flat in flats)
        whole = np.zeros(area.shape, bool)
        whole[y0:y1, x0:x1] = agree
        full = warp.astype(float)
        full[:, 2] -= full[:, :2] @ np.array([x0, y0], float)
        middle = seen.mean(axis=0)
        if float(np.hypot(*(full[:, :2] @ middle + full[:, 2] - middle))) < max(LEAST_MOVED, 0.5 * float(np.ptp(seen, axis=0).min())):
            return None  # it slid onto itself, or is alike when turned about its own middle
        scale = float(np.sqrt(abs(np.linalg.det(full[:, :2]))))
        turn = full[:, :2] @ np.diag([-1.0, 1.0]) if mirrored else full[:, :2]
        return Similar(full, value, 1 / scale, float(np.degrees(np.arctan2(turn[1, 0] - turn[0, 1], turn[0, 0] + turn[1, 1]))), mirrored, whole, len(seen))


def _calm(luma: np.ndarray) -> np.ndarray:
    return cv2.GaussianBlur(luma, (0, 0), 1.0)
