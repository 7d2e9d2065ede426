"""Lines that enter a fill and are steady before it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from .profiles import ACROSS, BACK, HALF, LAGS, STEP, fitted, patch_of, refined, sought

#: Shortest segment outside, and how far its end may lie from the fill, pixels.
LEAST, GAP = 20, 30

#: How deep a line is followed from one side, pixels; how many lines at most.
DEEP, MOST = 44, 70

#: How far back a line is followed to know how long it is, pixels; a whole number of steps.
FAR = 240

#: How far around the region straight edges are sought, pixels; as far as anything for regions that
#: are not large.
AROUND = 260

#: Surroundings wider and taller than this are searched at half the size, pixels.
LARGE = 1000


@dataclass(frozen=True)
class Ray:
    """A segment that enters an area. `entry`: (x, y) where it does; `toward`: unit vector inward;
    `length`: steady length outside;
    `depth`: pixels from the entry to where its line leaves the area again; `profile`: (2 * HALF +
    1,) luma across it, zero mean,
    left to right of `toward`; `contrast`: its range; `hidden`: whether it shows only over its
    length; `normal`: unit vector across.
    """

    entry: np.ndarray
    toward: np.ndarray
    length: float
    depth: float
    profile: np.ndarray
    contrast: float
    hidden: bool = False

    @property
    def normal(self) -> np.ndarray:
        """Unit vector (2,) square to `toward`."""
        return np.array([-self.toward[1], self.toward[0]])


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


#: How far a boundary is looked at on all sides of where a line enters, pixels.
SOFT = 18

_BLUR = np.pad(cv2.getGaussianKernel(33, 4.0)[:, 0], 2)

_RISE = np.pad(_BLUR, (2, 0))[:-2] - np.pad(_BLUR, (0, 2))[2:]


def inward_at(edged: np.ndarray, x: int, y: int) -> np.ndarray:
    """(x, y), the way into an area at a place, as it rises behind a Gaussian of 4 px; only asked at
    some places. `edged`: uint8, the area with `SOFT` px more on all sides.
    """
    near = edged[y : y + 2 * SOFT + 1, x : x + 2 * SOFT + 1].astype(float)
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
    edged = cv2.copyMakeBorder(own, SOFT, SOFT, SOFT, SOFT, cv2.BORDER_REFLECT_101)
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
        inward = inward_at(edged, ex - crop[1].start, ey - crop[0].start)
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
        patch = patch_of(luma, entry, toward, -3.0 - back, back)
        starts, sizes, middles = _stretches(back)
        rows = np.add.reduceat(patch, starts, axis=0) / sizes
        template = rows.mean(axis=0)[ACROSS - HALF : ACROSS + HALF + 1]
        template = template - template.mean()
        contrast = float(np.ptp(template))
        if contrast < 7:
            return None
        correlation, _ = sought(rows, template)
        middle = correlation[:, LAGS - 3 : LAGS + 4]
        best, sure = middle.argmax(axis=1), np.sort(middle.max(axis=1))
        # The median, and how many are sure.
        if sure[(len(sure) - 1) // 2] + sure[len(sure) // 2] < 2 * 0.85 or np.count_nonzero(
            sure > 0.7
        ) < 0.75 * len(sure):
            return None
        lags = refined(middle, best) - 3
        slope, shift = fitted(middles, lags)
        normal = np.array([-toward[1], toward[0]])
        entry = entry + shift * normal
        toward = toward + slope * normal
        toward = toward / np.hypot(*toward)
    last = patch_of(luma, entry, toward, -3.0 - min(BACK, back), min(BACK, back)).mean(axis=0)[
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
    rows = (
        patch_of(luma, entry, toward, -3.0 - FAR, FAR).reshape(FAR // STEP, STEP, -1).mean(axis=1)
    )
    correlation, amplitude = sought(rows, profile)
    straight = slice(LAGS - 3, LAGS + 4)
    there = np.flip(((correlation[:, straight] > 0.7) & (amplitude[:, straight] > 0.4)).any(axis=1))
    # One gap is a gap, two end it.
    gone = np.flatnonzero(~there[:-1] & ~there[1:])
    return 3.0 + STEP * float(gone[0] if len(gone) else len(there))


def pairs(rays: list[Ray]) -> Iterator[tuple[Ray, Ray]]:
    """Rays from opposite sides that lie on one line and look alike."""
    for i, first in enumerate(rays):
        for second in rays[i + 1 :]:
            if first.toward @ second.toward > -0.994:
                continue
            between = second.entry - first.entry
            gap = float(np.hypot(*between))
            if gap < 14 or first.toward @ between < 0.97 * gap:
                continue
            offset = max(abs(float(first.normal @ between)), abs(float(second.normal @ between)))
            if offset > 2.0 + 0.02 * gap or gap > first.depth + 25:
                continue
            other = second.profile[::-1]
            likeness = float(
                first.profile @ other / np.sqrt((first.profile**2).sum() * (other**2).sum())
            )
            if likeness > 0.8:
                yield first, second


def goes_on_beyond(luma: np.ndarray, area: np.ndarray, ray: Ray) -> Ray | None:
    """The ray that comes from the other side where a line goes on behind an area, though no segment
    was found there; None where it does not.
    """
    count = 4
    patch = patch_of(luma, ray.entry, ray.toward, ray.depth + 3.0, count * STEP)
    correlation, amplitude = sought(patch.reshape(count, STEP, -1).mean(axis=1), ray.profile)
    most = min(LAGS, int(2.0 + 0.02 * ray.depth))
    near = slice(LAGS - most, LAGS + most + 1)
    best = correlation[:, near].argmax(axis=1)
    sure = correlation[:, near].max(axis=1)
    if (
        np.median(sure) < 0.8
        or sure[:2].min() < 0.7
        or np.ptp(best[sure > 0.7]) > 3
        or not 0.5 < float(np.median(amplitude[np.arange(count), near.start + best])) < 2.0
    ):
        return _shown_beyond(luma, area, ray, most)
    start = ray.entry + ray.depth * ray.toward + (float(np.median(best)) - most) * ray.normal
    end = start + count * STEP * ray.toward
    if (
        not (0 <= end[0] < area.shape[1] and 0 <= end[1] < area.shape[0])
        or area[int(end[1]), int(end[0])]
    ):
        return None
    return _steady(luma, area, start, -ray.toward, float(count * STEP))


def _shown_beyond(luma: np.ndarray, area: np.ndarray, ray: Ray, most: int) -> Ray | None:
    """The same where the ground's own detail hides the line step by step, but not over a longer
    stretch.
    """
    if ray.depth > _THROUGH:
        return None
    patch = patch_of(luma, ray.entry, ray.toward, ray.depth + 3.0, _BEHIND)
    # Medians: what crosses the line there is strong, but short.
    parts = np.stack([np.median(some, axis=0) for some in (patch, *np.array_split(patch, 2))])
    correlation, amplitude = sought(parts, ray.profile)
    near = slice(LAGS - most, LAGS + most + 1)
    best = near.start + int(correlation[0, near].argmax())
    close = slice(max(0, best - 2), best + 3)
    halves = np.where(amplitude[1:, close] > 0.4, correlation[1:, close], 0.0).max(axis=1)
    if correlation[0, best] < 0.85 or not 0.5 < amplitude[0, best] < 2.0 or halves.min() < 0.6:
        return None
    start = ray.entry + ray.depth * ray.toward + (best - LAGS) * ray.normal
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


def in_one_line(first: Ray, second: Ray) -> bool:
    """Whether two rays lie on one straight line as exactly as they are known."""
    between = second.entry - first.entry
    offset = max(abs(float(first.normal @ between)), abs(float(second.normal @ between)))
    return (
        offset <= 1.0 + 0.012 * float(np.hypot(*between))
        and float(first.toward @ second.toward) < -0.9985
    )


#: How long a stretch behind an area is averaged where a line is hidden in detail, and through how
#: wide an area so short a one is known to be the same line, pixels.
_BEHIND, _THROUGH = 48, 110.0
