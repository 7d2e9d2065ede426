"""Line: an edge, board, rail or horizon that breaks off, jumps aside or kinks where it enters the
fill.

Segments (Grompone von Gioi and others 2010, as in OpenCV) that run up to the fill from outside and
are steady there are followed
inward. Their cross profile is the template: at steps along the way it is sought to both sides by
normalised correlation.
A *pair* are two segments from opposite sides that lie on one line with the same profile (the second
is looked for behind the fill where none was found):
then the edge must be there along the chord, and may be *missing*, *offset*, run at an angle to it
(*tilt*, of a horizon above all) or swing about it (*wave*: a board
that undulates). From *one side* an edge is called that goes on beside its line (*offset*) or turns
away (*kink*); that it ends proves nothing, unless others like it are missing
between both sides. *Courses* (boards, bricks, tiles) that leave their vanishing point are
`vanishing.departures`; a fill that lies aside or
turned as a whole is `displaced`; edges that stand out of busy ground only over their length are
`faint_lines`; what bends to and fro, followed or not, is `waves`. The null is the
same walk at the same outline laid over untouched parts of the result. A wide region in which
nothing stands is looked at once more at a part of its size.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np

from ..calibrate import natural_range, score_of
from ..carriers import Carriers
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..windows import Window
from .displaced import Displaced, displaced
from .faint_lines import FaintLine, faint_lines
from .rim_nulls import Controls, controls_of
from .vanishing import Course, departures, vanishing_points
from .waves import LEAST_PLACES, SURE, Waves, waves, waves_across

NULL = "outline"
#: Shortest segment outside, and how far its end may lie from the fill, pixels.
LEAST, GAP = 20, 30
#: How far outside the profile is learned, the steps inward, how far across is looked, half the
#: template, pixels.
BACK, STEP, ACROSS, HALF = 26, 8, 18, 7
#: How long a line must be outside for its end to count.
LONG = 45
#: How deep a line is followed from one side, pixels; how many lines at most.
DEEP, MOST = 44, 70
CONTROLS = 12
#: How far a natural line swings, of its length.
_TRUE = 0.012
#: How far back a line is followed to know how long it is, pixels; a whole number of steps.
FAR = 240
#: Lines followed at untouched places, from which on a single one seen from one side may be called
#: broken.
_MANY = 20
#: How many lines that run true from end to end, within so many pixels, speak against one that
#: swings.
_RUN_TRUE, _TRULY = 4, 0.75
#: And how sure it must be (training photographs: those that stand for a flaw are above .95).
_ALONE = 0.93
#: How far around the region straight edges are sought, pixels; as far as anything for regions that
#: are not large.
AROUND = 260
#: Surroundings wider and taller than this are searched at half the size, pixels.
LARGE = 1000
_SEED = 20263
_LAGS = ACROSS - HALF
#: Which places across a template covers at each lag, and ones there, (2 * ACROSS + 1, lags).
_OF_LAG = (
    np.arange(2 * HALF + 1)[:, None] + np.arange(2 * _LAGS + 1),
    np.arange(2 * _LAGS + 1)[None],
)
_ONES = np.zeros((2 * ACROSS + 1, 2 * _LAGS + 1), np.float32)
_ONES[_OF_LAG] = 1.0


@dataclass(frozen=True)
class Ray:
    """A segment that enters an area. `entry`: (x, y) where it does; `toward`: unit vector inward;
    `length`: steady length outside;
    `depth`: pixels from the entry to where its line leaves the area again; `profile`: (2 * HALF +
    1,) luma across it, zero mean,
    left to right of `toward`; `contrast`: its range; `hidden`: whether it shows only over its
    length; `aside`: unit vector across.
    """

    entry: np.ndarray
    toward: np.ndarray
    length: float
    depth: float
    profile: np.ndarray
    contrast: float
    hidden: bool = False

    @property
    def aside(self) -> np.ndarray:
        """Unit vector (2,) square to `toward`."""
        return np.array([-self.toward[1], self.toward[0]])


@dataclass(frozen=True)
class Break:
    """One line that does not go on. `what`: one of `HALVES`; `amount`: share missing, pixels, or
    degrees;
    `aside`: (offset, swing, tilt) of a line that was followed between two ends, pixels and degrees;
    `signed`: of a line seen from one side, which way it turns (degrees, from x
    towards y) or jumps (pixels, along the normal of its direction within half a turn); `faint`:
    seen over its length only (`faint_lines`); `hidden`: whether one of its ends shows
    only over its length; `sure`: 0..1 how well the edge was recognised, of a faint one by how many
    spreads less is there than should be; `ends`: the outer ends [(x,
    y), ...]; `trace`: where the edge was found inside."""

    what: str
    amount: float
    sure: float
    ends: tuple[np.ndarray, ...]
    trace: np.ndarray
    contrast: float
    length: float
    angle: float
    paired: bool
    aside: tuple[float, float, float] = (0.0, 0.0, 0.0)
    signed: float = 0.0
    faint: bool = False
    hidden: bool = False

    def like(self, other: Break) -> bool:
        """Whether both, seen from one side, go the same way by about as much."""
        small, large = sorted((abs(self.signed), abs(other.signed)))
        return self.signed * other.signed > 0 and large < 2 * small


def segments_of(luma: np.ndarray, area: np.ndarray) -> np.ndarray:
    """(n, 4) x0, y0, x1, y1 of straight edges at least `LEAST` px long, within `AROUND` px of an
    area; window coordinates.
    """
    x, y, w, h = cv2.boundingRect(area.view(np.uint8))
    top, left = max(0, y - AROUND), max(0, x - AROUND)
    part = luma[top : y + h + AROUND, left : x + w + AROUND]
    # Around a large area by half: what is straight over a long way is so at half the size, and its
    # place is refined later.
    every = 2 if min(part.shape) > LARGE else 1
    if every == 2:
        part = cv2.resize(
            part, (part.shape[1] // 2, part.shape[0] // 2), interpolation=cv2.INTER_AREA
        )
    found = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD).detect(
        np.clip(part, 0, 255).astype(np.uint8)
    )[0]
    if found is None:
        return np.empty((0, 4))
    lines = (
        found.reshape(-1, 4).astype(float) * every
        + (every - 1) / 2
        + np.array([left, top, left, top])
    )
    return lines[np.hypot(lines[:, 2] - lines[:, 0], lines[:, 3] - lines[:, 1]) >= LEAST]


def _patch(
    luma: np.ndarray, start: np.ndarray, toward: np.ndarray, first: float, count: int
) -> np.ndarray:
    """Luma along and across a line: (count, 2 * ACROSS + 1)."""
    (x, y), (dx, dy) = start, toward
    matrix = np.array(
        [[-dy, dx, x + first * dx + ACROSS * dy], [dx, dy, y + first * dy - ACROSS * dx]]
    )
    return cv2.warpAffine(
        luma,
        matrix,
        (2 * ACROSS + 1, count),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )


def _sought(rows: np.ndarray, template: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Where a template lies across each row, by normalised correlation.

    Args:
        rows: (n, 2 * ACROSS + 1). template: (2 * HALF + 1,), zero mean.

    Returns:
        (n, lags) correlation; (n, lags) amplitude in multiples of the template. Lag index `_LAGS`
        is straight on.
    """
    size, power = 2 * HALF + 1, float((template**2).sum())
    # Every lag at once: a template of zero mean takes no note of the rows' own.
    laid = np.zeros_like(_ONES)
    laid[_OF_LAG] = template[:, None]
    rows = rows - rows.mean(axis=1, keepdims=True)
    product = rows @ laid
    sums = rows @ _ONES
    # A floor of two levels keeps a flat row from matching anything.
    norm = np.sqrt(np.maximum((rows * rows) @ _ONES - sums * sums / size, 4.0 * size) * power)
    return product / norm, product / power


