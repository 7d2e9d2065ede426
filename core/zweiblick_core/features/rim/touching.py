"""Whether what stands out along a short stretch of boundary is an edge of the scene that runs up to
the outline, along it for a while, and away from it again.

A long outline touches some edge of the scene somewhere (a disc's, a ridge's), and there it looks
like a cut. But a cut lies on the outline or nowhere: where it ends its colours
have become alike, or what was cut off turns away in a corner. An edge that goes on from either end,
as strong, and bends away from the outline without a corner is the scene's
own. It is followed on the unrolled rim by the strongest path (dynamic programming, as for contours
since Montanari 1971), and the path is a curve rather than a straight piece
between two others. Into the fill it must lead at one end at least: what a fill bit off from
something outside leaves outward at both.
"""

from __future__ import annotations

from itertools import product

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from scipy import ndimage

from ...report import Reading
from ...scene.boundary import REACH, Rim

#: How far beyond either end an edge is followed, pixels: as far as the stretch is long, within
#: these.
_FOLLOWED = (16, 30)
#: How far from the boundary the edge itself may lie that a kind tells of, and how near to its place
#: a path begins, pixels.
_OWN, _BEGINS = {"seam": 3, "halo": 12}, 2
#: Pixels away from the boundary for one along it, about, at most; and how far an edge must have
#: gone away.
_ASLANT, _AWAY = 0.8, 4.0
#: Part of the stretch's own contrast that must go on.
_GOES_ON = 0.6
#: How close to a path a curve of the third degree must lie, pixels, and how much closer than a
#: straight piece between two others (of edges that touch a disc .3 to .8, of caps
#: that were cut off 2 and more).
_CLOSE, _CURVED = 1.2, 0.9
#: Where a straight piece's ends are thought of, of the path's half length from its middle.
_ENDS = [
    (first, last)
    for first, last in product(np.linspace(-0.8, 0.5, 14), np.linspace(-0.5, 0.8, 14))
    if last - first >= 0.1
]
#: Over how many pixels across an edge's contrast is taken.
_ACROSS = 4
#: Largest part of a boundary that an edge may run along.
_PART = 0.34


def touched(strip: np.ndarray, rim: Rim, reading: Reading) -> bool:
    """Whether a reading's stretch of boundary is an edge of the scene that only touches it.

    Args:
        strip: CIELAB across the rim, float32 (n, 2 * REACH + 1, 3).
        reading: with its `stretch`.
    """
    if reading.stretch is None:
        return False
    (start, end), n = reading.stretch, len(rim)
    beyond = int(np.clip((end - start) * rim.step, *_FOLLOWED) / rim.step)
    if end - start > _PART * n or end - start + 2 * beyond > n or beyond < 4:
        return False
    rows = np.arange(start - beyond, end + beyond)
    if not (rim.closed or (rows[0] >= 0 and rows[-1] < n)) or not rim.usable[rows % n].all():
        return False
    steps = strip[:, _ACROSS:] - strip[:, :-_ACROSS]
    here, zero = rim.stretch(start, end), REACH - _ACROSS // 2
    # An edge that bends lies on the boundary in the middle of the stretch.
    third = (end - start) // 3
    mean, reach = steps[here[third : len(here) - third]].mean(axis=0), _OWN[reading.kind]
    at = zero - reach + int(np.linalg.norm(mean[zero - reach : zero + reach + 1], axis=1).argmax())
    contrast = float(np.linalg.norm(mean[at]))
    if contrast < 1e-3:
        return False
    plane = ndimage.gaussian_filter1d(steps @ (mean[at] / contrast), 0.8, axis=1)
    plane = ndimage.gaussian_filter1d(plane, 0.8, axis=0, mode="wrap" if rim.closed else "nearest")
    usual = float(
        np.median(
            plane[here[third : len(here) - third], at - _BEGINS : at + _BEGINS + 1].max(axis=1)
        )
    )
    if usual <= 0:
        return False
    plane = np.clip(plane / usual, 0, 1)
    middle = (start + end) // 2
    back = strongest_path(plane[np.arange(middle, rows[0] - 1, -1) % n], at, rim.step)[::-1]
    path = np.concatenate(
        [back, strongest_path(plane[np.arange(middle, rows[-1] + 1) % n], at, rim.step)[1:]]
    )
    along = plane[rows % n, path]
    share = min(float(along[:beyond].mean()), float(along[-beyond:].mean()))
    gone = path[[0, -1]] - path[beyond + third : len(path) - beyond - third].mean()
    return (
        share >= _GOES_ON
        and bool(np.abs(gone).min() >= _AWAY and gone.min() < 0)
        and bends_along(plane[rows % n], path)
    )


def strongest_path(plane: np.ndarray, at: int, step: float) -> np.ndarray:
    """The strongest path through a plane (rows, columns), beginning near the column `at`; columns
    (rows,).
    """
    rows, columns = plane.shape
    most = max(1, round(_ASLANT * step))
    sums = np.full(columns, -np.inf)
    sums[at - _BEGINS : at + _BEGINS + 1] = 0
    came = np.empty((rows, columns), int)
    for row in range(rows):
        around = sliding_window_view(np.pad(sums, most, constant_values=-np.inf), 2 * most + 1)
        came[row] = np.arange(columns) + around.argmax(axis=1) - most
        sums = sums[np.clip(came[row], 0, columns - 1)] + plane[row]
    path = np.empty(rows, int)
    column = int(sums.argmax())
    for row in range(rows - 1, -1, -1):
        path[row], column = column, came[row, column]
    return path


def bends_along(plane: np.ndarray, path: np.ndarray) -> bool:
    """Whether a path (rows,) through a plane (rows, columns) is a curve rather than straight along
    the boundary between two corners.
    """
    # To a part of a pixel: the middle of what lies about it.
    across = np.arange(-2, 3)
    weight = plane[
        np.arange(len(path))[:, None], np.clip(path[:, None] + across, 0, plane.shape[1] - 1)
    ]
    places = path + (weight * across).sum(axis=1) / np.maximum(weight.sum(axis=1), 1e-6)
    at = np.linspace(-1, 1, len(path))
    off = lambda *terms: float(
        np.sqrt(
            np.mean(
                (
                    places
                    - (basis := np.stack([np.ones_like(at), *terms], 1))
                    @ np.linalg.lstsq(basis, places, rcond=None)[0]
                )
                ** 2
            )
        )
    )
    curve = off(at, at**2, at**3)
    return curve < _CLOSE and curve < _CURVED * min(
        off(np.maximum(first - at, 0), np.maximum(at - last, 0)) for first, last in _ENDS
    )
