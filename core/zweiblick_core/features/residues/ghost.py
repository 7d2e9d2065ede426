"""The fill's detail against the thing's own, at its place and beside it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ...scene.window import Window
from .bits import LAGS, LARGE

#: Side of the tiles whose correlations are averaged, pixels.
_TILE = 24


def whitened_by(plane: np.ndarray, sigma: float, floor: float) -> np.ndarray:
    """What is finer than `sigma` pixels, as strong everywhere, above a `floor` of variance."""
    fine = plane - cv2.GaussianBlur(plane, (0, 0), sigma)
    strength = cv2.GaussianBlur(fine * fine, (0, 0), 10.0)
    return fine / np.sqrt(strength + floor)


#: How far about the fill ground in other light is looked for, pixels: what blurs and means of it
#: reach.
_GROUND_REACH = 40


@dataclass(frozen=True)
class Sight:
    """What a ghost is sought in: the window, or in a large region its half.

    Attributes: part: how many pixels of the window one of its own is wide; the planes as `Window`
        has them, (height, width) or (height, width, 3), levels of 255 and CIELAB;
    filled, changed: bool, likewise.
    """

    part: int
    apart_levels: np.ndarray
    luma: tuple[np.ndarray, np.ndarray]
    lab: tuple[np.ndarray, np.ndarray]
    filled: np.ndarray
    changed: np.ndarray
    lossy: bool

    @classmethod
    def of(cls, window: Window, changed: np.ndarray) -> Sight:
        """Of a window; `changed`: bool, what the removal changed in it."""
        w, h = cv2.boundingRect(window.filled.view(np.uint8))[2:]
        part = 2 if min(w, h) > LARGE else 1
        size = (window.mask.shape[1] // part, window.mask.shape[0] // part)
        less = lambda plane: (
            plane
            if part == 1
            else cv2.resize(
                plane[: size[1] * part, : size[0] * part], size, interpolation=cv2.INTER_AREA
            )
        )
        most = lambda area: area if part == 1 else less(area.view(np.uint8) * np.uint8(255)) > 127
        return cls(
            part,
            less(window.apart_levels),
            (less(window.luma_original), less(window.luma_result)),
            (less(window.lab_original), less(window.lab_result)),
            most(window.filled),
            most(changed),
            window.lossy,
        )

    def across(self, pixels: float) -> float:
        """Pixels of the window, in its own."""
        return pixels / self.part

    def box(self, pixels: int) -> np.ndarray:
        """A square of about so many pixels a side, odd, for erosion and the like."""
        return np.ones((max(3, pixels // self.part | 1),) * 2, np.uint8)


def where_differs(sight: Sight) -> np.ndarray:
    """Where brightness really differs between original and result, bool: between spokes or letters
    ground is seen in both.
    """
    before, after = sight.luma
    return np.asarray(cv2.GaussianBlur(np.abs(after - before), (0, 0), sight.across(0.8)) > 5.0)


def ground_in_other_light(sight: Sight, differs_at: np.ndarray) -> np.ndarray:
    """Where the result shows the very detail of the original at about its strength or more: ground
    that the thing only shaded, bool. `differs_at`: where they differ at all.

    A ghost is the other way round: its detail is the thing's at a fraction of its strength.
    """
    ground = np.zeros(sight.filled.shape, bool)
    # As far about the fill as any of it reaches.
    x, y, w, h = cv2.boundingRect(sight.filled.view(np.uint8))
    reach = _GROUND_REACH // sight.part
    crop = (slice(max(0, y - reach), y + h + reach), slice(max(0, x - reach), x + w + reach))
    part = ground[crop]
    # Only what differs is asked: beside it lies ground that nobody touched, and of a small or thin
    # fill all is beside it.
    differs = cv2.erode(differs_at[crop].view(np.uint8), sight.box(5)).astype(np.float32)
    # In detail, and in grain close beside the thing, where the thing's own edge rules all detail;
    # half a large region has its grain no more.
    for sigma, side, least, alike in (
        (4.0, 21, 0.05, 0.2),
        *([] if sight.lossy or sight.part > 1 else [(1.0, 9, 0.02, 0.5)]),
    ):
        before, after = (
            (luma[crop] - cv2.GaussianBlur(luma[crop], (0, 0), sight.across(sigma))) * differs
            for luma in sight.luma
        )
        around = sight.box(side).shape
        held = np.maximum(cv2.blur(differs, around), 1e-3)
        common, power, other = (
            cv2.blur(product, around) / held
            for product in (before * after, before * before, after * after)
        )
        part |= (
            (common > alike * np.sqrt(np.maximum(power * other, 0)) + least)
            & (common > 0.5 * power)
            & (differs > 0)
        )
    part[:] = cv2.dilate(part.view(np.uint8), sight.box(9)).view(bool)
    return ground


def lag_correlations(
    things: list[np.ndarray], fills: list[np.ndarray], weight: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Correlations of the fill's detail with the thing's at its own place and within a pixel of it,
    (9, planes), and at many others, (n, planes).

    Each is the mean over small tiles without the highest twentieth: a ghost is everywhere, a
        stretch of ground that both show is somewhere.
    """
    margin = LAGS[1] + 1
    if min(weight.shape) < 24:
        return np.zeros((9, len(things))), np.empty((0, len(things)))
    rows, columns = (-(-side // _TILE) for side in weight.shape)
    spare = (rows * _TILE - weight.shape[0], columns * _TILE - weight.shape[1])
    # Beyond the picture there is nothing to agree with.
    whole = lambda plane, edge=0: np.pad(
        plane.astype(np.float32), ((edge, edge + spare[0]), (edge, edge + spare[1]))
    )
    by_tile = lambda plane: (
        plane.reshape(rows, _TILE, -1).sum(axis=1).reshape(rows, columns, _TILE).sum(axis=2)
    )
    weight, things, fills = (
        whole(weight),
        [whole(thing) for thing in things],
        [whole(fill, margin) for fill in fills],
    )
    share = by_tile(weight) / _TILE**2
    usable = share > min(0.3, 0.5 * float(share.max()))
    held = np.maximum(share[usable], 1e-3) * _TILE**2
    kept = len(held) - int(0.05 * len(held))

    def at(dx: int, dy: int) -> list[float]:
        there = (
            slice(margin + dy, margin + dy + weight.shape[0]),
            slice(margin + dx, margin + dx + weight.shape[1]),
        )
        tiles = [
            by_tile(thing * fill[there])[usable] / held
            for thing, fill in zip(things, fills, strict=True)
        ]
        return [float(np.sort(some)[:kept].mean()) for some in tiles]

    rng = np.random.default_rng(20266)
    places: set[tuple[int, int]] = set()
    while len(places) < 64:
        dx, dy = (int(v) for v in rng.integers(-LAGS[1], LAGS[1] + 1, 2))
        if LAGS[0] <= np.hypot(dx, dy) <= LAGS[1]:
            places.add((dx, dy))
    # A block grid repeats every eight pixels in both pictures.
    places |= {(dx, dy) for dx in (-8, 0, 8) for dy in (-8, 0, 8) if (dx, dy) != (0, 0)}
    return np.array([at(dx, dy) for dx in (-1, 0, 1) for dy in (-1, 0, 1)]), np.array(
        [at(dx, dy) for dx, dy in sorted(places)]
    )


def beyond_elsewhere(here: np.ndarray, elsewhere: np.ndarray) -> float:
    """By how many of its spreads the largest of some correlations (9,) lies beyond those at other
    places (n,).
    """
    peak = float(here.max())
    sure = (peak - float(elsewhere.mean())) / (float(elsewhere.std()) + 1e-4)
    # The largest of all the others is the least that the place itself must exceed.
    return min(sure, 5.4 + 8 * (peak / max(float(elsewhere.max()), 1e-4) - 1.25))
