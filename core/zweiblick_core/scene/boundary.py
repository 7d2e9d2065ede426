"""The rim of an area, unrolled into a straight strip: along the boundary one way, across it the
other.

Seam and halo are measured on it, their nulls are its parallels, and it is the evidence a person is
shown.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from scipy import ndimage

#: How far the strip reaches to either side of the boundary, pixels.
REACH = 30
#: Most samples along one boundary; of a longer one each row is the mean of two.
MOST = 2400


@dataclass(frozen=True)
class Rim:
    """One closed (or frame-cut) boundary.

    Attributes:
        points: float (n, 2), x and y in the window.
        normals: float (n, 2), outward unit normals.
        step: pixels between neighbouring samples.
        usable: bool (n,), False where the boundary runs along the picture's frame.
        closed: whether its end meets its start; a part of a boundary does not.
        between: how far apart, along, the two rows lie of which each is the mean, pixels; 0 where
            it is one.
    """

    points: np.ndarray
    normals: np.ndarray
    step: float
    usable: np.ndarray
    closed: bool = True
    between: float = 0.0

    def __len__(self) -> int:
        return len(self.points)

    def moved(self, by: tuple[float, float]) -> Rim:
        """Shifted by (x, y) pixels."""
        return replace(self, points=self.points + np.asarray(by))

    def part(self, indices: np.ndarray) -> Rim:
        """Some of its samples in a row, as an open rim."""
        return Rim(
            self.points[indices],
            self.normals[indices],
            self.step,
            self.usable[indices],
            False,
            self.between,
        )

    @property
    def tangents(self) -> np.ndarray:
        """Unit vectors (n, 2) along the boundary, the way its samples follow each other."""
        along = np.stack([-self.normals[:, 1], self.normals[:, 0]], -1)
        return along if float((np.diff(self.points, axis=0) * along[1:]).sum()) >= 0 else -along

    def apart(self) -> Rim:
        """With the two rows of which each is the mean as two, for what must be placed along the
        boundary to the pixel; itself where each is one.
        """
        if not self.between:
            return self
        half = self.between / 2 * self.tangents
        twice = lambda values: np.repeat(values, 2, axis=0)
        return Rim(
            np.stack([self.points - half, self.points + half], 1).reshape(-1, 2),
            twice(self.normals),
            self.step / 2,
            twice(self.usable),
            self.closed,
        )

    def band(self, frame: tuple[int, int], reach: int) -> np.ndarray:
        """The strip it covers to either side, as a bool mask of a (height, width) frame."""
        drawn = np.zeros(frame, np.uint8)
        cv2.polylines(drawn, [self.points.round().astype(np.int32)], self.closed, 1, 2 * reach)
        return drawn.astype(bool)

    def stretch(self, start: int, end: int) -> np.ndarray:
        """Indices from start to end, going round."""
        return np.arange(start, end) % len(self)


def _box_about(area: np.ndarray, beside: int) -> tuple[int, int, int, int]:
    """(left, top, right, bottom) of what is True, and so many pixels beside it, within the plane."""
    x, y, w, h = cv2.boundingRect(np.ascontiguousarray(area).view(np.uint8))
    return (
        max(0, x - beside),
        max(0, y - beside),
        min(area.shape[1], x + w + beside),
        min(area.shape[0], y + h + beside),
    )


def rims_of(area: np.ndarray, least: int = 24) -> list[Rim]:
    """The outer and larger inner boundaries of an area, smoothed to half a pixel.

    Args:
        area: bool (height, width).
        least: shorter boundaries are left out, pixels.
    """
    height, width = area.shape
    rings, _ = cv2.findContours(area.astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    left, top, right, bottom = _box_about(area, 8)
    # An area without any outside is infinitely far from it.
    distance = np.minimum(
        cv2.distanceTransform(area[top:bottom, left:right].astype(np.uint8), cv2.DIST_L2, 3), 1e4
    )
    found = []
    total = sum(len(ring) for ring in rings)
    for ring in rings:
        if len(ring) < least:
            continue
        points = ring[:, 0].astype(np.float64)
        lengths = np.hypot(*np.diff(np.vstack([points, points[:1]]), axis=0).T)
        along = np.concatenate([[0], np.cumsum(lengths)])
        step = max(1.0, total / MOST)
        each = 1 + (total > MOST)
        count = max(8, int(along[-1] / step) // each * each)
        where = np.linspace(0, along[-1], count, endpoint=False)
        closed = np.vstack([points, points[:1]])
        even = np.stack([np.interp(where, along, closed[:, k]) for k in (0, 1)], -1)
        smooth = ndimage.gaussian_filter1d(even, 2.0 / step, axis=0, mode="wrap")
        tangent = ndimage.gaussian_filter1d(
            np.roll(even, -1, 0) - np.roll(even, 1, 0), 3.0 / step, axis=0, mode="wrap"
        )
        normal = np.stack([tangent[:, 1], -tangent[:, 0]], -1)
        normal /= np.linalg.norm(normal, axis=1, keepdims=True) + 1e-9
        # Outward is where the distance inside falls; decided by majority, since a ring turns one
        # way throughout.
        probe = lambda sign: ndimage.map_coordinates(
            distance,
            (smooth + sign * 3 * normal - (left, top))[:, ::-1].T,
            order=1,
            mode="constant",
        )
        if probe(1.0).mean() > probe(-1.0).mean():
            normal = -normal
        usable = (
            (even[:, 0] > 1.5)
            & (even[:, 1] > 1.5)
            & (even[:, 0] < width - 2.5)
            & (even[:, 1] < height - 2.5)
        )
        # The traced ring lies on the area's outermost pixels; the boundary itself is half a pixel
        # further out.
        outline = smooth + 0.5 * normal
        if each == 2:
            outline, normal, usable = (
                (outline[::2] + outline[1::2]) / 2,
                normal[::2] + normal[1::2],
                usable[::2] & usable[1::2],
            )
            normal /= np.linalg.norm(normal, axis=1, keepdims=True) + 1e-9
        found.append(Rim(outline, normal, each * step, usable, between=(each - 1) * step))
    return sorted(found, key=len, reverse=True)


def unroll(plane: np.ndarray, rim: Rim, reach: int = REACH) -> np.ndarray:
    """Sample a plane across a rim.

    Args:
        plane: float32 (height, width) or (height, width, channels).
        rim: the boundary.
        reach: to either side, pixels.

    Returns:
        float32 (n, 2 * reach + 1, channels): column `reach` lies on the boundary, larger columns
        further outside. Samples
        beyond the plane repeat its edge.
    """
    across = np.arange(-reach, reach + 1, dtype=np.float32)

    def along(by: float) -> np.ndarray:
        x = (rim.points[:, :1] - by * rim.normals[:, 1:] + rim.normals[:, :1] * across).astype(
            np.float32
        )
        y = (rim.points[:, 1:] + by * rim.normals[:, :1] + rim.normals[:, 1:] * across).astype(
            np.float32
        )
        return cv2.remap(plane, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)

    strip = (
        cv2.addWeighted(along(-rim.between / 2), 0.5, along(rim.between / 2), 0.5, 0.0)
        if rim.between
        else along(0.0)
    )
    return strip if strip.ndim == 3 else strip[..., None]


def ribbon(rim: Rim, indices: np.ndarray, inside: float, outside: float) -> np.ndarray:
    """The polygon of a stretch of rim between two distances; (m, 2) window coordinates."""
    some = indices[:: max(1, len(indices) // 40)]
    outer = rim.points[some] + outside * rim.normals[some]
    inner = rim.points[some] - inside * rim.normals[some]
    return np.vstack([outer, inner[::-1]]) + 0.5