def _refined(correlation: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Sub-pixel places (n,) of peaks `at` in rows of correlation (n, lags), by a parabola; a peak
    at an end stays.
    """
    rows, inner = np.arange(len(at)), np.clip(at, 1, correlation.shape[1] - 2)
    a, b, c = (correlation[rows, inner + k] for k in (-1, 0, 1))
    bend = a - 2 * b + c
    peaked = (inner == at) & (bend < -1e-9)
    return np.asarray(
        at + np.where(peaked, np.clip(0.5 * (a - c) / np.where(peaked, bend, -1.0), -0.5, 0.5), 0.0)
    )


def _fitted(where: np.ndarray, values: np.ndarray) -> tuple[float, float]:
    """Slope and height at nought of the straight line nearest to some values, by least squares."""
    middle = float(where.mean())
    aside = where - middle
    slope = float(aside @ values) / max(float(aside @ aside), 1e-9)
    return slope, float(values.mean()) - slope * middle


#: How far a boundary is looked at on all sides of where a line enters, pixels.
_SOFT = 18
_BLUR = np.pad(cv2.getGaussianKernel(33, 4.0)[:, 0], 2)
_RISE = np.pad(_BLUR, (2, 0))[:-2] - np.pad(_BLUR, (0, 2))[2:]


def _inward(edged: np.ndarray, x: int, y: int) -> np.ndarray:
    """(x, y), the way into an area at a place, as it rises behind a Gaussian of 4 px; only asked at
    some places. `edged`: uint8, the area with `_SOFT` px more on all sides.
    """
    near = edged[y : y + 2 * _SOFT + 1, x : x + 2 * _SOFT + 1].astype(float)
    return np.array([_BLUR @ near @ _RISE, _RISE @ near @ _BLUR])


def rays_of(segments: np.ndarray, area: np.ndarray, luma: np.ndarray) -> list[Ray]:
    """Segments that enter an area and are steady before it, the clearest first."""
    if not len(segments):
        return []
    height, width = area.shape
    x, y, w, h = cv2.boundingRect(area.view(np.uint8))
    margin = max(GAP, 16) + 4
    crop = (slice(max(0, y - margin), y + h + margin), slice(max(0, x - margin), x + w + margin))
    own = np.ascontiguousarray(area[crop]).view(np.uint8)
    edged = cv2.copyMakeBorder(own, _SOFT, _SOFT, _SOFT, _SOFT, cv2.BORDER_REFLECT_101)
    near = np.zeros(area.shape, bool)
    near[crop] = cv2.dilate(own, np.ones((2 * GAP + 1, 2 * GAP + 1), np.uint8)).astype(bool)
    both = np.concatenate([segments, segments[:, [2, 3, 0, 1]]])
    part = np.linspace(0, 1, 9)[:, None]
    px, py = (
        both[:, 0] + part * (both[:, 2] - both[:, 0]),
        both[:, 1] + part * (both[:, 3] - both[:, 1]),
    )
    close = near[
        np.clip(py.round().astype(int), 0, height - 1),
        np.clip(px.round().astype(int), 0, width - 1),
    ].any(axis=0)
    both = both[close]
    start, toward = both[:, :2], both[:, 2:] - both[:, :2]
    length = np.hypot(*toward.T)
    toward = toward / length[:, None]
    # All are followed at once, a little beyond their ends, to where they enter.
    steps = np.arange(int(length.max(initial=0)) + GAP + 1)
    xs, ys = (
        (start[:, k, None] + steps * toward[:, k, None]).round().astype(np.int32) for k in (0, 1)
    )
    ok = (xs >= 0) & (ys >= 0) & (xs < width) & (ys < height) & (steps < length[:, None] + GAP)
    inside = np.where(ok, area[np.clip(ys, 0, height - 1), np.clip(xs, 0, width - 1)], False)
    first = inside.argmax(axis=1)
    rays = []
    for at in np.flatnonzero(inside.any(axis=1) & (first >= LEAST)):
        entry = start[at] + first[at] * toward[at]
        ex, ey = int(np.clip(entry[0], 2, width - 3)), int(np.clip(entry[1], 2, height - 3))
        inward = _inward(edged, ex - crop[1].start, ey - crop[0].start)
        if inward @ toward[at] < 0.4 * np.hypot(*inward):
            continue
        ray = _steady(luma, area, entry, toward[at], float(first[at]))
        if ray is not None:
            rays.append(ray)
    rays.sort(key=lambda ray: -ray.contrast * min(ray.length, 60))
    kept: list[Ray] = []
    for ray in rays:
        # Both flanks of a thin bar are two segments; one profile covers both.
        if all(
            np.hypot(*(ray.entry - other.entry)) > 4 or ray.toward @ other.toward < 0.95
            for other in kept
        ):
            kept.append(ray)
            if len(kept) == MOST:
                break
    return kept


@lru_cache(maxsize=64)
def _stretches(back: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """About six rows each of so many before a boundary: where they start and their sizes (n, 1),
    and how far from where the line enters their middles lie, pixels.
    """
    count = max(2, back // 6)
    starts = np.arange(count) * back // count
    sizes = np.append(starts[1:], back) - starts
    return (
        starts,
        sizes[:, None].astype(np.float32),
        -3.0 - back + (np.arange(count) + 0.5) * back / count,
    )


def _steady(
    luma: np.ndarray, area: np.ndarray, entry: np.ndarray, toward: np.ndarray, length: float
) -> Ray | None:
    """Straighten a ray along its own edge and learn its profile; None where it is not steady
    outside.
    """
    for _ in range(2):
        back = int(min(length, 60)) - 3
        patch = _patch(luma, entry, toward, -3.0 - back, back)
        starts, sizes, middles = _stretches(back)
        rows = np.add.reduceat(patch, starts, axis=0) / sizes
        template = rows.mean(axis=0)[ACROSS - HALF : ACROSS + HALF + 1]
        template = template - template.mean()
        contrast = float(np.ptp(template))
        if contrast < 7:
            return None
        correlation, _ = _sought(rows, template)
        middle = correlation[:, _LAGS - 3 : _LAGS + 4]
        best, sure = middle.argmax(axis=1), np.sort(middle.max(axis=1))
        # The median, and how many are sure.
        if sure[(len(sure) - 1) // 2] + sure[len(sure) // 2] < 2 * 0.85 or np.count_nonzero(
            sure > 0.7
        ) < 0.75 * len(sure):
            return None
        lags = _refined(middle, best) - 3
        slope, shift = _fitted(middles, lags)
        aside = np.array([-toward[1], toward[0]])
        entry = entry + shift * aside
        toward = toward + slope * aside
        toward = toward / np.hypot(*toward)
    last = _patch(luma, entry, toward, -3.0 - min(BACK, back), min(BACK, back)).mean(axis=0)[
        ACROSS - HALF : ACROSS + HALF + 1
    ]
    last = last - last.mean()
    length = max(length, _runs_on(luma, entry, toward, last))
    steps = np.arange(1, 400)
    xs = np.clip((entry[0] + steps * toward[0]).round().astype(int), 0, area.shape[1] - 1)
    ys = np.clip((entry[1] + steps * toward[1]).round().astype(int), 0, area.shape[0] - 1)
    out = np.flatnonzero(~area[ys, xs] & (steps > 3))
    return Ray(
        entry, toward, length, float(out[0]) if len(out) else 399.0, last, float(np.ptp(last))
    )


def _runs_on(luma: np.ndarray, entry: np.ndarray, toward: np.ndarray, profile: np.ndarray) -> float:
    """How far back from its entry a line keeps its profile, pixels: segments are often found in
    pieces.
    """
    rows = _patch(luma, entry, toward, -3.0 - FAR, FAR).reshape(FAR // STEP, STEP, -1).mean(axis=1)
    correlation, amplitude = _sought(rows, profile)
    straight = slice(_LAGS - 3, _LAGS + 4)
    there = np.flip(((correlation[:, straight] > 0.7) & (amplitude[:, straight] > 0.4)).any(axis=1))
    # One gap is a gap, two end it.
    gone = np.flatnonzero(~there[:-1] & ~there[1:])
    return 3.0 + STEP * float(gone[0] if len(gone) else len(there))


def _pairs(rays: list[Ray]) -> Iterator[tuple[Ray, Ray]]:
    """Rays from opposite sides that lie on one line and look alike."""
    for i, first in enumerate(rays):
        for second in rays[i + 1 :]:
            if first.toward @ second.toward > -0.994:
                continue
            between = second.entry - first.entry
            gap = float(np.hypot(*between))
            if gap < 14 or first.toward @ between < 0.97 * gap:
                continue
            aside = max(abs(float(first.aside @ between)), abs(float(second.aside @ between)))
            if aside > 2.0 + 0.02 * gap or gap > first.depth + 25:
                continue
            other = second.profile[::-1]
            likeness = float(
                first.profile @ other / np.sqrt((first.profile**2).sum() * (other**2).sum())
            )
            if likeness > 0.8:
                yield first, second


def _goes_on_beyond(luma: np.ndarray, area: np.ndarray, ray: Ray) -> Ray | None:
    """The ray that comes from the other side where a line goes on behind an area, though no segment
    was found there; None where it does not.
    """
    count = 4
    patch = _patch(luma, ray.entry, ray.toward, ray.depth + 3.0, count * STEP)
    correlation, amplitude = _sought(patch.reshape(count, STEP, -1).mean(axis=1), ray.profile)
    aside = min(_LAGS, int(2.0 + 0.02 * ray.depth))
    near = slice(_LAGS - aside, _LAGS + aside + 1)
    best = correlation[:, near].argmax(axis=1)
    sure = correlation[:, near].max(axis=1)
    if (
        np.median(sure) < 0.8
        or sure[:2].min() < 0.7
        or np.ptp(best[sure > 0.7]) > 3
        or not 0.5 < float(np.median(amplitude[np.arange(count), near.start + best])) < 2.0
    ):
        return _shown_beyond(luma, area, ray, aside)
    start = ray.entry + ray.depth * ray.toward + (float(np.median(best)) - aside) * ray.aside
    end = start + count * STEP * ray.toward
    if (
        not (0 <= end[0] < area.shape[1] and 0 <= end[1] < area.shape[0])
        or area[int(end[1]), int(end[0])]
    ):
        return None
    return _steady(luma, area, start, -ray.toward, float(count * STEP))


def _shown_beyond(luma: np.ndarray, area: np.ndarray, ray: Ray, aside: int) -> Ray | None:
    """The same where the ground's own detail hides the line step by step, but not over a longer
    stretch.
    """
    if ray.depth > _THROUGH:
        return None
    patch = _patch(luma, ray.entry, ray.toward, ray.depth + 3.0, _BEHIND)
    # Medians: what crosses the line there is strong, but short.
    parts = np.stack([np.median(some, axis=0) for some in (patch, *np.array_split(patch, 2))])
    correlation, amplitude = _sought(parts, ray.profile)
    near = slice(_LAGS - aside, _LAGS + aside + 1)
    best = near.start + int(correlation[0, near].argmax())
    close = slice(max(0, best - 2), best + 3)
    halves = np.where(amplitude[1:, close] > 0.4, correlation[1:, close], 0.0).max(axis=1)
    if correlation[0, best] < 0.85 or not 0.5 < amplitude[0, best] < 2.0 or halves.min() < 0.6:
        return None
    start = ray.entry + ray.depth * ray.toward + (best - _LAGS) * ray.aside
    end = start + _BEHIND * ray.toward
    if (
        not (0 <= end[0] < area.shape[1] and 0 <= end[1] < area.shape[0])
        or area[int(end[1]), int(end[0])]
    ):
        return None
    profile = parts[0, best : best + 2 * HALF + 1][::-1]
    return Ray(
        start,
        -ray.toward,
        float(_BEHIND),
        ray.depth,
        profile - profile.mean(),
        float(np.ptp(profile)),
        hidden=True,
    )


def _in_one_line(first: Ray, second: Ray) -> bool:
    """Whether two rays lie on one straight line as exactly as they are known."""
    between = second.entry - first.entry
    aside = max(abs(float(first.aside @ between)), abs(float(second.aside @ between)))
    return (
        aside <= 1.0 + 0.012 * float(np.hypot(*between))
        and float(first.toward @ second.toward) < -0.9985
    )


def _along_pair(luma: np.ndarray, area: np.ndarray, first: Ray, second: Ray) -> Break | None:
    between = second.entry - first.entry
    gap = float(np.hypot(*between))
    toward = between / gap
    count = int((gap - 5) // STEP)
    if count < 3:
        return None
    patch = _patch(luma, first.entry, toward, 3.0, count * STEP)
    middles = first.entry + (3.0 + (np.arange(count) + 0.5) * STEP)[:, None] * toward
    xs, ys = (
        np.clip(middles[:, 0].round().astype(int), 0, area.shape[1] - 1),
        np.clip(middles[:, 1].round().astype(int), 0, area.shape[0] - 1),
    )
    inside = area[ys, xs]
    if inside.mean() < 0.7:
        return None
    rows = patch.reshape(count, STEP, -1).mean(axis=1)
    template = (first.profile + second.profile[::-1]) / 2
    correlation, amplitude = _sought(rows, template)
    near = slice(_LAGS - 2, _LAGS + 3)
    # A joint that is dark between light tiles may be light between dark ones.
    shown = (correlation[:, near] > 0.45) | (correlation[:, near] < -0.7)
    there = np.clip(np.where(shown, np.abs(amplitude[:, near]), 0.0).max(axis=1), 0, 1)
    best = correlation.argmax(axis=1)
    lags = _refined(correlation, best) - _LAGS
    good = (
        (correlation.max(axis=1) > 0.75)
        & (amplitude[np.arange(count), best] > 0.45)
        & (np.abs(lags) < _LAGS - 0.5)
    )
    aside = np.array([-toward[1], toward[0]])
    trace = middles + np.where(good, lags, 0.0)[:, None] * aside
    facts: dict[str, Any] = dict(
        ends=(first.entry, second.entry),
        contrast=min(first.contrast, second.contrast),
        length=gap,
        angle=float(np.degrees(np.arctan2(toward[1], toward[0])) % 180),
        paired=True,
        hidden=first.hidden or second.hidden,
    )
    missing = 1.0 - float(there.mean())
    # Two ends that do not quite lie on one line leave that much room between them.
    room = max(abs(float(first.aside @ between)), abs(float(second.aside @ between)))
    apart, tilt, swing, rest = 0.0, 0.0, 0.0, np.inf
    if good.mean() >= 0.5:
        apart = float(np.median(np.abs(lags[good])))
        apart = apart if apart > room + 1.2 else max(0.0, apart - room)
        tilt, swing, rest = _course_of((np.arange(count)[good] + 0.5) * STEP, lags[good], gap)
    if rest >= 0.9 or (tilt < 0.9 and max(apart, swing) > 1.2):
        # Neither aside as a whole nor at an angle: it may swing, and faster than from one such step
        # to the next.
        closely, beside, likeness = _followed(luma, first.entry, toward, gap, template, room)
        close = _swing_of(closely, beside) if likeness > _LIKE else 0.0
        # Two lines that lie beside one another, each straight, swing about the chord between them
        # by half of what they lie apart.
        if close > max(1.2, 0.75 * apart, swing, _BESIDE * room):
            return Break(
                "wave",
                close,
                likeness,
                trace=first.entry + closely[:, None] * toward + beside[:, None] * aside,
                aside=(0.0, close, 0.0),
                **facts,
            )
        if (
            likeness > CERTAIN
            and not facts["hidden"]
            and min(first.length, second.length) >= LONG
            and (bent := _bent_by(beside, gap) - room) > max(1.2, swing)
        ):
            return Break(
                "wave",
                bent,
                likeness,
                trace=first.entry + closely[:, None] * toward + beside[:, None] * aside,
                aside=(0.0, bent, 0.0),
                **facts,
            )
    if missing > 0.5 and (
        min(first.length, second.length) < 0.45 * gap or not _in_one_line(first, second)
    ):
        # Two short joints that happen to lie in one line need not have been one, nor two edges that
        # do not quite.
        return None
    # It goes on, beside its line: the chord is known from both sides, so this is its true offset.
    if good.mean() >= 0.5 and (apart > 1.2 or swing > 1.2 or missing < 0.5):
        sure = float(correlation.max(axis=1)[good].mean())
        # Two ends that were found a little aside tilt the chord between them by as much.
        tilt = max(0.0, tilt - float(np.degrees(room / gap)))
        what, amount = "offset", apart
        if swing > max(1.2, 0.75 * apart, _BESIDE * room):
            what, amount = "wave", swing
        elif tilt > 0.9 and rest < 0.9 and np.tan(np.radians(tilt)) * gap > 2.2 * max(apart, 1.2):
            what, amount = "tilt", tilt
        return Break(what, amount, sure, trace=trace[good], aside=(apart, swing, tilt), **facts)
    return Break("missing", missing, 1.0, trace=np.empty((0, 2)), **facts)


#: The likeness from which on a line that bends to one side only is known to be that line (of 350
#: clean results of photographs none has one that bends by more than 2.2 px), and how
#: far one may bend by nature, of its length.
CERTAIN, _BENT_BY = 0.98, 0.005
#: The likeness along a line that was followed closely from which it is known to be that line, and
#: what part of what speaks against straight on may speak against its way.
_LIKE, _LIKELIER = 0.8, 0.65
#: What a line that swings does to one side, it does to the other by at least this part.
_BOTH_WAYS = 0.35
#: How long a stretch behind an area is averaged where a line is hidden in detail, and through how
#: wide an area so short a one is known to be the same line, pixels.
_BEHIND, _THROUGH = 48, 110.0
#: What part of the room between two lines that do not quite lie in one a swing must exceed.
_BESIDE = 0.75
#: Steps at which a line is followed closely, the length of it that is averaged at each, how far it
#: may move from one to the next, pixels, and what moving costs of its likeness.
FINE, _OVER, _MOVE, _COST = 4, 6, 3, 0.03


def _followed(
    luma: np.ndarray,
    start: np.ndarray,
    toward: np.ndarray,
    gap: float,
    template: np.ndarray,
    room: float,
) -> tuple[np.ndarray, np.ndarray, float]:
    """The likeliest way of a line from one known end to the other (Viterbi 1967): it may wander,
    but not jump, and ends where it is known to.

    Args:
        room: how far beside their chord both ends may lie, pixels.

    Returns:
        (n,) pixels along the chord; (n,) pixels beside it; the median likeness along the way, 0..1,
        or 0 where straight on is about as likely.
    """
    count = int((gap - _OVER) // FINE)
    if count < 5:
        return np.empty(0), np.empty(0), 0.0
    patch = _patch(luma, start, toward, 3.0, (count - 1) * FINE + _OVER)
    rows = np.stack([patch[k * FINE : k * FINE + _OVER].mean(axis=0) for k in range(count)])
    correlation, amplitude = _sought(rows, template)
    worth = np.clip(correlation, 0, 1) * np.clip(amplitude / 0.45, 0, 1)
    lags = np.arange(worth.shape[1]) - _LAGS
    far = np.where(np.abs(lags) > room + 1.5, -1.0, 0.0)
    moves = lags[None, :] - lags[:, None]
    cost = np.where(np.abs(moves) <= _MOVE, _COST * moves.astype(float) ** 2, np.inf)
    total, came = worth[0] + far, np.zeros(worth.shape, int)
    for row in range(1, count):
        options = total[:, None] - cost
        came[row] = options.argmax(axis=0)
        total = options.max(axis=0) + worth[row]
    best = np.zeros(count, int)
    best[-1] = int((total + far).argmax())
    for row in range(count - 1, 0, -1):
        best[row - 1] = came[row, best[row]]
    way, straight = worth[np.arange(count), best], worth[:, _LAGS - 1 : _LAGS + 2].max(axis=1)
    # On busy ground some other way is always a little likelier than straight on.
    likeness = float(np.median(way)) if 1 - way.mean() < _LIKELIER * (1 - straight.mean()) else 0.0
    return 3.0 + _OVER / 2 + FINE * np.arange(count), _refined(correlation, best) - _LAGS, likeness


def _swing_of(where: np.ndarray, lags: np.ndarray) -> float:
    """Half the way between extremes of a line that was followed closely, about its own straight
    course, pixels; nought for what only bends to one side, as many things do.
    """
    # One place that was recognised wrongly is no wave.
    calm = np.array([np.median(lags[max(0, k - 1) : k + 2]) for k in range(len(lags))])
    if min(calm.max(), -calm.min()) < _BOTH_WAYS * max(calm.max(), -calm.min()):
        return 0.0
    slope, shift = _fitted(where, lags)
    return float(np.ptp(calm - (slope * where + shift))) / 2


def _bent_by(lags: np.ndarray, gap: float) -> float:
    """How far a line that was followed closely bends away from the chord between its ends, pixels,
    less what over a long way is nothing; nought for one that lies beside it all
    along."""
    if not len(lags):
        return 0.0
    calm = np.array([np.median(lags[max(0, k - 1) : k + 2]) for k in range(len(lags))])
    far = float(np.abs(calm).max())
    begins, ends = (float(np.abs(lags[part]).mean()) for part in (slice(None, 2), slice(-2, None)))
    inner = calm[len(calm) // 6 : len(calm) - len(calm) // 6]
    return (
        max(0.0, far - _BENT_BY * gap)
        if max(begins, ends) <= max(1.5, 0.4 * far) or np.ptp(inner) >= 0.5 * far
        else 0.0
    )


def _course_of(where: np.ndarray, lags: np.ndarray, gap: float) -> tuple[float, float, float]:
    """How a followed line runs against its chord: (tilt in degrees, swing about its own straight
    course as half the way between extremes in pixels, and
    the largest departure from that course). Noughts where too few places were recognised."""
    if len(lags) < 4:
        return 0.0, 0.0, 0.0
    slope, shift = _fitted(where, lags)
    off = lags - (slope * where + shift)
    # One step that was recognised wrongly is no wave: three neighbours must swing together.
    smooth = np.array([np.median(off[max(0, k - 1) : k + 2]) for k in range(len(off))])
    # And a board bends from step to step; what jumps, or jumped where it was not recognised for a
    # while, was mistaken for another line beside it.
    between = np.diff(where) / STEP
    bends = (
        len(lags) >= 6
        and np.ptp(where) > 0.7 * gap
        and float((np.abs(np.diff(off)) - 1.2 * (np.minimum(between, 3.0) - 1.0)).max()) < 4.8
    )
    swing = float(np.ptp(smooth)) / 2 if bends else 0.0
    return abs(float(np.degrees(np.arctan(slope)))), swing, float(np.abs(off).max())


def _one_side(luma: np.ndarray, ray: Ray) -> Break | None:
    count = int((min(ray.depth, DEEP) - 3) // STEP)
    if count < 3:
        return None
    rows = (
        _patch(luma, ray.entry, ray.toward, 3.0, count * STEP).reshape(count, STEP, -1).mean(axis=1)
    )
    correlation, amplitude = _sought(rows, ray.profile)
    best = correlation.argmax(axis=1)
    lags = _refined(correlation, best) - _LAGS
    sure = correlation.max(axis=1)
    # From one side a jump far aside is more likely another, parallel line.
    good = (sure > 0.8) & (amplitude[np.arange(count), best] > 0.55) & (np.abs(lags) < 6.5)
    where = 3.0 + (np.arange(count) + 0.5) * STEP
    angle = float(np.degrees(np.arctan2(ray.toward[1], ray.toward[0])) % 180)
    if good.sum() < 3 or not good[0]:
        there = np.clip(np.where(correlation > 0.45, amplitude, 0.0).max(axis=1), 0, 1)[:4]
        if ray.length < LONG or ray.contrast < 14:
            return None
        # A long, clear line that stops just where the fill begins: an outline laid anywhere else
        # hardly ever meets a line's end.
        return Break(
            "missing",
            1.0 - float(there.mean()),
            1.0,
            (ray.entry, ray.entry + where[min(3, count - 1)] * ray.toward),
            np.empty((0, 2)),
            ray.contrast,
            float(where[min(3, count - 1)]),
            angle,
            False,
        )
    slope, shift = np.polyfit(where[good], lags[good], 1)
    rest = float(np.abs(lags[good] - (slope * where[good] + shift)).max())
    if rest > 0.9:
        return None  # it wanders: another thing was followed
    middles = ray.entry + where[:, None] * ray.toward + lags[:, None] * ray.aside
    facts: dict[str, Any] = dict(
        sure=float(sure[good].mean()),
        ends=(ray.entry,),
        trace=middles[good],
        contrast=ray.contrast,
        length=float(where[-1]),
        angle=angle,
        paired=False,
    )
    turned = abs(float(np.degrees(np.arctan(slope))))
    # What a ray's own direction may be wrong by, from its length and a third of a pixel.
    doubt = np.degrees(0.35 / max(12.0, min(ray.length, 60)))
    if turned > 2 * doubt + 1.2:
        if ray.length < 32 or good.sum() < 4:
            return None
        return Break(
            "kink", max(0.0, turned - doubt), signed=float(np.degrees(np.arctan(slope))), **facts
        )
    jump = float(np.median(lags[good]))
    return Break(
        "offset",
        abs(jump),
        signed=jump if ray.toward[1] > 0 or (ray.toward[1] == 0 and ray.toward[0] > 0) else -jump,
        **facts,
    )


def breaks_of(segments: np.ndarray, area: np.ndarray, luma: np.ndarray) -> list[Break]:
    """Every line followed into an area, whether it breaks or not (then its amount is small)."""
    rays = rays_of(segments, area, luma)
    found, paired = [], set()
    for first, second in _pairs(rays):
        known = _along_pair(luma, area, first, second)
        if known is not None:
            found.append(known)
            paired |= {id(first), id(second)}
    for ray in [ray for ray in rays if id(ray) not in paired and 14 <= ray.depth < 390]:
        beyond = _goes_on_beyond(luma, area, ray)
        for first, second in _pairs([ray, beyond]) if beyond is not None else ():
            known = _along_pair(luma, area, first, second)
            if known is not None:
                found.append(known)
                paired.add(id(ray))
    return found + [
        one for ray in rays if id(ray) not in paired and (one := _one_side(luma, ray)) is not None
    ]


#: What is natural for faint lines stands under this name, for lines that end, seen from one side,
#: under that; and which way each goes and how much of it is gone, degrees and
#: share, under the last.
FAINT, ENDS, WAYS = "faint", "ends", "ways"
#: Where this share of the lines of one direction end by nature, as joints do at every brick, a gap
#: in one more says nothing; directions that are alike, degrees, and how many
#: lines must be known.
_ENDING, _SAME_WAY, _KNOWN = 0.4, 12.0, 3
#: A share missing that none reaches.
_NOTHING = 1.1
#: Of faint lines: the part missing from which one is looked at again, and how much more of it must
#: be to count in full; what is there the other way round is another thing: from
#: how much on it counts less, and over how much; at which the score is a half (and where little is
#: known of how others go on), and the spreads at which it is.
_FAINT_FROM, _FAINT_WIDE, _OTHER_WAY, _FAINT_HALVES, _FAINT_SURE = (
    0.4,
    0.3,
    (1.4, 0.5),
    (0.55, 0.65),
    2.8,
)
#: Up to how uneven a line counts for what it is, how many spreads more it must be sure of for each
#: such part more, and from where on a single one is none however sure.
_EVEN, _UNEVEN, _TOO_UNEVEN = 0.35, 20.0, 0.6
#: How sure a faint edge must be that has no second beside it, as a bar, a track or a kerb has; what
#: it may score else.
_FAINT_ALONE, _FAINT_MOST = 3.0, 0.45
#: How much surer than the surest that ends by nature.
_ONCE = 1.2
#: Bars that run within so many degrees are alike; less of one is missing where it goes on; and so
#: many must be known to say how often such bars end by nature.
_ALIKE_BARS, _GOES_ON, _BARS_KNOWN = 9.0, 0.35, 4
#: Thin lines: what one must stand out by at least and how uneven it may be at most to be known, how
#: many of its course (within so many degrees) must be known to say how they go on
#: here; the part missing at which the score is a half then, at least, how much above what is
#: missing of nineteen in twenty of them; the same where too few are known; the width;
#: and by how many spreads less must be there.
_THIN_CLEAR, _THIN_EVEN, _THIN_KNOWN, _COURSE_OF = 4.5, 0.45, 4, 20.0
_THIN_HALF, _THIN_ABOVE, _THIN_ALONE, _THIN_WIDTH, _THIN_SURE = 0.25, 0.15, 0.75, 0.05, 2.5
#: How far from a bar's middle its own edges lie beside half its width, pixels.
_OF_A_BAR = 6.0


def spreads_gone(line: FaintLine) -> float:
    """By how many spreads less of an edge is there than should be, if it is mostly missing: what
    nature lays across one leaves some of it.
    """
    other = float(np.clip(1 - (line.missing - _OTHER_WAY[0]) / _OTHER_WAY[1], 0, 1))
    return line.sure * float(np.clip((line.missing - _FAINT_FROM) / _FAINT_WIDE, 0, 1)) * other


def _asked(line: FaintLine, sure: float) -> float:
    """How sure an uneven line must be where an even one must be so sure."""
    return sure + _UNEVEN * max(0.0, line.uneven - _EVEN)


def faint_breaks(
    luma: np.ndarray, area: np.ndarray, places: list[tuple[int, int]], known: list[Break]
) -> tuple[list[tuple[float, Break]], np.ndarray]:
    """Edges and bars seen over their length only that are not there inside, with scores, none that
    were followed already; and how much of others is missing at untouched
    places."""

    def new(line: FaintLine) -> bool:
        middle = line.ends.mean(axis=0)
        for one in known:
            turn = abs(one.angle - line.angle) % 180
            across = np.array([-np.sin(np.radians(one.angle)), np.cos(np.radians(one.angle))])
            if (
                min(turn, 180 - turn) < 6
                and abs(float((middle - one.ends[0]) @ across)) < 10 + line.width / 2
            ):
                return False
        return True

    lines = faint_lines(luma, area, [(0, 0)])[0]
    broken = [
        line
        for line in lines
        if line.missing > (_THIN_HALF / 2 if line.thin else _FAINT_FROM) and new(line)
    ]
    if not broken:
        return [], np.empty(0)
    # Where things that lie in one line by chance, or lines that nature interrupts, are seen so at
    # untouched places, more is asked for.
    others = [line for some in (faint_lines(luma, area, places) if places else []) for line in some]
    natural = np.array([spreads_gone(line) for line in others if not line.width])
    most = _ONCE * max((spreads_gone(line) for line in others if not line.thin), default=0.0)
    known_well = len(natural) >= 5
    sure = max(_FAINT_SURE, 1.2 * float(np.quantile(natural, 0.95))) if known_well else _FAINT_SURE
    half = _FAINT_HALVES[not known_well]
    edges, bars = (
        [line for line in broken if bool(line.width) == wide and not line.thin]
        for wide in (False, True)
    )
    whole = [(bar_gone(bar, lines, others, half), bar) for bar in bars]
    scored = [
        (score, line)
        for line in broken
        if line.thin and (score := thin_gone(line, others if places else [])) > 0
    ]
    thin = [line for score, line in scored if score >= 0.5]
    for line in edges:
        if any(_edge_of(line, other) for other in thin):
            continue
        score = float(score_of(np.array(line.missing), half, 0.07)) * float(
            score_of(np.array(spreads_gone(line)), _asked(line, sure), 0.35)
        )
        paired = any(
            other.sure > _FAINT_SURE and other.turned(line) < 8
            for other in edges
            if other is not line
        )
        if not paired and (
            line.uneven > _TOO_UNEVEN
            or line.sure < max(_asked(line, _FAINT_ALONE), most)
            or not places
        ):
            # What lies beside its line may well be another, a single one that ends by nature
            # elsewhere is enough to ask for more, and where no other place says how edges go on
            # here, two that end in one line need not be one.
            score = min(score, 0.45 if line.aside else _FAINT_MOST)
        scored.append(
            (max([score, *(sure_of for sure_of, bar in whole if _edge_of(line, bar))]), line)
        )
    # A bar is told by its edges where they are known.
    scored += [
        (score, bar) for score, bar in whole if not any(_edge_of(line, bar) for line in edges)
    ]
    found = []
    for score, line in scored:
        facts: dict[str, Any] = dict(
            sure=line.sure,
            ends=tuple(line.ends),
            contrast=line.contrast,
            length=line.length,
            angle=line.angle,
            paired=True,
            faint=True,
        )
        across = np.array([-np.sin(np.radians(line.angle)), np.cos(np.radians(line.angle))])
        if line.trace is not None:
            found.append(
                (
                    score,
                    Break(
                        "wave", line.swing, trace=line.trace, aside=(0.0, line.swing, 0.0), **facts
                    ),
                )
            )
            continue
        trace = line.ends + line.aside * across if line.aside else np.empty((0, 2))
        found.append(
            (
                score,
                Break(
                    "offset" if line.aside else "missing",
                    abs(line.aside) if line.aside else float(np.clip(line.missing, 0, 1)),
                    trace=trace,
                    **facts,
                ),
            )
        )
    return found, np.array([float(np.clip(line.missing, 0, 1)) for line in others])


def thin_gone(line: FaintLine, others: list[FaintLine]) -> float:
    """How surely a thin line that is not there inside, or not straight, should be, 0..1: others of
    its course, at untouched places, say how such lines go on here.
    """
    known = lambda one: one.thin and one.clear >= _THIN_CLEAR and one.uneven <= _THIN_EVEN
    if not known(line):
        return 0.0
    course = [other.missing for other in others if known(other) and other.turned(line) < _COURSE_OF]
    half = (
        max(_THIN_HALF, float(np.quantile(course, 0.95)) + _THIN_ABOVE)
        if len(course) >= _THIN_KNOWN
        else _THIN_ALONE
    )
    return float(score_of(np.array(line.missing), half, _THIN_WIDTH)) * float(
        score_of(np.array(line.sure), _THIN_SURE, 0.35)
    )


def _edge_of(line: FaintLine, bar: FaintLine) -> bool:
    return line.beside(bar, 8.0) < bar.width / 2 + _OF_A_BAR


def bar_gone(bar: FaintLine, lines: list[FaintLine], others: list[FaintLine], half: float) -> float:
    """How surely a bar that ends in a fill should go on, 0..1."""
    if any(
        other.width
        and not other.thin
        and other.missing < _GOES_ON
        and other.turned(bar) < _ALIKE_BARS
        for other in lines
    ):
        # Bars that run alike go on: what ends may be two of them that end in one line.
        return 0.0
    alike = [
        spreads_gone(other)
        for other in others
        if other.width and not other.thin and other.turned(bar) < _ALIKE_BARS
    ]
    nature = float(np.quantile(alike, 0.95)) if len(alike) >= _BARS_KNOWN else 0.0
    return float(score_of(np.array(bar.missing), half, 0.07)) * float(
        score_of(np.array(spreads_gone(bar) - nature), _asked(bar, _FAINT_SURE), 0.35)
    )


#: For each what: the amount at which the score is a half where nature gives no reason to ask for
#: more, its width, and the unit.
HALVES = {
    "missing": (0.62, 0.07, "of its length"),
    "offset": (1.9, 0.22, "px"),
    "kink": (3.2, 0.45, "degrees"),
    "tilt": (1.5, 0.2, "degrees"),
    "wave": (1.9, 0.22, "px"),
}
NAMES = {
    "missing": "part of the line that is missing",
    "offset": "how far the line jumps aside",
    "kink": "how far the line turns",
    "tilt": "how far the line is tilted between its ends",
    "wave": "how far the line swings",
}


def _score(known: Break, nature: dict[str, np.ndarray], lossy: bool) -> float:
    half, width, _ = HALVES[known.what]
    values = nature[ENDS if known.what == "missing" and not known.paired else known.what]
    if len(values) >= 5:
        # A picture whose own lines break like this at untouched places asks for more.
        half = max(
            half, float(np.quantile(values, 0.95)) * (1.05 if known.what == "missing" else 1.25)
        )
        if known.what == "missing":
            # One line of many that is gone for a while by nature is enough to ask for more.
            half = max(half, 0.8 * float(values.max()))
    else:
        half *= 1.35  # nothing is known of how lines end here
    if not known.paired:
        half *= 1.3
        if known.what == "kink" and len(values) >= 5:
            # From one side a line that bends by nature, once, is enough to ask for more than that.
            half = max(half, 1.15 * float(values.max()))
    if known.what == "missing" and known.paired:
        turn = np.abs(nature[WAYS][:, 0] - known.angle) % 180
        gone = nature[WAYS][np.minimum(turn, 180 - turn) < _SAME_WAY, 1] > 0.5
        if len(gone) >= _KNOWN and gone.mean() >= _ENDING:
            half = max(half, _NOTHING)
    if known.what == "wave":
        # What was laid by hand runs true to so much of its length.
        half = max(half, _TRUE * known.length * (1.0 if len(values) >= 5 else 1.35))
    if lossy:
        # Compression roughens profiles, and a rough profile is lost sooner along its way.
        half *= 1.15
    score = float(score_of(np.array(known.amount), half, width))
    faint = float(score_of(np.array(known.contrast), 11.0, 1.6))
    return score * (0.35 + 0.65 * faint)


#: Breaks that begin as near to each other as so many pixels are one thing's.
_NEAR = 12.0


def _apart(breaks: list[Break]) -> int:
    """How many places breaks begin at: both flanks of a strap are one thing that bends."""
    kept: list[Break] = []
    for one in breaks:
        if all(np.hypot(*(one.ends[0] - other.ends[0])) > _NEAR for other in kept):
            kept.append(one)
    return len(kept)


def _stands(bundle: list[tuple[float, Break]], known: int) -> bool:
    """Whether lines seen from one side only are enough, where so many others were seen so at
    untouched places.
    """
    what = bundle[0][1].what
    if what == "missing":
        return False
    # Lines that nature bends go each their own way; where a fill was laid in askew, all go the
    # same.
    alike = max(_apart([other for _, other in bundle if one.like(other)]) for _, one in bundle)
    if alike > 1:
        return known >= 5 or alike > 3
    return what != "kink" and known >= _MANY and bundle[0][0] >= _ALONE


#: How far displaced ground must stand out for a half, and the width (of 150 clean readings of
#: photographs, PNG and JPEG, the most is 0.69); how many of its crossings are shown,
#: and how far to either side, pixels.
_ASIDE_HALF, _ASIDE_WIDTH = 0.95, 0.13
_SHOWN, _SHOWN_PX = 12, 14.0


#: How far what bends to and fro must stand out for a half, and the width (training photographs:
#: clean ones up to 0.65, nine in ten waved by 4 px from 1.0 on).
_WAVES_HALF, _WAVES_WIDTH = 1.0, 0.11
#: Boundaries shorter than this, pixels, match by chance sooner: there both must stand out by more
#: (of 88 clean fills of 26 and 36 px on photographs one in eight was told).
_SHORT = 160.0
#: What is left of the score of lines that do not stand, seen from one side and from both: how near
#: they came says next to nothing from one (in clean results as near as in broken
#: ones) and little from both, and must not hide what all that crosses the boundary says together.
_HINTED = {False: 0.002, True: 0.3}
#: Of a wide region: from what part of its swing on a line lies beside its own course, and over what
#: part of its length it must.
_SWINGS, _ALL_ALONG = 0.4, 0.4
#: What a line scores at most that was taken for another.
_MISTAKEN = 0.01


#: Wider and higher regions than this, pixels, are looked at by a part of their size too: how far a
#: line jumps, bends or turns is seen against its length, and across a wide region
#: even a small turn throws it far aside.
WIDEST = 420


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """Readings for broken lines; parallel lines that break alike are one, and so is all that breaks
    because the fill lies aside as a whole or undulates. See the module's
    docstring."""
    part = -(-min(cv2.boundingRect(window.filled.view(np.uint8))[2:]) // WIDEST)
    if part < 2:
        return _measure(window)
    small = window.reduced(part)
    straight = segments_of(small.luma_result, small.filled)
    # What is straight over a long way in a large window is so at a part of its size, and its place
    # is refined by `rays_of`.
    near = _measure(
        window,
        straight * part + (part - 1) / 2 if min(window.mask.shape) > LARGE else None,
        wide=True,
    )
    for reading in [] if isinstance(near, Abstention) else near:
        if not _several(reading):
            reading.score = min(reading.score, _FAINT_MOST)
    stands = lambda found: (
        not isinstance(found, Abstention) and any(reading.score >= 0.5 for reading in found)
    )
    if stands(near):
        return near
    far = _measure(small, straight, wide=True, faint=True, bends=window.shared.get("bending"))
    if isinstance(far, Abstention):
        return near
    found = [_enlarged(reading, window, part) for reading in far]
    return (
        found
        if stands(found) or isinstance(near, Abstention)
        else sorted([*near, *found], key=lambda reading: -reading.score)
    )


def _several(reading: Reading) -> bool:
    """Whether a reading of a wide region, seen so closely that a line's other end is out of sight,
    is more than one line by itself or some that turn at one end.
    """
    evidence = reading.evidence
    return bool(evidence.get("whole")) or (
        evidence["count"] > 1 and (evidence["from_both_sides"] or evidence["what"] == "offset")
    )


def _whole(window: Window, controls: Controls) -> tuple[Displaced | None, list[Reading]]:
    """How a fill lies aside or is changed as a whole, and at most one reading of it."""
    aside = displaced(controls) if controls.rims else None
    return aside, [] if aside is None else [_displaced(window, aside, max(1.0, _shorter(controls)))]


def _shorter(controls: Controls) -> float:
    """How many times shorter than `_SHORT` the longest boundary is."""
    return _SHORT / max(16.0, max((len(rim) * rim.step for rim in controls.rims), default=_SHORT))


def _enlarged(reading: Reading, window: Window, part: int) -> Reading:
    """A reading of a reduced window as one of the window."""
    signal, evidence = reading.signal, dict(reading.evidence)
    placed = lambda points: window.from_reduced(points, part) if len(points) else []
    in_pixels = part if evidence["what"] in ("offset", "wave") else 1
    evidence["lines"] = [
        {
            **line,
            **{key: placed(line[key]) for key in ("ends", "trace", "straight")},
            # Of a fill that lies off as a whole, how far what crosses its boundary jumps.
            "amount": line["amount"] * (part if evidence.get("whole") else in_pixels),
        }
        for line in evidence["lines"]
    ]
    if evidence.get("vanishing_point") is not None:
        evidence["vanishing_point"] = placed([evidence["vanishing_point"]])[0]
    if "shift_px" in evidence:
        evidence["shift_px"] = [value * part for value in evidence["shift_px"]]
    if "amount" in evidence:
        evidence["amount"] *= in_pixels
    x, y, width, height = (value * part for value in reading.bbox)
    times = part if reading.measure.unit == "px" else 1
    natural = replace(
        reading.measure.natural,
        low=reading.measure.natural.low * times,
        high=reading.measure.natural.high * times,
    )
    return replace(
        reading,
        bbox=window.box_to_frame(x, y, width, height),
        polygon=placed(reading.polygon),
        evidence=evidence,
        signal=Signal(
            tuple((f / part, light, chroma) for f, light, chroma in signal.bands),
            signal.extent * part,
            signal.area * part**2,
            signal.offset * part,
        ),
        measure=replace(reading.measure, value=reading.measure.value * times, natural=natural),
    )


def _bending(window: Window, area: np.ndarray, places: list[tuple[int, int]]) -> Waves | None:
    """How far all that lies in an area bends to and fro; `places`: where it lies over untouched
    ground. Kept with the window.
    """
    known = (
        waves_across(window.luma_result, area, window.apart)
        if len(places) < LEAST_PLACES
        else waves(window.luma_result, area, window.apart, places)
    )
    window.shared["bending"] = known
    return known


def _measure(
    window: Window,
    segments: np.ndarray | None = None,
    wide: bool = False,
    faint: bool = False,
    bends: Waves | None = None,
) -> list[Reading] | Abstention:
    """`segments`: as of `segments_of`, where they are known; `wide`: of a wide region; no place
    about it is large enough to say how things go on across so much, so more must be
    seen, and what is seen over its length only is looked for only where `faint`, which is by a part
    of its size; `bends`: as of `_bending` at its full size, then.
    """
    area = cv2.morphologyEx(
        window.filled.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8)
    ).astype(bool)
    if not area.any():
        return Abstention("the region has no boundary inside the picture")
    places = window.room.places(area, CONTROLS, _SEED)
    lines, steady = by_lines(
        window,
        segments_of(window.luma_result, area) if segments is None else segments,
        area,
        places,
        wide,
        faint or not wide,
    )
    controls = controls_of(window)
    aside, wholes = _whole(window, controls)
    found = bends if wide and faint else _bending(window, area, places)
    # By a part of its size no more would be seen than was.
    waved = (
        _waved(window, found, max(1.0, _shorter(controls)) ** 0.5)
        if found is not None and found.traces and not (wide and faint)
        else None
    )
    if waved is not None and steady:
        # Straight lines that cross bend nowhere, though which way edges run turns where they do.
        waved.score = min(waved.score, _MISTAKEN)
    if not isinstance(lines, Abstention):
        if waved is not None and found is not None and found.far >= _BENT and not steady:
            # Edges that swing away and back are taken for ones that jump, turn or end: together
            # both say more than each.
            waved.score = max(
                waved.score,
                *(
                    0.95 * reading.score
                    for reading in lines
                    if reading.score >= 0.5 and reading.evidence["what"] in _ASKEW
                ),
                0.0,
            )
        _doubted(lines, aside, found, wide)
    standing = _once(
        [
            reading
            for reading in ([] if isinstance(lines, Abstention) else lines)
            if reading.score >= 0.5
        ]
    )
    if not standing:
        hints = [] if isinstance(lines, Abstention) else lines[:1]
        for hint in hints:
            hint.score *= _HINTED[bool(hint.evidence["from_both_sides"])]
        standing = [reading for reading in wholes if reading.score >= 0.5]
        if not standing:
            options = [*wholes, *([waved] if waved is not None else []), *hints]
            return [max(options, key=lambda reading: reading.score)] if options else lines
    elif wholes and wholes[0].score >= 0.5:
        # One flaw: straight edges show it best, and what crosses the boundary elsewhere confirms
        # it.
        standing[0].score = max(standing[0].score, wholes[0].score)
    if waved is None or waved.score < 0.5:
        return standing
    # One flaw: a line that was followed shows it best, and edges that swing away and back were
    # taken for ones that jump, turn or end.
    shown = next((reading for reading in standing if reading.evidence["what"] == "wave"), waved)
    shown.score = max(waved.score, *(reading.score for reading in standing))
    return [shown]


#: How far ground must lie aside, or bend to and fro, to bear out one line alone (training
#: photographs: true ones are above 0.8 and 1.0, mistaken ones below 0.2 and 0.65). In busy
#: ground of which edges turn by so many degrees anyway, less is asked of what a line that swings is
#: part of, but not where squares of it were all that could be compared.
_LIES, _BENDS, _BUSY, _BENDS_BUSY = 0.5, 0.8, 2.0, 0.3
#: How far ground must lie aside to bear out one line that swings across a wide fill (20
#: photographs: true ones .19 to .41, ridges that are whole up to .18).
_LIES_WIDE = 0.25
#: As what a line that is part of a wave may be taken; and how far ground must bend to and fro for
#: that (of 483 clean readings of photographs none does and has such a line).
_ASKEW, _BENT = ("offset", "kink", "tilt"), 0.6


def _borne_out(
    reading: Reading, aside: Displaced | None, waves: Waves | None, certain: bool = False
) -> bool:
    """Whether what one line shows is seen in all that crosses the boundary, or in all that lies
    inside: one line alone may have been taken for another beside it. That it is
    missing says nothing of the rest, nor that it swings away where it is known to be missing; nor
    does anything where the rest is not known.
    """
    if reading.evidence["what"] == "wave" and (reading.evidence.get("faint") or certain):
        return True
    what, across = reading.evidence["what"], waves is not None and waves.null == "surround"
    lies = aside is None or aside.far >= (_LIES_WIDE if across and what == "wave" else _LIES)
    bends = waves is None or waves.far >= (
        SURE if across else _BENDS_BUSY if waves.turning >= _BUSY else _BENDS
    )
    return lies or (bends and what == "wave") if what in (*_ASKEW, "wave") else True


def _once(standing: list[Reading]) -> list[Reading]:
    """Without what is seen over its length only to be missing where the same line was followed and
    lies, turns or swings beside its own.
    """
    way = lambda line: (
        np.subtract(line["ends"][1], line["ends"][0])
        if len(line["ends"]) > 1
        else np.array([np.cos(np.radians(line["angle"])), np.sin(np.radians(line["angle"]))])
    )

    def same(faint: dict[str, Any], other: dict[str, Any]) -> bool:
        turn = abs(faint["angle"] - other["angle"]) % 180
        across = np.array([-way(other)[1], way(other)[0]]) / max(float(np.hypot(*way(other))), 1e-6)
        return (
            min(turn, 180 - turn) < 6
            and abs(float((np.mean(faint["ends"], axis=0) - other["ends"][0]) @ across)) < 10
        )

    followed = [
        line
        for reading in standing
        if not reading.evidence.get("faint")
        for line in reading.evidence["lines"]
    ]
    kept = [
        reading
        for reading in standing
        if not reading.evidence.get("faint")
        or not all(
            any(same(line, other) for other in followed) for line in reading.evidence["lines"]
        )
    ]
    return kept


def _doubted(
    lines: list[Reading], aside: Displaced | None, waves: Waves | None, wide: bool = False
) -> None:
    """Lines that do not stand by themselves score less than a half where the rest of the fill
    speaks against them. Across a wide region a ridge swings by nature however plain it
    is that it is the same, and no place around is as wide to say so."""
    for reading in lines:
        entries, certain = (
            reading.evidence.pop("entries", []),
            bool(reading.evidence.pop("certain", False)) and not wide,
        )
        count = int(str(reading.evidence["count"]))
        doubted = count == 1 and not _borne_out(reading, aside, waves, certain)
        if (
            aside is not None
            and reading.evidence["what"] == "offset"
            and not (reading.evidence["from_both_sides"] and count > 1)
        ):
            # Farther in another line was taken for it: where it enters the fill, it goes on.
            # Several that are known from both sides bend.
            doubted = doubted or all(
                aside.goes_on(entry, reading.measure.value) for entry in entries
            )
        if doubted:
            reading.score = min(reading.score, _MISTAKEN)


def _changed(found: Displaced) -> tuple[str, str, float, str]:
    """What it is, what its amount is called in the evidence, the amount (pixels, degrees, per cent;
    signed if a scale), and in words what would mend it.
    """
    if found.how == "moved":
        return "offset", "amount", float(np.hypot(*found.shift)), "moved"
    if found.how == "scaled":
        # It lies so many parts farther out than it would go on.
        return "scale", "amount", 100 * found.much, "smaller" if found.much > 0 else "larger"
    return (
        ("kink" if found.how == "turned" else "shear"),
        "degrees",
        abs(float(np.degrees(np.arctan(found.much) if found.how != "turned" else found.much))),
        "turned" if found.how == "turned" else "sheared",
    )


def _displaced(window: Window, found: Displaced, doubt: float) -> Reading:
    """A fill that lies aside, turned or otherwise changed as a whole; `doubt`: how many times as
    far it must.
    """
    score = float(score_of(np.array(found.far), _ASIDE_HALF * doubt, _ASIDE_WIDTH))
    rim, ways = found.crossing.rim, found.crossing.ways
    chosen: list[int] = []
    for at in np.argsort(-np.where(rim.usable, found.gains, -1e3)):
        if all(
            min(abs(at - other), len(rim) - abs(at - other)) * rim.step > 16 for other in chosen
        ):
            chosen.append(int(at))
            if len(chosen) == _SHOWN:
                break
    contrast = 2.0 * float(np.median(np.abs(found.crossing.outer[chosen])))
    score *= 0.35 + 0.65 * float(score_of(np.array(2.55 * contrast), 6.0, 1.2))
    tangents = rim.tangents
    jump = float(np.median(np.abs(found.jumps[chosen])))
    what, key, amount, words = _changed(found)
    lines = []
    for at in chosen:
        outward, inward = (rim.normals[at] + ways[at, side] * tangents[at] for side in (0, 1))
        there = rim.points[at] + found.jumps[at] * tangents[at]
        deep = np.linspace(0, _SHOWN_PX, 4)[:, None]
        lines.append(
            {
                "ends": window.to_frame(
                    np.array([rim.points[at] + _SHOWN_PX * outward, rim.points[at]]) + 0.5
                ),
                "trace": window.to_frame(there - deep * inward + 0.5),
                "straight": window.to_frame(
                    np.array([rim.points[at], rim.points[at] - _SHOWN_PX * outward]) + 0.5
                ),
                "amount": abs(float(found.jumps[at])),
                "angle": float(np.degrees(np.arctan2(outward[1], outward[0])) % 180),
            }
        )
    cloud = np.clip(rim.points, 0, np.array(window.mask.shape[::-1]) - 1.0)
    (x0, y0), (x1, y1) = cloud.min(axis=0), cloud.max(axis=0)
    bands = tuple(
        (2.0**-octave, contrast / 2 * min(1.0, jump / 4) * part, 0.0)
        for octave, part in ((2, 0.35), (3, 0.6), (4, 0.6))
    )
    length = float(_SHOWN_PX * len(chosen))
    return Reading(
        "line",
        score,
        window.box_to_frame(x0, y0, x1 - x0, y1 - y0),
        window.to_frame(cloud[:: max(1, len(cloud) // 80)] + 0.5),
        Signal(bands, length, length * 8, jump),
        Measure(
            f"how much better it would go on if the fill were {words}",
            found.gained,
            "times natural differences",
            natural_range(found.nature, NULL),
        ),
        {
            "type": "line",
            "what": what,
            "whole": True,
            "lines": lines,
            "count": len(lines),
            "contrast": 2.55 * contrast,
            "from_both_sides": True,
            "horizon": False,
            "shift_px": found.shift.tolist(),
            key: amount,
            "at_least": not found.within,
        },
    )


def _waved(window: Window, found: Waves, doubt: float) -> Reading:
    """A fill in which what is straight or evenly round about it bends to and fro; `doubt`: how many
    times as much it must.
    """
    score = float(score_of(np.array(found.far), _WAVES_HALF * doubt, _WAVES_WIDTH))
    swing = float(found.swings.max())
    luma, lines = window.luma_result, []
    for amount, trace in sorted(
        zip(found.swings.tolist(), found.traces, strict=True), key=lambda pair: -pair[0]
    ):
        way = trace[-1] - trace[0]
        chord = window.to_frame(np.array([trace[0], trace[-1]]) + 0.5)
        lines.append(
            {
                "ends": chord,
                "trace": window.to_frame(trace[::3] + 0.5),
                "straight": chord,
                "amount": amount,
                "angle": float(np.degrees(np.arctan2(way[1], way[0])) % 180),
            }
        )
    cloud = np.clip(np.concatenate(found.traces), 0, np.array(luma.shape[::-1]) - 1.0)
    (x0, y0), (x1, y1) = cloud.min(axis=0), cloud.max(axis=0)
    contrast = 2 * float(np.std(luma[int(y0) : int(y1) + 1, int(x0) : int(x1) + 1]))
    bands = tuple(
        (2.0**-octave, min(contrast, 60) / 2.55 / 2 * min(1.0, swing / 4) * part, 0.0)
        for octave, part in ((2, 0.35), (3, 0.6), (4, 0.6))
    )
    length = float(max(len(trace) for trace in found.traces))
    return Reading(
        "line",
        score,
        window.box_to_frame(x0, y0, x1 - x0, y1 - y0),
        window.to_frame(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])),
        Signal(bands, length, length * 8 * len(lines), swing),
        Measure(
            "by how much edges turn one way and back again",
            found.turning,
            "degrees",
            natural_range(found.nature, found.null),
        ),
        {
            "type": "line",
            "what": "wave",
            "whole": True,
            "lines": lines,
            "count": len(lines),
            "contrast": contrast,
            "from_both_sides": False,
            "horizon": False,
            "amount": swing,
            "degrees": found.turning,
        },
    )


def _all_along(wave: Break) -> bool:
    """Whether a line swings all along its way rather than at one place, where something lies on it."""
    way = wave.ends[1] - wave.ends[0]
    off = (
        (wave.trace - wave.ends[0]) @ np.array([-way[1], way[0]]) / max(float(np.hypot(*way)), 1e-6)
    )
    return bool(np.mean(np.abs(off - np.median(off)) > _SWINGS * wave.amount) >= _ALL_ALONG)


def _seen_wide(scored: list[tuple[float, Break]]) -> list[tuple[float, Break]]:
    """Of a wide region, with what is not enough there told of nothing: a line seen over its length
    only that has no other broken like it, and one that swings at one place.
    """

    def enough(score: float, known: Break) -> bool:
        if known.what == "wave":
            return _all_along(known)
        return (
            not known.faint
            or sum(
                other.what == known.what
                and other_score >= 0.5
                and min(turn := abs(other.angle - known.angle) % 180, 180 - turn) < _ALIKE_BARS
                for other_score, other in scored
            )
            > 1
        )

    return [
        (score if score < 0.5 or enough(score, known) else _FAINT_MOST, known)
        for score, known in scored
    ]


def by_lines(
    window: Window,
    segments: np.ndarray,
    area: np.ndarray,
    places: list[tuple[int, int]],
    wide: bool = False,
    with_faint: bool = True,
) -> tuple[list[Reading] | Abstention, bool]:
    """What lines show, and whether so many run true from end to end that nothing in the fill
    undulates.
    """
    luma = cv2.GaussianBlur(window.luma_result, (0, 0), 0.7)
    courses = (
        _courses(window, segments, area, places)
        if len(segments) and len(places) >= _KNOWN_COURSES
        else []
    )
    found = breaks_of(segments, area, luma)
    nature: dict[str, list[float]] = {what: [] for what in HALVES}
    ends: list[float] = []
    ways: list[tuple[float, float]] = []
    alone = 0
    for dx, dy in places if found else ():
        moved = cv2.warpAffine(
            area.astype(np.uint8), np.array([[1, 0, dx], [0, 1, dy]], np.float32), area.shape[::-1]
        ).astype(bool)
        for known in breaks_of(segments, moved, luma):
            alone += not known.paired
            ways.append((known.angle, known.amount if known.what == "missing" else 0.0))
            # A line that was found to go on is a case of nothing missing and of no turn.
            if known.what in ("offset", "tilt", "wave"):
                for what, amount in zip(
                    ("offset", "wave", "tilt"),
                    known.aside if known.paired else (known.amount, 0.0, 0.0),
                    strict=True,
                ):
                    nature[what].append(amount)
                nature["missing"].append(0.0)
                nature["kink"].append(0.0)
            elif known.what == "missing" and not known.paired:
                ends.append(known.amount)
            else:
                nature[known.what].append(known.amount)
    # That a line ends somewhere is common; that it is there again behind, in one line, is not.
    values = {
        what: np.array(amounts)
        for what, amounts in [*nature.items(), (ENDS, [*nature["missing"], *ends])]
    }
    values[WAYS] = np.array(ways).reshape(-1, 2)
    scored = [(_score(known, values, window.lossy), known) for known in found]
    # What was followed from one end to the other and goes on needs no second look. What lies or
    # swings beside its line may be another, and its own be gone.
    followed = [
        known for known in found if known.paired and known.amount < HALVES[known.what][0] / 2
    ]
    faint, values[FAINT] = (
        faint_breaks(window.luma_result, area, places, followed)
        if with_faint
        else ([], np.empty(0))
    )
    scored = [*scored, *faint]
    scored = sorted(_seen_wide(scored) if wide else scored, key=lambda pair: -pair[0])
    if not scored:
        return courses or Abstention(
            f"no straight edge runs up to the region{' that is steady outside' if len(segments) else ''}"
        ), False
    bundles: list[list[tuple[float, Break]]] = []
    for score, known in scored:
        if score < 0.5:
            break
        for bundle in bundles:
            turn = abs(bundle[0][1].angle - known.angle) % 180
            if bundle[0][1].what == known.what and min(turn, 180 - turn) < 8:
                bundle.append((score, known))
                break
        else:
            bundles.append([(score, known)])
    # A single line seen from one side is not enough to call a kink, nor anything where little is
    # known of how lines go on here. And that lines end, seen from one side, is no
    # flaw however many they are: a curb may end where the thing stood.
    bundles = [
        bundle
        for bundle in bundles
        if any(one.paired for _, one in bundle) or _stands(bundle, alone)
    ]
    # Of a line whose other end is hidden, what lies beside it may be another: one alone says
    # nothing.
    chance = [
        bundle
        for bundle in bundles
        if len(bundle) == 1 and bundle[0][1].hidden and bundle[0][1].what not in ("missing", "wave")
    ]
    if chance:
        bundles = [bundle for bundle in bundles if bundle not in chance]
        scored = [
            pair for pair in scored if all(pair[1] is not bundle[0][1] for bundle in chance)
        ] or [(0.0, scored[0][1])]
    # Where a fill undulates, all in it does: a line that swings among several that run true is one
    # that was mistaken on its way.
    true = sum(
        known.what == "offset" and known.paired and max(known.amount, *known.aside[:2]) < _TRULY
        for known in found
    )
    if true >= _RUN_TRUE:
        bundles = [
            bundle
            for bundle in bundles
            if bundle[0][1].what != "wave"
            or bundle[0][1].faint
            or (len(bundle) > 1 and 3 * len(bundle) > true)
        ]
    turned = (
        float(str(courses[0].evidence["degrees"])) if courses and courses[0].score >= 0.5 else 0.0
    )
    if turned and any(
        bundle[0][1].what in ("tilt", "kink") and abs(bundle[0][1].amount - turned) < 2.0
        for bundle in bundles
    ):
        # The lines that tilt or kink are the courses that left their point: one flaw.
        bundles = [
            bundle
            for bundle in bundles
            if bundle[0][1].what not in ("tilt", "kink") or abs(bundle[0][1].amount - turned) >= 2.0
        ]
        if not bundles:
            return courses, False
    if not bundles and scored[0][0] >= 0.5:
        scored[0] = (_MISTAKEN, scored[0][1])
    steady = true >= _RUN_TRUE and all(bundle[0][1].what != "wave" for bundle in bundles)
    return [
        *(
            [_reading(window, bundle, values) for bundle in bundles[:4]]
            or [_reading(window, scored[:1], values)]
        ),
        *courses,
    ], steady


#: Degrees at which courses that leave their vanishing point score a half, and the width.
_COURSE_HALF, _COURSE_WIDTH = 1.5, 0.2
#: At how many places elsewhere it must be known how far the surroundings' own courses lie off.
_KNOWN_COURSES = 4


def _courses(
    window: Window, segments: np.ndarray, area: np.ndarray, places: list[tuple[int, int]]
) -> list[Reading]:
    """At most one reading: the fill's straight edges, all off by one angle from the vanishing point
    that the surroundings' share.
    """
    outside = vanishing_points(segments, ~window.apart)
    if outside is None:
        return []
    found = departures(segments, area, outside)
    if not found:
        return []
    # The surroundings' own courses in the same outline, and how far they lie off.
    natural = []
    for dx, dy in places:
        moved = cv2.warpAffine(
            area.astype(np.uint8), np.array([[1, 0, dx], [0, 1, dy]], np.float32), area.shape[::-1]
        ).astype(bool)
        natural += [abs(one.degrees) for one in departures(segments, moved, outside)][:1]
    if len(natural) < _KNOWN_COURSES:
        return []
    half = max(_COURSE_HALF, 1.25 * float(np.quantile(natural, 0.95)))
    course = found[0]
    score = float(score_of(np.array(abs(course.degrees)), half, _COURSE_WIDTH))
    # Fewer than five edges, or edges that do not agree among themselves, may be chance.
    score *= float(np.clip(len(course.lines) / 5, 0.5, 1.0)) * float(
        np.clip(1.6 - course.spread / 1.5, 0.3, 1.0)
    )
    return [course_reading(window, course, score, np.array(natural))]


def course_reading(window: Window, course: Course, score: float, natural: np.ndarray) -> Reading:
    """What a fill's edges say that leave their vanishing point together, as one reading."""
    ends = course.lines.reshape(-1, 2)
    # What ends at the frame's edge may be told a little beyond it.
    ends = np.clip(ends, 0, np.array(window.luma_result.shape[::-1]) - 1.0)
    (x0, y0), (x1, y1) = ends.min(axis=0), ends.max(axis=0)
    length = float(
        np.hypot(
            course.lines[:, 2] - course.lines[:, 0], course.lines[:, 3] - course.lines[:, 1]
        ).max()
    )
    offset = length * abs(float(np.sin(np.radians(course.degrees)))) / 2
    lines = []
    for line, toward in zip(course.lines[:12], course.toward[:12], strict=True):
        middle, half = (line[:2] + line[2:]) / 2, float(np.hypot(*(line[2:] - line[:2]))) * 0.8
        path = window.to_frame(np.array([line[:2], line[2:]]) + 0.5)
        lines.append(
            {
                "ends": path,
                "trace": path,
                "straight": window.to_frame(
                    np.array([middle - half * toward, middle + half * toward]) + 0.5
                ),
                "amount": abs(course.degrees),
                "angle": float(np.degrees(np.arctan2(toward[1], toward[0])) % 180),
            }
        )
    luma = window.luma_result
    contrast = float(np.std(luma[int(y0) : int(y1) + 1, int(x0) : int(x1) + 1])) * 2
    bands = tuple(
        (2.0**-octave, min(contrast, 60) / 2.55 / 2 * min(1.0, offset / 3) * part, 0.0)
        for octave, part in ((2, 0.35), (3, 0.6), (4, 0.6))
    )
    return Reading(
        "line",
        score,
        window.box_to_frame(x0, y0, x1 - x0, y1 - y0),
        window.to_frame(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])),
        Signal(bands, max(float(x1 - x0), float(y1 - y0)), length * 8 * len(course.lines), offset),
        Measure(
            "how far courses leave their vanishing point",
            abs(course.degrees),
            "degrees",
            natural_range(natural, NULL),
        ),
        {
            "type": "line",
            "what": "course",
            "lines": lines,
            "count": len(course.lines),
            "contrast": contrast,
            "from_both_sides": False,
            "horizon": False,
            "degrees": abs(course.degrees),
            "spread_degrees": course.spread,
            "vanishing_point": None
            if course.point is None
            else window.to_frame(course.point[None])[0],
        },
    )


