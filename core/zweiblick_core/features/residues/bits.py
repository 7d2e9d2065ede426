"""Bits of the thing that were kept at the border of what was replaced."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.spatial import cKDTree

from ...scene.window import Window
from ..rim.nulls import euclidean

#: Ghost: lags that make the null, pixels, and the least area of replaced pixels.
LAGS, LEAST_AREA = (5, 26), 250
#: Bits: how far a kept pixel may lie outside the region and still be the thing's, and the least
#: size, pixels.
BESIDE, LEAST_BIT = 10, 5
#: Regions wider and taller than this are examined at half the size, pixels.
LARGE = 420
#: Of a window of more pixels some are enough to know what is usual.
_MANY = 600_000


def nearby(window: Window) -> Window:
    """The window cut down to the region and what bits are looked for in."""
    x, y, w, h = cv2.boundingRect(window.mask.astype(np.uint8))
    margin = max(2 * BESIDE + 20, 124)
    top, left = max(0, y - margin), max(0, x - margin)
    crop = (slice(top, y + h + margin), slice(left, x + w + margin))
    near = Window(
        window.region,
        (window.origin[0] + left, window.origin[1] + top),
        window.original[crop],
        window.result[crop],
        window.mask[crop],
        window.elsewhere[crop],
        window.frame,
        window.lossy,
        window.pair,
    )
    # What the whole window knows already is not made again.
    for name in (
        "changed",
        "filled",
        "apart_levels",
        "luma_original",
        "luma_result",
        "lab_original",
        "lab_result",
    ):
        near.__dict__[name] = getattr(window, name)[crop]
    return near


def replaced(window: Window) -> np.ndarray:
    """Pixels that the removal replaced, sharply: not smoothed, so that single specks stay apart;
    bool.
    """
    error = window.apart_levels
    if not window.lossy:
        return error > 3.5
    # Compression stores colour at half the size: a speck of the thing keeps its brightness, and its
    # colour runs into the fill. So brightness
    # decides, pixel by pixel, wherever thing and fill differ in it; elsewhere colour does, as
    # coarsely as it is stored.
    light = cv2.GaussianBlur(np.abs(window.luma_result - window.luma_original), (0, 0), 0.6)
    apart = cv2.GaussianBlur(light, (0, 0), 4.0)
    outside = np.flatnonzero(~window.elsewhere)
    usual = (
        float(np.percentile(light.ravel()[outside[:: max(5, len(outside) // 200_000)]], 99))
        if len(outside) > 400
        else 5.0
    )
    by_light = light > np.maximum(max(3.5, 0.8 * usual), 0.3 * apart)
    by_colour = cv2.GaussianBlur(error, (0, 0), 2.0) > max(7.0, 1.2 * usual)
    return np.where(apart > 7.0, by_light, by_light | by_colour)


def _band(x: np.ndarray, weight: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    near = cv2.blur(weight, (5, 5), borderType=cv2.BORDER_REPLICATE)
    of_all = lambda plane: cv2.merge([plane] * 3)
    return cv2.divide(
        cv2.blur(cv2.multiply(x, of_all(weight)), (5, 5), borderType=cv2.BORDER_REPLICATE),
        of_all(np.maximum(near, 1e-4)),
    ), near


@dataclass(frozen=True)
class Bits:
    """`value`: (height, width) how far each border pixel is on the thing's side; `border` bool;
    crop's corner (x, y).
    """

    value: np.ndarray
    border: np.ndarray
    kept: np.ndarray
    step: np.ndarray
    corner: tuple[int, int]


def bits_of(
    window: Window, changed: np.ndarray, halves: tuple[np.ndarray, np.ndarray] | None = None
) -> Bits | None:
    """Examine the border between kept and replaced pixels in and just around the region.

    Args:
        changed: bool, what was replaced. halves: of a large region CIELAB of original and result by
            half: what would be missed so is too small to matter there.
    """
    near = cv2.dilate(
        window.mask.astype(np.uint8), np.ones((2 * BESIDE + 1,) * 2, np.uint8)
    ).astype(bool)
    other = window.elsewhere & ~window.mask
    x, y, w, h = cv2.boundingRect(near.astype(np.uint8))
    # Even, so that a half of it is a part of the window's half.
    crop = (slice(max(0, y - 4) // 2 * 2, y + h + 4), slice(max(0, x - 4) // 2 * 2, x + w + 4))
    near, other = near[crop], other[crop]
    c = changed[crop] & near
    # Noise takes single pixels out of the replaced area; only what holds together was kept.
    kept = cv2.morphologyEx(
        (~c & near & ~other).astype(np.uint8),
        cv2.MORPH_OPEN,
        np.array([[0, 1, 0], [1, 1, 1], [0, 1, 0]], np.uint8),
    ).astype(bool)
    gone = cv2.morphologyEx(c.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)).astype(
        bool
    )
    if kept.sum() < LEAST_BIT or gone.sum() < 40:
        return None
    o, r = window.lab_original[crop], window.lab_result[crop]
    full = kept
    if halves is not None:
        rows, columns = kept.shape[0] // 2, kept.shape[1] // 2
        # Two of four pixels are a half.
        kept, gone = (
            cv2.resize(
                plane[: 2 * rows, : 2 * columns].view(np.uint8) * np.uint8(254),
                (columns, rows),
                interpolation=cv2.INTER_AREA,
            )
            >= 127
            for plane in (kept, gone)
        )
        corner = (crop[0].start // 2, crop[1].start // 2)
        o, r = (
            plane[corner[0] : corner[0] + rows, corner[1] : corner[1] + columns] for plane in halves
        )
        if not kept.any() or not gone.any():
            return None
    o_kept, near_kept = _band(o, kept.astype(np.float32))
    o_gone, near_gone = _band(o, gone.astype(np.float32))
    r_kept, _ = _band(r, kept.astype(np.float32))
    r_gone, _ = _band(r, gone.astype(np.float32))
    border = kept & (near_gone > 0.15) & (near_kept > 0.07)
    if not border.any():
        return None
    before, after = euclidean(o_kept - o_gone), euclidean(r_kept - r_gone)
    # Where no step is left there is nothing that could be the thing's.
    left = np.where(border, np.maximum(0, after - 1.6 * before), 0)
    value: np.ndarray = (
        left / usual_step_of(window) * _likeness(window, crop, left > 0, r_kept, gone, o)
    ).astype(np.float32)
    if kept.shape != full.shape:
        size = full.shape[::-1]
        value, after = (
            cv2.resize(plane.astype(np.float32), size, interpolation=cv2.INTER_NEAREST)
            for plane in (value, after)
        )
        border = (
            cv2.resize(border.view(np.uint8), size, interpolation=cv2.INTER_NEAREST).astype(bool)
            & full
        )
        value = np.where(border, value, 0)
    return Bits(value, border, full, after, (crop[1].start, crop[0].start))


def usual_step_of(window: Window) -> float:
    """Typical CIELAB step between neighbouring small patches of the surroundings; worked out once."""
    if "usual step" not in window.shared:
        # Of a large window some strips of rows are enough.
        height = window.mask.shape[0]
        strips = (
            [slice(top, top + 48) for top in range(0, height, 144)]
            if window.mask.size > _MANY
            else [slice(0, height)]
        )
        found = []
        for rows in strips:
            lab, away = (
                cv2.GaussianBlur(window.lab_original[rows], (0, 0), 1.6)[::3, ::3],
                (~window.elsewhere[rows])[::3, ::3],
            )
            found.append(euclidean(lab[:, 1:] - lab[:, :-1])[away[:, 1:] & away[:, :-1]])
        apart = np.concatenate(found)
        window.shared["usual step"] = (
            max(1.5, float(np.percentile(apart, 70))) if apart.size > 50 else 3.0
        )
    return float(window.shared["usual step"])


def _likeness(
    window: Window,
    crop: tuple[slice, slice],
    some: np.ndarray,
    colour: np.ndarray,
    gone: np.ndarray,
    original: np.ndarray,
) -> np.ndarray:
    """1 where one of some (bool) kept pixels looks like the thing, 0 where it looks like what lies
    around, by the nearest colour of each (CIELAB).
    """
    out = np.zeros(some.shape, np.float32)
    ys, xs = np.nonzero(some)
    if not len(ys):
        return out
    rng = np.random.default_rng(20264)
    thing = original[cv2.erode(gone.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(bool)]
    if len(thing) < 20:
        thing = original[gone]
    # Raw, not evened out: a dark joint between boards is a colour of the surroundings too. Of a
    # large window every other pixel is more than enough.
    every = 2 if window.mask.size > _MANY else 1
    away = every * cv2.distanceTransform(
        (~window.mask[::every, ::every]).astype(np.uint8), cv2.DIST_L2, 3
    )
    around = window.lab_original[::every, ::every][
        (away > BESIDE + 2) & (away < 120) & ~window.elsewhere[::every, ::every]
    ]
    if len(around) < 50 or len(thing) < 5:
        return out
    pick = lambda rows, most: rows[rng.choice(len(rows), min(len(rows), most), replace=False)]
    # Colour is uncertain at edges that were compressed; brightness is not.
    trust = np.array([1.0, 0.5, 0.5] if window.lossy else [1.0, 1.0, 1.0], np.float32)
    points, thing, around = colour[ys, xs] * trust, thing * trust, around * trust
    # The third nearest: one odd pixel of the surroundings is no proof.
    to_thing = cKDTree(pick(thing, 3000)).query(points, k=3)[0][:, -1]
    to_around = cKDTree(pick(around, 12000)).query(points, k=3)[0][:, -1]
    out[ys, xs] = 1 / (1 + np.exp(-np.clip((to_around - 1.2 * to_thing - 2.0) / 1.0, -30, 30)))
    return out
