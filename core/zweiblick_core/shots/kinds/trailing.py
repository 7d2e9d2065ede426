"""*shadow*: the shadow or reflection of something that moved, which walks on without it."""

from __future__ import annotations

import cv2
import numpy as np

from ...null import excess
from ...report.contents import Abstention
from ..locked import Locked, brightness, median_over
from ..reading import Seen, of_ground
from ..seeing import GAMMA, Change

#: How far from the thing its shadow is looked for, parts of the thing's longer side.
_REACH = 1.6
#: What the original must depart by from the empty ground, about the thing, levels.
_LEVELS = 3.0
#: Least spread of what is natural, levels. Frames that must show the thing.
_FLOOR, _FEW = 0.5, 8


def shadow(locked: Locked) -> Seen | Abstention:
    """How much darker or brighter than the empty ground the result is, where the original is so about
    the thing, wherever it walks.
    """
    if not locked.moves:
        return Abstention(
            "what was removed stands still; its shadow is looked for in single frames"
        )
    shown = [number for number in range(len(locked)) if locked.mask[number].any()]
    if len(shown) < _FEW:
        return Abstention("it is seen in too few frames")
    locked.keep_away(20)
    ground = median_over(locked.result, locked.away, brightness(locked))
    side = max(cv2.boundingRect(locked.mask[number].view(np.uint8))[2:][1] for number in shown)
    reach = int(_REACH * side) + 8
    originals: list[np.ndarray] = []
    results: list[np.ndarray] = []
    for number in shown:
        x, y, w, h = cv2.boundingRect(locked.mask[number].view(np.uint8))
        centre = (x + w // 2, y + h // 2)
        known = locked.valid[number] & np.isfinite(ground) & ~_near(locked.covered[number], 7)
        outside = known & ~_near(locked.mask[number], 21)
        for stack, found in ((locked.original, originals), (locked.result, results)):
            frame = stack[number].astype(np.float32)
            level = _gain(frame, ground, outside)
            apart = np.where(known & ~locked.mask[number], frame - level * ground, np.nan)
            found.append(_about(apart, centre, reach))
    before = _nanmedian(np.stack(originals))
    smooth = cv2.GaussianBlur(np.nan_to_num(before, nan=0.0), (0, 0), 2.0)
    place = (np.abs(smooth) > _LEVELS) & np.isfinite(before)
    place = cv2.morphologyEx(place.astype(np.uint8), cv2.MORPH_OPEN, np.ones((5, 5), np.uint8)) > 0
    if place.sum() < 80:
        return Abstention("what was removed cast no shadow that could be seen")
    sign = np.sign(smooth)
    course = np.full(len(locked), np.nan)
    for number, apart in zip(shown, results, strict=True):
        here = place & np.isfinite(apart)
        if here.sum() >= 40:
            course[number] = float((sign * apart)[here].mean())
    after = np.stack(results)
    clear = np.isfinite(before) & (np.abs(smooth) < 1.0)
    natural = _elsewhere(after, clear, int(place.sum()))
    known = course[np.isfinite(course)]
    if len(natural) < 5 or len(known) < _FEW:
        return Abstention("too little untouched ground is seen through the shot")
    value = float(np.median(known))
    far = float(excess(np.array(value), natural, _FLOOR))
    level = max(8.0, float(np.nanmedian(ground)))
    area = float(place.sum()) / locked.box.scale**2
    return Seen(
        "shadow",
        far,
        "light that moves with what was removed",
        value,
        "levels",
        of_ground(natural),
        course / max(value, 1e-6) * far,
        Change(min(1.0, GAMMA * max(0.0, value) / level), 0.5 / max(8.0, np.sqrt(area)), 1.0, area),
    )


def _gain(frame: np.ndarray, ground: np.ndarray, outside: np.ndarray) -> float:
    """How much brighter a frame is than the empty ground; a shadow is less than half of what is seen."""
    bright = outside & (ground > 16)
    return float(np.median(frame[bright] / ground[bright])) if bright.sum() > 100 else 1.0


def _near(mask: np.ndarray, across: int) -> np.ndarray:
    return np.asarray(cv2.dilate(mask.view(np.uint8), np.ones((across, across), np.uint8)) > 0)


def _about(plane: np.ndarray, centre: tuple[int, int], reach: int) -> np.ndarray:
    """A square of `reach` px to each side about a place; NaN beyond the plane."""
    padded = np.pad(plane, reach, constant_values=np.nan)
    x, y = centre
    return padded[y : y + 2 * reach + 1, x : x + 2 * reach + 1]


def _nanmedian(stack: np.ndarray) -> np.ndarray:
    known = np.isfinite(stack).sum(axis=0) >= 0.3 * len(stack)
    found = np.full(stack.shape[1:], np.nan)
    found[known] = np.nanmedian(stack[:, known], axis=0)
    return found


def _elsewhere(after: np.ndarray, clear: np.ndarray, area: int) -> np.ndarray:
    """What the same measure reads, of either sign, in parts of about the same size about the thing where
    the original shows nothing but ground.
    """
    middle = _nanmedian(after)
    side = max(4, int(np.sqrt(area)))
    found = []
    for top in range(0, middle.shape[0] - side, max(4, side // 2)):
        for left in range(0, middle.shape[1] - side, max(4, side // 2)):
            box = np.s_[top : top + side, left : left + side]
            here = clear[box] & np.isfinite(middle[box])
            if here.mean() > 0.7:
                found.append(abs(float(middle[box][here].mean())))
    return np.array(found)
