"""*flicker* and *light*: how bright a fill is beside its surroundings, from frame to frame and over
the shot.
"""

from __future__ import annotations

import numpy as np

from ...null import excess
from ...report.contents import Abstention
from ..courses import FEWEST, Courses
from ..locked import Locked
from ..reading import Seen, of_ground, root_mean_square, smoothed
from ..seeing import GAMMA, Change

#: Least spread of what is natural, parts of the brightness.
_FLOOR = 0.0004
#: A change of light is looked at over so many seconds.
_SECONDS = 0.3
#: Levels that are added before a ratio is taken, so that black is no exception.
_OFFSET = 6.0
#: Fewer frames say nothing of light that changes.
_FEW = 12


def beside_surroundings(courses: Courses) -> np.ndarray:
    """log of the brightness of each area over its ring's, float (frames, areas), about its median."""
    ratio = np.log((courses.level + _OFFSET) / (courses.around + _OFFSET))
    return np.asarray(ratio - np.nanmedian(ratio, axis=0, keepdims=True))


def flicker(courses: Courses, locked: Locked) -> Seen | Abstention:
    """From frame to frame: by how much a frame differs from the mean of those beside it."""
    series = beside_surroundings(courses)
    jumps = np.full(series.shape, np.nan)
    jumps[1:-1] = series[1:-1] - (series[2:] + series[:-2]) / 2
    # The median, so that one frame makes no flicker.
    values = 1.4826 * np.nanmedian(np.abs(jumps), axis=0)
    controls = values[1:][np.isfinite(values[1:])]
    if len(controls) < FEWEST or not np.isfinite(values[0]):
        return Abstention("too little untouched ground is seen through the shot")
    far = float(excess(values[0], controls, _FLOOR))
    course = np.abs(jumps[:, 0]) / max(values[0], 1e-6) * far
    return Seen(
        "flicker",
        far,
        "jumps of brightness against the surroundings",
        100 * float(values[0]),
        "% from frame to frame",
        of_ground(100 * controls),
        course,
        _change(values[0], locked, locked.rate / 3),
    )


def light(courses: Courses, locked: Locked) -> Seen | Abstention:
    """Over the shot: whether the fill becomes brighter and darker as its surroundings do."""
    series = smoothed(beside_surroundings(courses), max(5, round(_SECONDS * locked.rate)))
    known = np.isfinite(series).sum(axis=0)
    if known[0] < _FEW:
        return Abstention("it is seen in too few frames")
    values = root_mean_square(series - np.nanmean(series, axis=0, keepdims=True))
    controls = values[1:][(known[1:] >= _FEW) & np.isfinite(values[1:])]
    if len(controls) < FEWEST:
        return Abstention("too little untouched ground is seen through the shot")
    far = float(excess(values[0], controls, 4 * _FLOOR))
    departs = np.abs(series[:, 0] - np.nanmean(series[:, 0]))
    course = departs / max(float(np.nanmax(departs)), 1e-6) * far
    return Seen(
        "light",
        far,
        "brightness that does not follow the surroundings'",
        100 * float(values[0]),
        "%",
        of_ground(100 * controls),
        course,
        _change(values[0], locked, 0.7),
    )


def _change(value: float, locked: Locked, hertz: float) -> Change:
    """What an eye would see of a whole fill that is brighter by such a part."""
    areas = [int(one.sum()) for one in locked.mask[:: max(1, len(locked) // 8)]]
    area = float(np.median(areas)) / locked.box.scale**2
    return Change(GAMMA * float(value) * 1.4, 0.5 / max(8.0, np.sqrt(area)), hertz, area)
