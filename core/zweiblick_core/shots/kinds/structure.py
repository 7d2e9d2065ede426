"""*boiling*, *pop* and *softening*: structure of a fill that does not stay as it is."""

from __future__ import annotations

import numpy as np

from ...null import excess
from ...report.contents import Abstention
from ..courses import FEWEST, Courses
from ..locked import Locked
from ..reading import Seen, of_ground, smoothed
from ..seeing import GAMMA, Change

#: Least spreads of what is natural: logs.
_FLOOR = 0.06
#: What no structure is measured below, levels.
_LEAST = 0.05
#: Frames beside a pop that it shows in too. Fewer frames than this say of none that it stands out.
_BESIDE, _FEW = 2, 12
#: Shares of a shot whose sharpness is compared: its beginning and its end.
_QUARTER = 0.25


def boiling(courses: Courses, locked: Locked) -> Seen | Abstention:
    """How much structure departs from that of the frames beside, where it is held still."""
    logs = _beside_ground(courses.structure)
    values = _middle(logs)
    controls, own = _for_its_texture(values, courses.texture)
    if len(controls) < FEWEST or not np.isfinite(own):
        return Abstention("too little untouched ground is seen through the shot")
    far = float(excess(np.array(own), controls, _FLOOR))
    usual = float(np.median(controls)) + (values[0] - own)
    amount = float(np.nanmedian(courses.structure[:, 0]))
    course = (logs[:, 0] - usual) / max(values[0] - usual, 1e-6) * far
    more = float(np.sqrt(max(0.0, amount**2 - (amount * np.exp(usual - values[0])) ** 2)))
    return Seen(
        "boiling",
        far,
        "structure that changes from frame to frame",
        amount,
        "levels",
        of_ground(amount * np.exp(controls - own)),
        course,
        _change(courses, locked, more, 0.08, locked.rate / 4),
    )


def pop(courses: Courses, locked: Locked) -> Seen | Abstention:
    """A frame or few that differ from those beside them as no others do."""
    best: Seen | None = None
    for name, table, cycles in (
        ("tone", courses.coarse, 0.02),
        ("structure", courses.structure, 0.08),
    ):
        logs = _beside_ground(table)
        stands = np.array([_stands_out(logs[:, at]) for at in range(logs.shape[1])])
        controls = stands[1:][np.isfinite(stands[1:])]
        if len(controls) < FEWEST or not np.isfinite(stands[0]):
            continue
        far = float(excess(stands[0], controls, 2 * _FLOOR))
        if best is not None and far <= best.far:
            continue
        worst = int(np.nanargmax(logs[:, 0]))
        amount = float(table[worst, 0])
        course = np.zeros(len(logs))
        around = range(max(0, worst - 1), min(len(logs), worst + 2))
        for number in around:
            course[number] = max(0.0, stands[0] - (logs[worst, 0] - logs[number, 0]))
        course = course / max(float(stands[0]), 1e-6) * far
        best = Seen(
            "pop",
            far,
            f"{name} of one frame against those beside it",
            float(np.exp(stands[0])),
            "times what other frames do",
            of_ground(np.exp(controls)),
            course,
            # One frame is short: what is seen of it grows with how long it stands (Bloch 1885).
            _change(courses, locked, amount * min(1.0, 14.0 / locked.rate), cycles, 8.0),
        )
    if best is None:
        return Abstention("too little untouched ground is seen through the shot")
    return best


def _stands_out(logs: np.ndarray) -> float:
    """By how much the worst frame, log, stands above nearly all that are not beside it."""
    known = np.isfinite(logs)
    if known.sum() < _FEW:
        return float("nan")
    worst = int(np.nanargmax(logs))
    others = known.copy()
    # Those beside it are held against it, and depart too.
    others[max(0, worst - _BESIDE) : worst + _BESIDE + 1] = False
    if others.sum() < _FEW // 2:
        return float("nan")
    return float(logs[worst] - np.percentile(logs[others], 95))


