"""Copies that were turned, made larger or smaller, or mirrored and turned, before they were pasted
in.

Features of the fill are matched with those of everything around it and with each other, and a
similarity that many matches share is sought by random sampling (as for copies
since Amerini and others 2011). In a small fill they are SIFT (Lowe 2004) of the picture as it is:
on boards, bricks and cloth little but the grain's own blobs tells one place
from another. A large fill has corners enough, and ORB (Rublee and others 2011) finds those in less
time. That proposes; what decides is the grain again: the source is brought
onto the fill, brought into register to a fraction of a pixel, and their fine detail compared. The
null is the same search for the same outline placed over untouched parts.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np

from ...scene.window import Window

#: Corners sought in the whole window and in a large area, at most; matches that a similarity needs.
EVERYWHERE, IN_AREA, FEWEST = 4000, 600, 5
#: Others that a feature may be matched with: at its own place it finds itself, and repetition has
#: many places.
CANDIDATES = 4
#: Features that are compared with all others at a time.
_AT_A_TIME = 512
#: Pairs of features, the most alike, that are asked for a similarity; and how many similarities are
#: looked at.
MOST_PAIRS, PROPOSALS = 1200, 3
#: A source is brought into register over no more than this, pixels.
LOOKED = 400
#: Areas less wide or high than this are small, pixels: by half they hold too few corners (on
#: training photographs 1 to 43 that are right; of blobs 60 to 300).
SMALL = 260
#: Blobs are sought in windows made as small as this, pixels squared: what they cost goes with it.
#: The least contrast that makes one (of 1), below the grain's.
LOOKED_THROUGH, FAINT = 640, 0.005
#: How unlike two matched features may be: bits of 256, and by the norm of SIFT's vectors (512
#: each).
UNLIKE = {True: 320.0, False: 64.0}
#: How alike the structure of a part of a large area and of its source must be for them to be
#: brought into register, where fewer than so many features say so and where more do
#: (copies in photographs of 1800 px: above .9, and .73 to 1; of what features of bark, grass or
#: boards say by chance half and more lies below); and at what part of the window's
#: size that is looked at.
ALIKE, MANY, COARSER = {False: 0.8, True: 0.6}, 16, 4
#: How much larger or smaller a source may be.
SCALES = (0.5, 2.0)
#: How far, and in which directions, a place is moved to see whether it agrees with what lies beside
#: it, (x, y) pixels; there and back.
MOVED = tuple(
    (round(far * float(np.cos(turn))), round(far * float(np.sin(turn))))
    for turn in np.pi * np.arange(16) / 16
    for far in (4, 8)
)
#: A source nearer than this is the place itself, pixels.
LEAST_MOVED = 20.0


@dataclass(frozen=True)
class Similar:
    """A similarity that lays an area onto its source. `matrix`: (2, 3), window pixels, area to
    source; `agreement`: of fine detail, -1..1; `scale`: of the copy against its
    source; `degrees`: how the copy was turned; `area`: bool, the pixels that agree; `matches`: how
    many features said so; `judged`: how many
    pixels without structure the agreement was taken over."""

    matrix: np.ndarray
    agreement: float
    scale: float
    degrees: float
    mirrored: bool
    area: np.ndarray
    matches: int
    judged: int

    def source_of(self, area: np.ndarray, frame: tuple[int, int]) -> tuple[slice, slice]:
        """Rows and columns about an area's source, at least one of each."""
        ys, xs = np.nonzero(area)
        corners = (
            np.array([[x, y, 1] for x in (xs.min(), xs.max()) for y in (ys.min(), ys.max())], float)
            @ self.matrix.T
        )
        (x0, y0), (x1, y1) = corners.min(axis=0), corners.max(axis=0)
        within = lambda low, high, most: slice(
            first := int(np.clip(low, 0, most - 1)), max(first + 1, int(np.clip(high, 0, most)))
        )
        return within(y0, y1, frame[0]), within(x0, x1, frame[1])


