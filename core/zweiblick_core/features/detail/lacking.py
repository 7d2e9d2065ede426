"""What a fill lacks of detail, by its size and by where it stands; which way the rest runs."""

from __future__ import annotations

import cv2
import numpy as np

from ...scene.window import Window
from .carried import box_of, carried, predicted, regressed
from .cells import BEYOND, SCALES, finest_of, products
from .ground import Ground, without_of

#: How wide a boundary is left out where a few strong places would say something else, pixels, both
#: sides of it together, and how many pixels must remain.
_RIM, _INNER = 7, 60


def streaks(window: Window, pixels: np.ndarray) -> tuple[float, float]:
    """How much of the result's detail within some pixels (uint8 like the window) runs one way,
    0..1, and along which angle, degrees 0..180.
    """
    if not pixels.any():
        return 0.0, 90.0
    x, y, w, h = cv2.boundingRect(pixels)
    part = (
        slice(max(0, y - BEYOND), y + h + BEYOND),
        slice(max(0, x - BEYOND), x + w + BEYOND),
    )
    here = pixels[part].astype(bool)
    xx, yy, xy = (
        float(plane[here].mean()) for plane in products(window.luma_result[part], SCALES[1])
    )
    trace = xx + yy
    return float(np.hypot(xx - yy, 2 * xy) / trace) if trace > 1e-9 else 0.0, float(
        np.degrees(0.5 * np.arctan2(2 * xy, xx - yy)) + 90
    ) % 180


def missing_by_size(window: Window, ground: Ground, cells: np.ndarray) -> list[float]:
    """How much is missing against what lies around at the same brightness, finest first: grain,
    then detail at each of `SCALES`; natural logarithms of energy, negative where
    there is more than around.

    It does not say whether anything is wrong (a smooth wall beside a hedge misses much by nature),
    but what: a blur takes grain and detail, more of the finer; what was enlarged
    or softened and given grain again lacks detail and little grain; denoising takes the grain.

    Args:
        cells: bool, some of the fill's, like `ground.inside`.
    """
    if "missing" not in window.shared:
        around, fill = ground.around, ground.fill
        rows = lambda some: np.concatenate([some.noise[..., None], some.logs], axis=-1).astype(
            np.float32
        )
        columns = lambda some: [some.level, some.level**2]
        slope = regressed(rows(around), columns(around), ground.known)
        cleared = (rows(around) - predicted(slope, columns(around))).astype(np.float32)
        expected = carried(
            cleared,
            ground.known,
            without_of(ground.inside, ground.corner, ground.known.shape),
            box_of(ground.corner, ground.inside),
        )
        window.shared["missing"] = expected - (rows(fill) - predicted(slope, columns(fill)))
    missing: np.ndarray = window.shared["missing"]
    some = cells & ground.inside
    return [
        round(float(value), 3)
        for value in np.median(missing[some if some.any() else ground.inside], axis=0)
    ]


def sparser(window: Window, pixels: np.ndarray, score: float) -> float:
    """How much more of the finest detail stands in a few places than around: natural logarithm of
    the ratio of the strongest twentieth to the middle, against the same within
    80 px. Noise of any strength, and a blur of it, leave it as it is or lower it; denoising keeps
    edges and clears what lies between them, and raises it (as kurtosis
    tells noise in natural pictures, Zoran and Weiss 2009).

    Args:
        pixels: uint8 like the window.

    Returns:
        0.0 for what scores too low to be reported, for less than half of the fill, or where too
        little is known around.
    """
    here = pixels.astype(bool)
    if score < 0.5 or here.sum() < 0.5 * window.filled.sum():
        # A fill is denoised as a whole; where only a part lacks detail, strong places beside it
        # would look like edges that were kept.
        return 0.0
    x, y, w, h = cv2.boundingRect(pixels)
    part = (slice(max(0, y - 80), y + h + 80), slice(max(0, x - 80), x + w + 80))
    near = ~(window.elsewhere | window.filled)[part]
    if near.sum() < 400:
        return 0.0

    finest = finest_of(window.luma_result[part])
    # Along the boundary stands what it borders on. That weighs the more the smaller or thinner a
    # fill is.
    inner = cv2.erode(pixels[part], np.ones((_RIM, _RIM), np.uint8), borderValue=0).astype(bool)

    def spread(area: np.ndarray) -> float:
        values = finest[area]
        middle, high = np.percentile(values[:: max(1, len(values) // 20_000)] ** 2 * 6, [50, 95])
        return float(np.log((high + 0.3) / (middle + 0.3)))

    return round(spread(inner if inner.sum() > _INNER else here[part]) - spread(near), 3)


def octaves(plane: np.ndarray, areas: list[np.ndarray]) -> list[list[float]]:
    """Deviation of each of five octave bands of a plane over each area."""
    found: list[list[float]] = [[] for _ in areas]
    finer = plane
    for octave in range(1, 6):
        coarser = cv2.GaussianBlur(plane, (0, 0), 0.5 * 2.0**octave)
        band = finer - coarser
        for values, area in zip(found, areas, strict=True):
            values.append(float(np.sqrt((band[area] ** 2).mean())) if area.any() else 0.0)
        finer = coarser
    return found


def inside_and_around(
    window: Window, pixels: np.ndarray, score: float
) -> tuple[list[float], list[float]]:
    """Octave deviations of L* inside some pixels and within 60 px around them; zeros for what
    scores too low to be reported.
    """
    if score < 0.5:
        return [0.0] * 5, [0.0] * 5
    x, y, w, h = cv2.boundingRect(pixels)
    part = (slice(max(0, y - 80), y + h + 80), slice(max(0, x - 80), x + w + 80))
    here = pixels[part]
    untouched = ~(window.elsewhere | window.filled)[part]
    near = (cv2.distanceTransform(1 - here, cv2.DIST_L2, 3) <= 60) & untouched
    if near.sum() < 400:
        near = untouched if untouched.any() else ~here.astype(bool)
    inside, around = octaves(window.lab_result[part][..., 0], [here.astype(bool), near])
    return inside, around
