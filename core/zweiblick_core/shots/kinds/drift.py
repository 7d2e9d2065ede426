"""*drift*: a fill that moves against its ground."""

from __future__ import annotations

import numpy as np

from ...null import excess
from ...report.contents import Abstention
from ..courses import FEWEST, Courses
from ..locked import Locked
from ..reading import Seen, of_ground
from ..seeing import GAMMA, Change

#: Least spread of what is natural, pixels a frame.
_FLOOR = 0.006
#: Spread of structure below which nothing can be seen to move, levels.
_PLAIN = 0.7
#: A shot is looked at in so many parts, since a fill may drift to and fro.
_PARTS = 4


def drift(courses: Courses, locked: Locked) -> Seen | Abstention:
    """Pixels a frame by which the fill moves against the ring about it."""
    if not np.isfinite(courses.texture[0]) or courses.texture[0] < _PLAIN:
        return Abstention("the fill has no structure that could be seen to move")
    best: Seen | None = None
    for span, moved in courses.moved.items():
        if len(moved) < _PARTS:
            continue
        values = _speeds(moved)
        controls = values[1:][np.isfinite(values[1:])]
        if len(controls) < FEWEST or not np.isfinite(values[0]):
            continue
        far = float(excess(values[0], controls, _FLOOR))
        if best is not None and far <= best.far:
            continue
        each = np.hypot(*_running(moved[:, 0]).T)
        course = np.interp(np.arange(len(locked)), courses.starts[span] + span / 2, each)
        course = course / max(float(values[0]), 1e-9) * far
        speed = float(values[0]) / locked.box.scale
        change = Change(
            min(
                1.0,
                GAMMA
                * float(courses.texture[0])
                / max(8.0, float(np.nanmean(courses.level[:, 0]))),
            ),
            0.08 * locked.box.scale,
            1.0,
            float(locked.mask[len(locked) // 2].sum()) / locked.box.scale**2,
            speed * locked.rate,
        )
        best = Seen(
            "drift",
            far,
            "motion against the ground",
            speed,
            "px a frame",
            of_ground(controls / locked.box.scale),
            course,
            change,
        )
    return best or Abstention("too little untouched ground is seen through the shot")


def _speeds(moved: np.ndarray) -> np.ndarray:
    """Root mean square over the parts of a shot of the mean velocity in each; float (areas,)."""
    parts = []
    for part in np.array_split(moved, _PARTS):
        known = np.isfinite(part[..., 0]).sum(axis=0) >= max(1, len(part) // 3)
        with np.errstate(invalid="ignore"):
            middle = np.where(known[:, None], _median(part), np.nan)
        parts.append((middle**2).sum(axis=-1))
    stacked = np.stack(parts)
    known = np.isfinite(stacked).sum(axis=0)
    total = np.nansum(stacked, axis=0)
    return np.where(known >= 2, np.sqrt(total / np.maximum(known, 1)), np.nan)


def _running(moved: np.ndarray) -> np.ndarray:
    """Medians of velocities (steps, 2) over as many steps as a part has, so that a few in which something
    passes in front do not stand out; 0 where nothing is known.
    """
    half = max(1, len(moved) // (2 * _PARTS))
    found = [_median(moved[max(0, at - half) : at + half + 1]) for at in range(len(moved))]
    return np.nan_to_num(np.array(found), nan=0.0)


def _median(part: np.ndarray) -> np.ndarray:
    known = np.isfinite(part)
    filled = np.where(known.any(axis=0, keepdims=True), part, 0.0)
    return np.asarray(np.nanmedian(filled, axis=0))