def _reading(
    window: Window, bundle: list[tuple[float, Break]], nature: dict[str, np.ndarray]
) -> Reading:
    score, known = bundle[0]
    # Several lines broken alike are less likely chance than one.
    score = 1 - (1 - score) * 0.75 ** (len(bundle) - 1)
    half, _, unit = HALVES[known.what]
    values = nature[FAINT if known.faint and known.what == "missing" else known.what]
    natural = natural_range(values, NULL) if len(values) else Natural(0.0, half, 0, "none")
    points, lines = [], []
    for _, one in bundle[:12]:
        ends = [end.tolist() for end in one.ends]
        trace = one.trace.tolist()
        points += ends + trace
        if len(ends) > 1:
            beyond = ends[1]
        else:
            # From one side only: as far on as it was followed, the way it came in.
            way = np.array([np.cos(np.radians(one.angle)), np.sin(np.radians(one.angle))])
            beyond = (
                one.ends[0] + ((one.trace[-1] if trace else one.ends[0]) - one.ends[0]) @ way * way
            )
        lines.append(
            {
                "ends": window.to_frame(np.array(ends) + 0.5),
                "trace": window.to_frame(np.array(trace).reshape(-1, 2) + 0.5) if trace else [],
                "straight": window.to_frame(np.array([ends[0], beyond]) + 0.5),
                "amount": one.amount,
                "angle": one.angle,
            }
        )
    cloud = np.array(points, float)
    (x0, y0), (x1, y1) = cloud.min(axis=0) - 4, cloud.max(axis=0) + 4
    x0, y0, x1, y1 = (
        max(x0, 0.0),
        max(y0, 0.0),
        min(x1, window.mask.shape[1] - 1.0),
        min(y1, window.mask.shape[0] - 1.0),
    )
    length = float(sum(one.length for _, one in bundle))
    # An edge of so much contrast, seen as a step: half of it in every octave would be a line; the
    # eye takes the coarse ones.
    lightness = known.contrast / 2.55 / 2
    # A small jump shows only as much of the edge as it moved.
    shown = min(1.0, known.amount / 4) if known.what in ("offset", "wave") else 1.0
    bands = tuple(
        (2.0**-octave, lightness * shown * part, 0.0)
        for octave, part in ((2, 0.35), (3, 0.6), (4, 0.6))
    )
    offset = (
        known.amount
        if known.what in ("offset", "wave")
        else known.length * float(np.sin(np.radians(known.amount))) / 2
        if known.what in ("kink", "tilt")
        else 0.0
    )
    return Reading(
        "line",
        float(score),
        window.box_to_frame(x0, y0, x1 - x0, y1 - y0),
        window.to_frame(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])),
        Signal(bands, length, length * 8, offset),
        Measure(NAMES[known.what], known.amount, unit, natural),
        {
            "type": "line",
            "what": known.what,
            "lines": lines,
            "count": len(bundle),
            "contrast": known.contrast,
            "from_both_sides": known.paired,
            "faint": known.faint,
            "horizon": known.what == "tilt"
            and min(known.angle, 180 - known.angle) < 6
            and known.length > 0.2 * window.frame[1],
            "degrees" if unit == "degrees" else "amount": known.amount,
            **({"entries": [one.ends[0] for _, one in bundle]} if known.what == "offset" else {}),
            **({"certain": True} if known.what == "wave" and known.sure > CERTAIN else {}),
        },
    )
