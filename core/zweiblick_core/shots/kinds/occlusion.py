"""*occlusion*: what passes in front of a fill, and is eaten or smeared there."""

from __future__ import annotations

import cv2
import numpy as np

from ...null import excess
from ...report.contents import Abstention
from ..locked import Locked
from ..reading import Seen, of_ground
from ..seeing import GAMMA, Change

#: Pixels of what passes that must lie over the fill in a frame.
_LEAST = 60
#: Least spread of what is natural, levels.
_FLOOR = 0.8


def occlusion(locked: Locked) -> Seen | Abstention:
    """How far the result departs from the original where something passes in front: over the fill
    against outside of it, where nobody worked.
    """
    if locked.moves:
        return Abstention("what passes in front of something that moves is not told apart from it")
    inside, outside, areas = [], [], []
    for number in range(len(locked)):
        over = cv2.erode(locked.passer[number].view(np.uint8), np.ones((5, 5), np.uint8)) > 0
        apart = np.abs(
            locked.result[number].astype(np.float32) - locked.original[number].astype(np.float32)
        )
        within = over & locked.mask[number]
        beyond = over & ~_near(locked.mask[number])
        inside.append(float(apart[within].mean()) if within.sum() >= _LEAST else np.nan)
        outside.append(float(apart[beyond].mean()) if beyond.sum() >= _LEAST else np.nan)
        areas.append(int(within.sum()))
    values, natural = np.array(inside), np.array(outside)
    if not np.isfinite(values).any():
        return Abstention("nothing passes in front of it")
    natural = natural[np.isfinite(natural)]
    if len(natural) < 3:
        return Abstention("what passes in front is seen nowhere but over the fill")
    course = excess(values, natural, _FLOOR)
    # Two frames at least: a single one may be a wrong edge of what passes.
    known = np.sort(course[np.isfinite(course)])[::-1]
    far = float(known[min(1, len(known) - 1)])
    worst = int(np.nanargmax(values))
    level = max(8.0, float(np.median(locked.original[worst][locked.mask[worst]])))
    change = Change(
        min(1.0, GAMMA * float(values[worst]) / level),
        0.05 * locked.box.scale,
        4.0,
        areas[worst] / locked.box.scale**2,
    )
    return Seen(
        "occlusion",
        far,
        "what passes in front, changed over the fill",
        float(values[worst]),
        "levels",
        of_ground(natural),
        course,
        change,
    )


def _near(mask: np.ndarray) -> np.ndarray:
    return np.asarray(cv2.dilate(mask.view(np.uint8), np.ones((13, 13), np.uint8)) > 0)
