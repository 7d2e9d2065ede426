"""Whether what stands out along a short stretch of boundary is the scene's own: it lies around just
so, as joints between boards do, or it leaves the outline again (`touching`).

A long outline touches more of the scene's own lines than the few places know at which the whole of
it can be placed. So a stretch that stands out is placed at every place around
it by itself (a matched filter; Turin 1960), and where it is met again, as strong and all along, it
is the scene's.
"""

from __future__ import annotations

import cv2
import numpy as np

from ...report import Reading
from ...scene.boundary import Rim, unroll
from ...scene.window import Window
from .touching import touched

#: Longest stretch that a line of the scene may explain, pixels, and largest part of the boundary.
LONGEST, PART = 200.0, 0.34
#: How far around it is looked, and how far to either side of the boundary colours are compared,
#: pixels.
AROUND, ACROSS = 250, 10
#: What another place must show of it, the whole and each third of its length.
ALIKE, _THIRD = 0.8, 0.5
#: Part of the colours across a stretch that must be the same all along it, else it is no line.
_SAME = 0.35
_PLACES = 12
#: From which score on it is asked, and what a reading that is explained so may still score.
_ASKED, _LEFT = 0.5, 0.4


def explained(window: Window, rim: Rim, reading: Reading, strip: np.ndarray) -> Reading:
    """A reading of a stretch of boundary, no finding any more if it is the scene's own. `strip`:
    CIELAB across the rim, (n, 2 * REACH + 1, 3).
    """
    if (
        reading.score >= _ASKED
        and reading.stretch is not None
        and (
            touched(strip, rim, reading)
            or lies_around(window, rim, rim.stretch(*reading.stretch)) is not None
        )
    ):
        reading.score = _LEFT
    return reading


def lies_around(window: Window, rim: Rim, indices: np.ndarray) -> tuple[int, int] | None:
    """Where the colours across a stretch of boundary are met again on untouched ground, as (dx, dy)
    pixels; None where they are not, or the stretch is too long to ask.

    Args:
        rim: a boundary of the fill. indices: (n,) samples of it in a row.
    """
    if len(indices) < 4 or len(indices) * rim.step > LONGEST or len(indices) > PART * len(rim):
        return None
    part = rim.part(indices)
    low, high = (
        part.points.min(axis=0).astype(int) - ACROSS - 3,
        part.points.max(axis=0).astype(int) + ACROSS + 4,
    )
    height, width = window.mask.shape
    if low.min() < 0 or high[0] > width or high[1] > height:
        return None
    (left, top), (right, bottom) = (
        np.maximum(low - AROUND, 0),
        np.minimum(high + AROUND, (width, height)),
    )
    crop = (slice(top, bottom), slice(left, right))
    strip = unroll(window.lab_result, part, ACROSS)
    profile = strip.mean(axis=0)
    profile = profile - profile.mean(axis=0)
    if float((profile**2).sum()) < _SAME * float(
        ((strip - strip.mean(axis=1, keepdims=True)) ** 2).sum(axis=(1, 2)).mean()
    ):
        return None
    # The colour in which it shows most.
    way = np.linalg.svd(profile, full_matrices=False)[2][0]
    wanted = (profile @ way).astype(np.float32)
    plane = np.ascontiguousarray(window.lab_result[crop] @ way.astype(np.float32))
    here = part.moved((-left, -top))
    kernel, corner = _kernel(here, wanted)
    support = (kernel != 0).astype(np.float32)
    found = cv2.matchTemplate(plane, kernel, cv2.TM_CCORR)
    touched = cv2.matchTemplate(window.apart[crop].astype(np.float32), support, cv2.TM_CCORR) > 0.5
    own = float(found[corner[1], corner[0]])
    found[touched] = -np.inf
    power = float((wanted**2).sum())
    for _ in range(_PLACES):
        _, value, _, (px, py) = cv2.minMaxLoc(found)
        if not value >= 0.75 * own:
            return None
        found[max(0, py - 3) : py + 4, max(0, px - 3) : px + 4] = -np.inf
        dx, dy = px - corner[0], py - corner[1]
        shown = unroll(plane, here.moved((dx, dy)), ACROSS)[..., 0] @ wanted / power
        thirds = [float(some.mean()) for some in np.array_split(shown, 3)]
        if shown.mean() >= ALIKE and min(thirds) >= _THIRD:
            return dx, dy
    return None


def _kernel(rim: Rim, profile: np.ndarray) -> tuple[np.ndarray, tuple[int, int]]:
    """A profile (2 * ACROSS + 1,) placed across a rim as a picture of zero sum, float32, and the
    corner (x, y) at which it lies on the rim itself.
    """
    across = np.arange(-ACROSS, ACROSS + 0.5, 0.5)
    along = np.linspace(0, len(rim) - 1, max(2, int(2 * len(rim) * rim.step)))
    points, normals = (
        np.stack([np.interp(along, np.arange(len(rim)), some[:, k]) for k in (0, 1)], -1)
        for some in (rim.points, rim.normals)
    )
    places = np.round(points[:, None] + across[None, :, None] * normals[:, None]).astype(int)
    values = np.broadcast_to(
        np.interp(across, np.arange(-ACROSS, ACROSS + 1), profile), places.shape[:2]
    )
    corner = places.reshape(-1, 2).min(axis=0)
    size = tuple(np.ptp(places.reshape(-1, 2), axis=0)[::-1] + 1)
    sums, counts = np.zeros(size, np.float32), np.zeros(size, np.float32)
    at = tuple((places - corner).reshape(-1, 2)[:, ::-1].T)
    np.add.at(sums, at, values.ravel())
    np.add.at(counts, at, 1.0)
    seen = counts > 0
    kernel = np.where(seen, sums / np.maximum(counts, 1), 0).astype(np.float32)
    kernel[seen] -= kernel[seen].mean()
    kernel[seen & (kernel == 0)] = 1e-6
    return kernel, (int(corner[0]), int(corner[1]))