def softening(courses: Courses, locked: Locked) -> Seen | Abstention:
    """How much less fine structure the fill has at the end than at the beginning."""
    series = courses.detail - courses.detail_around
    part = max(2, round(_QUARTER * len(series)))
    known = np.isfinite(series)
    enough = (known[:part].sum(axis=0) >= 2) & (known[-part:].sum(axis=0) >= 2)
    lost = np.full(series.shape[1], np.nan)
    lost[enough] = np.nanmedian(series[:part][:, enough], axis=0) - np.nanmedian(
        series[-part:][:, enough], axis=0
    )
    controls = lost[1:][np.isfinite(lost[1:])]
    if len(controls) < FEWEST or not np.isfinite(lost[0]):
        return Abstention("it is not seen both at the beginning and at the end")
    far = float(excess(lost[0], controls, _FLOOR / 2))
    fell = np.nanmedian(series[:part, 0]) - smoothed(series[:, 0], 5)
    course = fell / max(float(lost[0]), 1e-6) * far
    ended = float(np.exp(np.nanmedian(courses.detail[:part, 0]))) * (
        1 - float(np.exp(-max(0.0, lost[0])))
    )
    return Seen(
        "softening",
        far,
        "fine structure lost from beginning to end",
        100 * (1 - float(np.exp(-lost[0]))),
        "%",
        of_ground(100 * (1 - np.exp(-controls))),
        course,
        _change(courses, locked, ended, 0.2, 0.0),
    )


def _beside_ground(table: np.ndarray) -> np.ndarray:
    """log of each frame's departures, without what all control placements have in the same frame: a frame
    that is held still a little less well departs everywhere.
    """
    logs = np.log(table + _LEAST)
    shared = np.zeros(len(logs))
    known = np.isfinite(logs[:, 1:]).sum(axis=1) >= FEWEST
    shared[known] = np.nanmedian(logs[known, 1:], axis=1)
    logs[~known] = np.nan
    usual = float(np.median(shared[known])) if known.any() else 0.0
    return np.asarray(logs - (shared - usual)[:, None])


def _middle(logs: np.ndarray) -> np.ndarray:
    """Median over frames, (areas,); NaN where fewer than half of the frames say anything."""
    enough = np.isfinite(logs).sum(axis=0) >= 0.4 * len(logs)
    found = np.full(logs.shape[1], np.nan)
    found[enough] = np.nanmedian(logs[:, enough], axis=0)
    return found


def _for_its_texture(values: np.ndarray, texture: np.ndarray) -> tuple[np.ndarray, float]:
    """(controls, the fill), without what follows from how much structure each has: structure that is
    brought into register to parts of a pixel departs the more, the more of it there is.
    """
    known = np.isfinite(values) & np.isfinite(texture) & (texture > 0)
    at = np.log(np.maximum(texture, _LEAST))
    controls = known.copy()
    controls[0] = False
    if controls.sum() < FEWEST or not known[0]:
        return values[1:][known[1:]], float("nan")
    spread = float(np.std(at[controls]))
    slope = 0.0
    if spread > 0.15:
        slope = float(np.cov(at[controls], values[controls])[0, 1] / spread**2)
    slope = min(max(slope, 0.0), 1.0)
    # No farther than controls reach.
    reached = np.clip(at, at[controls].min() - 0.3, at[controls].max() + 0.3)
    flat = values - slope * reached
    return flat[controls], float(flat[0])


def _change(courses: Courses, locked: Locked, amount: float, cycles: float, hertz: float) -> Change:
    """What an eye would see of so many levels."""
    level = max(8.0, float(np.nanmean(courses.level[:, 0])))
    area = float(locked.mask[len(locked) // 2].sum()) / locked.box.scale**2
    return Change(min(1.0, GAMMA * 1.4 * amount / level), cycles * locked.box.scale, hertz, area)