@dataclass(frozen=True)
class Features:
    """`points`: (n, 2) pixels; `words`: (n, 32) uint8 or (n, 128) float32; `angles`: (n,) degrees;
    `sizes`: (n,) pixels.
    """

    points: np.ndarray
    words: np.ndarray
    angles: np.ndarray
    sizes: np.ndarray


def _features(
    finder: cv2.Feature2D, plane: np.ndarray, mask: np.ndarray | None, length: int, of: type
) -> Features:
    keys, words = finder.detectAndCompute(plane, mask)
    if words is None:
        keys, words = (), np.empty((0, length), of)
    return Features(
        np.array([key.pt for key in keys], np.float32).reshape(-1, 2),
        words,
        np.array([key.angle for key in keys]),
        np.array([key.size for key in keys]),
    )


class Searcher:
    """Features of one window, found once for all regions that are judged in it."""

    def __init__(
        self,
        window: Window,
        high_pass: Callable[[np.ndarray], np.ndarray],
        steepness: Callable[[np.ndarray], np.ndarray],
    ) -> None:
        self.luma, self.high_pass, self.steepness = window.luma_result, high_pass, steepness
        self.small = min(cv2.boundingRect(window.filled.view(np.uint8))[2:]) < SMALL
        height, width = self.luma.shape
        zoom = min(1.0, LOOKED_THROUGH / np.sqrt(height * width)) if self.small else 0.5
        size = (max(1, round(width * zoom)), max(1, round(height * zoom)))
        self.white = np.ones(self.luma.shape, np.uint8)
        self.plane = np.clip(
            cv2.resize(self.luma, size, interpolation=cv2.INTER_AREA), 0, 255
        ).astype(np.uint8)
        #: Plane pixels to a window pixel, (x, y).
        self.zoom = np.array(size, float) / (width, height)
        known, key = window.seen.shared, f"features, {'small' if self.small else 'large'} areas"
        if key not in known:
            known[key] = self._found(self.plane, None, EVERYWHERE)
        self.everywhere: Features = known[key]

    def _found(self, plane: np.ndarray, mask: np.ndarray | None, most: int) -> Features:
        if not self.small:
            return _features(
                cv2.ORB.create(
                    nfeatures=most,
                    scaleFactor=1.25,
                    nlevels=4,
                    edgeThreshold=12,
                    patchSize=25,
                    fastThreshold=5,
                ),
                plane,
                mask,
                32,
                np.uint8,
            )
        blobs = cv2.SIFT.create(contrastThreshold=FAINT, edgeThreshold=15)
        # The grain's blobs, and those of what lies under it; a plane made smaller has lost most of
        # its grain already.
        both = [
            _features(blobs, some, mask, 128, np.float32)
            for some in (
                (plane, cv2.GaussianBlur(plane, (0, 0), 1.0)) if self.zoom.min() == 1 else (plane,)
            )
        ]
        return Features(
            *(
                np.concatenate([getattr(one, name) for one in both])
                for name in ("points", "words", "angles", "sizes")
            )
        )

    @cached_property
    def coarse(self) -> np.ndarray:
        """The window's structure between about 8 and 30 px, at a `COARSER` part of its size;
        float32.
        """
        plane = cv2.resize(
            self.luma,
            (max(1, self.luma.shape[1] // COARSER), max(1, self.luma.shape[0] // COARSER)),
            interpolation=cv2.INTER_AREA,
        )
        return cv2.GaussianBlur(plane, (0, 0), 0.6) - cv2.GaussianBlur(plane, (0, 0), 4.0)

    def structure_likeness(self, matrix: np.ndarray, area: np.ndarray, seen: np.ndarray) -> float:
        """How alike the structure of a part of an area and of its source is, -1..1; arguments as of
        `verified`. Rough as the matrix is, it shows at so little of the size.
        """
        x0, y0, x1, y1 = (side // COARSER for side in _about(seen, area.shape))
        here = self.coarse[y0:y1, x0:x1]
        if min(here.shape, default=0) < 4:
            return 1.0
        # The middle of a coarse pixel lies between those it was made of.
        own = (COARSER - 1) / 2
        moved = np.column_stack(
            [matrix[:, :2], (matrix[:, 2] + matrix[:, :2] @ np.array([own, own]) - own) / COARSER]
        )
        moved[:, 2] += moved[:, :2] @ np.array([x0, y0], float)
        there = cv2.warpAffine(
            self.coarse,
            moved,
            here.shape[::-1],
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        )
        inside = np.ascontiguousarray(
            area[y0 * COARSER : y1 * COARSER, x0 * COARSER : x1 * COARSER][::COARSER, ::COARSER]
        )[: here.shape[0], : here.shape[1]]
        return _correlation(here[inside], there[inside]) if inside.any() else 1.0

    def _in_window(self, points: np.ndarray) -> np.ndarray:
        """Plane pixels as window pixels, (n, 2)."""
        placed: np.ndarray = ((points + 0.5) / self.zoom - 0.5).astype(np.float32)
        return placed

    def _compared(
        self, here: np.ndarray, warp: np.ndarray, inside: np.ndarray
    ) -> tuple[float, np.ndarray, np.ndarray, int]:
        """How far the grain of a part agrees with its source's, -1..1; where their detail agrees
        (bool, empty where there is too little to compare); the warp; and over how many
        pixels."""
        size = here.shape[::-1]
        there = cv2.warpAffine(
            self.luma,
            warp,
            size,
            flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        )
        inside = inside & (
            cv2.warpAffine(self.white, warp, size, flags=cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP)
            > 0
        )
        if inside.sum() < 300:
            return -1.0, np.zeros_like(inside), warp, 0
        # What was interpolated lost its finest octave: compared is what both still have.
        fine, other = (
            self.high_pass(cv2.GaussianBlur(here, (0, 0), 0.7)),
            self.high_pass(cv2.GaussianBlur(there, (0, 0), 0.7)),
        )
        box = (21, 21)
        power = cv2.blur(fine * fine + other * other, box) + 1e-3
        agree = (cv2.blur(2 * fine * other, box) / power > 0.3) & inside
        # Structure may be alike by nature (courses of bricks): judged is the finest detail, evened
        # out, over all of it and over what agreed in coarser detail.
        grain = [_evened(luma) for luma in (here, there)]
        parts = [inside] + ([agree] if agree.sum() > max(400, 0.15 * inside.sum()) else [])
        slope = np.maximum(self.steepness(here), self.steepness(there))
        # Edges agree wherever they are regular; grain only in a copy. So it is sought where neither
        # has structure.
        flats = [part & (slope <= np.quantile(slope[part], 0.4)) for part in parts]
        agreed = [_correlation(grain[0][flat], grain[1][flat]) for flat in flats]
        best = int(np.argmax(agreed))
        return agreed[best], agree, warp, int(flats[best].sum())

    def beside(self, area: np.ndarray) -> float:
        """How far the grain of an area (bool, window) agrees with that a few pixels beside it,
        -1..1: the most of the directions of `MOVED`. What runs straight on does, and
        agrees with any other place of the same edge as well."""
        x, y, w, h = cv2.boundingRect(area.view(np.uint8))
        far = int(np.abs(MOVED).max())
        height, width = self.luma.shape
        # As much of it as there is room to move in, and no more than it is known by.
        x, y, w, h = (
            x + max(0, w - LOOKED) // 2,
            y + max(0, h - LOOKED) // 2,
            min(w, LOOKED),
            min(h, LOOKED),
        )
        x0, y0, x1, y1 = max(x, far), max(y, far), min(x + w, width - far), min(y + h, height - far)
        if x1 - x0 < 12 or y1 - y0 < 12:
            return 0.0
        part = np.ascontiguousarray(self.luma[y0 - far : y1 + far, x0 - far : x1 + far])
        grain, steep, inside = _evened(part), self.steepness(part), area[y0:y1, x0:x1]
        if inside.sum() < 100:
            return 0.0
        there = lambda dx, dy: (
            slice(far + dy, far + dy + y1 - y0),
            slice(far + dx, far + dx + x1 - x0),
        )
        own, found = there(0, 0), []
        for dx, dy in MOVED:
            both = []
            for one in (there(dx, dy), there(-dx, -dy)):
                slope = np.maximum(steep[own], steep[one])
                flat = inside & (slope <= np.quantile(slope[inside], 0.4))
                both.append(_correlation(grain[own][flat], grain[one][flat]))
            found.append(float(np.mean(both)))
        return max(found)

    def _climbed(self, here: np.ndarray, hull: np.ndarray, warp: np.ndarray) -> np.ndarray:
        """Brought into register by the gradient of the correlation (Evangelidis and Psarakis 2008)."""
        corners = (
            np.array(
                [
                    [0, 0, 1],
                    [here.shape[1], 0, 1],
                    [0, here.shape[0], 1],
                    [here.shape[1], here.shape[0], 1],
                ]
            )
            @ warp.T
        )
        (left, top), (right, bottom) = (
            np.clip(corners.min(axis=0).astype(int) - 12, 0, None),
            corners.max(axis=0).astype(int) + 12,
        )
        there = self.luma[top : max(bottom, 0), left : max(right, 0)]
        if min(there.shape) < 8:
            return warp
        local = warp - np.array([[0, 0, left], [0, 0, top]], np.float32)
        mask = cv2.warpAffine(hull, local, there.shape[::-1], flags=cv2.INTER_NEAREST)
        try:
            stop = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 30, 1e-4)
            refined = cv2.findTransformECC(
                _calm(here), _calm(there), local, cv2.MOTION_AFFINE, stop, mask
            )[1]
        except cv2.error:
            return warp  # no likeness to climb: what is known stands
        return np.asarray(refined, np.float32) + np.array([[0, 0, left], [0, 0, top]], np.float32)

    def _followed(self, here: np.ndarray, hull: np.ndarray, warp: np.ndarray) -> np.ndarray:
        """Features lie on pixels of half the size, coarse ones farther off: corners of the area are
        followed into the source brought onto it (Lucas and Kanade 1981), twice.
        """
        grey = lambda plane: np.clip(plane, 0, 255).astype(np.uint8)
        corners = cv2.goodFeaturesToTrack(grey(here), 150, 0.01, 6, mask=hull)
        if corners is None or len(corners) < FEWEST:
            return warp
        for _ in range(2):
            there = cv2.warpAffine(
                self.luma,
                warp,
                here.shape[::-1],
                flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                borderMode=cv2.BORDER_REPLICATE,
            )
            moved, seen, _ = cv2.calcOpticalFlowPyrLK(
                grey(here), grey(there), corners, None, winSize=(21, 21), maxLevel=3
            )  # type: ignore[call-overload]
            good = seen.ravel() > 0
            if good.sum() < FEWEST:
                break
            source = moved[good, 0] @ warp[:, :2].T + warp[:, 2]
            matrix, agreed = cv2.estimateAffine2D(
                corners[good, 0],
                source.astype(np.float32),
                method=cv2.RANSAC,
                ransacReprojThreshold=1.5,
            )
            if matrix is None or int(agreed.sum()) < max(FEWEST, 0.25 * good.sum()):
                break
            # A copy is not sheared: what turns into something else was led astray.
            if (
                abs(np.log(abs(np.linalg.det(matrix[:, :2])) / abs(np.linalg.det(warp[:, :2]))))
                > 0.35
            ):
                break
            warp = matrix.astype(np.float32)
        return warp

    def best(self, area: np.ndarray, ways: tuple[bool, ...] = (False, True)) -> Similar | None:
        """The similarity that lays an area (bool, window) onto another place with the most
        agreement; None where no features share one.

        Args:
            ways: whether it is sought mirrored.
        """
        inside = cv2.resize(
            area.view(np.uint8), self.plane.shape[::-1], interpolation=cv2.INTER_NEAREST
        )
        x, y, w, h = cv2.boundingRect(inside)
        top, left = max(0, y - 14), max(0, x - 14)
        crop = (slice(top, y + h + 15), slice(left, x + w + 15))
        part, inside = self.plane[crop], inside[crop]
        found: list[Similar] = []
        for mirrored in ways:
            plane, mask = (
                (np.ascontiguousarray(part[:, ::-1]), np.ascontiguousarray(inside[:, ::-1]))
                if mirrored
                else (part, inside)
            )
            mine = self._found(plane, mask, IN_AREA)
            if len(mine.points) < FEWEST or len(self.everywhere.points) < 30:
                continue
            at = mine.points.copy()
            if mirrored:
                at[:, 0] = part.shape[1] - 1 - at[:, 0]
            at = self._in_window(at + np.array([left, top], np.float32))
            one = self._similarity(mine, at, mirrored, area)
            if one is not None:
                found.append(one)
        return max(found, key=lambda one: one.agreement, default=None)

    def _similarity(
        self, mine: Features, at: np.ndarray, mirrored: bool, area: np.ndarray
    ) -> Similar | None:
        there = self._in_window(self.everywhere.points)
        mine_of, there_of, unlike = _matched(mine.words, self.everywhere.words)
        some = (unlike < UNLIKE[self.small]) & (np.hypot(*(at[mine_of] - there[there_of]).T) > 30)
        mine_of, there_of = (
            of[some][np.argsort(unlike[some], kind="stable")[:MOST_PAIRS]]
            for of in (mine_of, there_of)
        )
        if len(mine_of) < FEWEST:
            return None
        # A mirrored copy is a turned one of the mirrored window.
        flip = (
            np.array([[-1.0, 0, 0], [0, 1, 0]]) if mirrored else np.array([[1.0, 0, 0], [0, 1, 0]])
        )
        source, target = at[mine_of].astype(float), there[there_of].astype(float)
        turn = np.radians(self.everywhere.angles[there_of] - mine.angles[mine_of])
        size = self.everywhere.sizes[there_of] / mine.sizes[mine_of]
        best: Similar | None = None
        for members in _clusters(source @ flip[:, :2].T, target, turn, size):
            cv2.setRNGSeed(20268)
            matrix, agreed = cv2.estimateAffinePartial2D(
                source[members] @ flip[:, :2].T,
                target[members],
                method=cv2.RANSAC,
                ransacReprojThreshold=3.5,
                maxIters=500,
            )
            if matrix is None:
                continue
            some = source[members][agreed.ravel() > 0]
            scale = float(np.hypot(matrix[0, 0], matrix[1, 0]))
            matches = len(np.unique(some.round(), axis=0))
            if not SCALES[0] < scale < SCALES[1] or matches < FEWEST:
                continue
            matrix = matrix @ np.vstack([flip, [0, 0, 1]])
            if (
                not self.small
                and self.structure_likeness(matrix, area, some) < ALIKE[matches >= MANY]
            ):
                continue
            one = self.verified(matrix, mirrored, area, some)
            if one is not None and (best is None or one.agreement > best.agreement):
                best = one
            if best is not None and best.agreement > 0.5:
                break
        return best

    def verified(
        self, matrix: np.ndarray, mirrored: bool, area: np.ndarray, seen: np.ndarray
    ) -> Similar | None:
        """Bring the source onto the area and compare their fine detail where something agreed.

        Args:
            matrix: (2, 3), window pixels, area to source, roughly. seen: (n, 2) points of the area
                that said so.
        """
        whole, (x0, y0, x1, y1) = _box_of(seen, area.shape), _about(seen, area.shape)
        here, inside = np.ascontiguousarray(self.luma[y0:y1, x0:x1]), area[y0:y1, x0:x1]
        warp = _moved(matrix, x0, y0)
        # Compared is only where features agreed: what lies beside the copy would pull it off.
        hull = np.zeros(here.shape, np.uint8)
        cv2.fillConvexPoly(
            hull, cv2.convexHull((seen - np.array([x0, y0])).astype(np.int32))[:, 0], 1
        )
        hull = cv2.dilate(hull, np.ones((17, 17), np.uint8)) & inside.view(np.uint8)
        # Either step may be led astray (flow by what lies beside the copy, climbing by a slope of
        # light): the best of what is known stands.
        options = [self._compared(here, warp, inside)]
        for refined in (self._followed, self._climbed):
            known = max(options, key=_value)[2]
            moved = refined(here, hull, known)
            if moved is not known:
                options.append(self._compared(here, moved, inside))
        value, agree, warp, judged = max(options, key=_value)
        if (x0, y0, x1, y1) != whole and value > 0.2:
            full = _moved(warp, -x0, -y0)
            x0, y0, x1, y1 = whole
            value, agree, warp, judged = self._compared(
                np.ascontiguousarray(self.luma[y0:y1, x0:x1]),
                _moved(full, x0, y0),
                area[y0:y1, x0:x1],
            )
        if not agree.any():
            return None
        where = np.zeros(area.shape, bool)
        where[y0:y1, x0:x1] = agree
        full = _moved(warp, -x0, -y0).astype(float)
        middle = seen.mean(axis=0)
        if float(np.hypot(*(full[:, :2] @ middle + full[:, 2] - middle))) < max(
            LEAST_MOVED, 0.5 * float(np.ptp(seen, axis=0).min())
        ):
            return None  # it slid onto itself, or is alike when turned about its own middle
        scale = float(np.sqrt(abs(np.linalg.det(full[:, :2]))))
        turn = full[:, :2] @ np.diag([-1.0, 1.0]) if mirrored else full[:, :2]
        return Similar(
            full,
            value,
            1 / scale,
            float(np.degrees(np.arctan2(turn[1, 0] - turn[0, 1], turn[0, 0] + turn[1, 1]))),
            mirrored,
            where,
            len(seen),
            judged,
        )


def _evened(luma: np.ndarray) -> np.ndarray:
    """The finest detail, as strong everywhere; float32."""
    plane = luma - cv2.GaussianBlur(luma, (0, 0), 1.0)
    out: np.ndarray = plane / np.sqrt(cv2.GaussianBlur(plane * plane, (0, 0), 4.0) + 0.05)
    return out


def _correlation(first: np.ndarray, second: np.ndarray) -> float:
    """-1..1 of two planes of zero mean."""
    return float((first * second).mean() / np.sqrt((first**2).mean() * (second**2).mean() + 1e-9))


def _matched(words: np.ndarray, others: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Each feature's likest `CANDIDATES` among others, as numbers of the one and of the other, and
    how unlike they are (bits, or the norm of the difference).
    """
    if words.dtype == np.uint8:
        bits, at = cv2.batchDistance(
            words, others, cv2.CV_32S, normType=cv2.NORM_HAMMING, K=min(CANDIDATES, len(others))
        )
        return np.repeat(np.arange(len(words)), bits.shape[1]), at.ravel(), bits.ravel()
    # By products of matrices: twenty times as quick as pair by pair.
    few, norms = min(CANDIDATES, len(others)), np.einsum("ij,ij->i", others, others)
    nearest = np.empty((len(words), few), int)
    squares = np.empty((len(words), few), np.float32)
    for first in range(0, len(words), _AT_A_TIME):
        some = words[first : first + _AT_A_TIME]
        apart = np.einsum("ij,ij->i", some, some)[:, None] + norms - 2 * (some @ others.T)
        here = np.argpartition(apart, few - 1, axis=1)[:, :few]
        nearest[first : first + len(some)], squares[first : first + len(some)] = (
            here,
            np.take_along_axis(apart, here, axis=1),
        )
    return (
        np.repeat(np.arange(len(words)), few),
        nearest.ravel(),
        np.sqrt(np.maximum(squares.ravel(), 0.0)),
    )


def _clusters(
    source: np.ndarray, target: np.ndarray, turn: np.ndarray, size: np.ndarray
) -> list[np.ndarray]:
    """Pairs that say about the same similarity, by their own place, turn and size (Hough votes of
    single features, Lowe 2004); those of most first.

    Args:
        source, target: (n, 2) points. turn: (n,) radians. size: (n,) target over source.
    """
    middle = source.mean(axis=0)
    spread = float(np.hypot(*source.std(axis=0)))
    c, s = size * np.cos(turn), size * np.sin(turn)
    x, y = (middle - source).T
    moved = target + np.stack([c * x - s * y, s * x + c * y], -1)
    # What a feature knows of its turn and size is rough: the farther it lies from the middle, the
    # less it knows of where that goes.
    reach = 6 + 0.3 * spread
    x, y = moved.astype(np.float32).T
    ways, logs = (
        np.stack([np.cos(turn), np.sin(turn)], -1).astype(np.float32),
        np.log(size).astype(np.float32),
    )
    near = np.abs(x[:, None] - x) < reach
    near &= np.abs(y[:, None] - y) < reach
    near &= ways @ ways.T > np.cos(np.radians(20))
    near &= np.abs(logs[:, None] - logs) < 0.3
    left = np.ones(len(source), bool)
    found = []
    for _ in range(PROPOSALS):
        votes = np.count_nonzero(near & left, axis=1) * left
        first = int(votes.argmax())
        members = near[first] & left
        if members.sum() < FEWEST:
            break
        found.append(np.flatnonzero(members))
        left &= ~members
    return found


def _box_of(seen: np.ndarray, frame: tuple[int, int]) -> tuple[int, int, int, int]:
    """(x0, y0, x1, y1) about points, with room for what they stand for, within a frame (height,
    width).
    """
    x0, y0 = seen.min(axis=0).astype(int) - 20
    x1, y1 = seen.max(axis=0).astype(int) + 20
    if x1 - x0 < 40 or y1 - y0 < 40:
        x0, y0, x1, y1 = x0 - 12, y0 - 12, x1 + 12, y1 + 12
    return max(0, int(x0)), max(0, int(y0)), min(frame[1], int(x1)), min(frame[0], int(y1))


def _about(seen: np.ndarray, frame: tuple[int, int]) -> tuple[int, int, int, int]:
    """`_box_of` points, no wider and higher than `LOOKED` about their middle: a part of a large
    area is enough to bring it into register and to know it by.
    """
    x0, y0, x1, y1 = _box_of(seen, frame)
    x, y = np.median(seen, axis=0).astype(int)
    return (
        max(x0, int(x) - LOOKED // 2),
        max(y0, int(y) - LOOKED // 2),
        min(x1, int(x) + LOOKED // 2),
        min(y1, int(y) + LOOKED // 2),
    )


def _moved(matrix: np.ndarray, x: int, y: int) -> np.ndarray:
    """A (2, 3) matrix for points counted from (x, y); float32."""
    return np.column_stack(
        [matrix[:, :2], matrix[:, 2] + matrix[:, :2] @ np.array([x, y], float)]
    ).astype(np.float32)


def _value(option: tuple[float, np.ndarray, np.ndarray, int]) -> float:
    return option[0]


def _calm(luma: np.ndarray) -> np.ndarray:
    return cv2.GaussianBlur(luma, (0, 0), 1.0)
