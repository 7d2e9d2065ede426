"""Where the texture inside a region is found again outside it, place by place."""

from __future__ import annotations

import colorsys
from dataclasses import dataclass

import cv2
import numpy as np

from ..regions.masks import Region
from ..scene.window import reach_of

#: Inside pixels that are asked at most; larger regions are shrunk.
_MOST = 30_000
_PATCH = 7
_ROUNDS = 9
#: Places this far off in eight directions are one piece with a place if their offsets are as near
#: as this, both in shrunk pixels; so many of those
#: inside must be. Patches overlap, so that what lies nearer than a patch agrees by itself.
_STEP, _NEAR, _FELLOWS = 6, 1, 0.6


@dataclass(frozen=True)
class Matches:
    """`x`, `y`: where the grid begins in the frame; `shrink`: pixels of the frame for one of the
    grid; `offsets`: int16 (rows, columns, 2), dx and dy in
    pixels of the frame from a place to its match; `inside`, `coherent`: bool (rows, columns),
    coherent where the neighbours come from the same place.
    """

    x: int
    y: int
    shrink: float
    offsets: np.ndarray
    inside: np.ndarray
    coherent: np.ndarray


def _describe(window: np.ndarray) -> np.ndarray:
    """float32 (height, width, 14): the first ten cosine coefficients of each 7x7 luma patch, two
    more of the diagonal, and the local colour.
    """
    luma = cv2.cvtColor(window, cv2.COLOR_RGB2GRAY).astype(np.float32)
    lab = cv2.cvtColor((window / 255.0).astype(np.float32), cv2.COLOR_RGB2LAB)
    n = np.arange(_PATCH)
    basis = [
        np.cos(np.pi * (n + 0.5) * k / _PATCH).astype(np.float32)
        * np.float32(np.sqrt((1 if k == 0 else 2) / _PATCH))
        for k in range(4)
    ]
    planes: list[np.ndarray] = [
        cv2.sepFilter2D(luma, cv2.CV_32F, basis[i], basis[j], borderType=cv2.BORDER_REFLECT_101)
        / (2 if i + j == 0 else 1)
        for i in range(4)
        for j in range(4)
        if i + j <= 3
    ]
    planes += [
        cv2.sepFilter2D(luma, cv2.CV_32F, basis[i], basis[j], borderType=cv2.BORDER_REFLECT_101)
        for i, j in ((2, 2), (1, 3))
    ]
    planes += [3 * cv2.blur(lab[..., k], (5, 5)) for k in (1, 2)]
    described: np.ndarray = np.stack(planes, axis=2)
    return described


def searched(region: Region, width: int, height: int) -> tuple[int, int, int, int]:
    """The box (x, y, width, height) of a frame of that size in which a region's sources are sought."""
    x, y, w, h = region.bbox
    reach = reach_of(region)
    left, top, right, bottom = (
        max(0, x - reach),
        max(0, y - reach),
        min(width, x + w + reach),
        min(height, y + h + reach),
    )
    return left, top, right - left, bottom - top


def find_matches(pixels: np.ndarray, region: Region, others: tuple[Region, ...] = ()) -> Matches:
    """`matches_within` a whole frame, uint8 (height, width, 3)."""
    left, top, width, height = searched(region, pixels.shape[1], pixels.shape[0])
    return matches_within(
        pixels[top : top + height, left : left + width], left, top, region, others
    )


def matches_within(
    window: np.ndarray, left: int, top: int, region: Region, others: tuple[Region, ...] = ()
) -> Matches:
    """The nearest likeness of every place inside a region, by patch matching with propagation and
    random search (Barnes and others 2009), seeded.

    Args:
        window: uint8 (height, width, 3), what `searched` says of a result in its original's frame.
            left, top: where it lies there.
        region: where it was filled. others: regions that are no sources either.
    """
    x, y, w, h = region.bbox
    right, bottom = left + window.shape[1], top + window.shape[0]
    mask = np.zeros(window.shape[:2], np.uint8)
    forbidden = mask.copy()
    for one in (region, *others):
        ox, oy, ow, oh = one.bbox
        x0, y0, x1, y1 = max(ox, left), max(oy, top), min(ox + ow, right), min(oy + oh, bottom)
        if x0 < x1 and y0 < y1:
            forbidden[y0 - top : y1 - top, x0 - left : x1 - left] |= one.mask[
                y0 - oy : y1 - oy, x0 - ox : x1 - ox
            ]
    mask[y - top : y - top + h, x - left : x - left + w] = region.mask
    shrink = max(1.0, float(np.sqrt(region.mask.sum() / _MOST)))
    size = (max(8, round(window.shape[1] / shrink)), max(8, round(window.shape[0] / shrink)))
    small = (
        cv2.resize(window, size, interpolation=cv2.INTER_AREA)
        if shrink > 1
        else np.ascontiguousarray(window)
    )
    inside = cv2.resize(mask, size, interpolation=cv2.INTER_NEAREST).astype(bool)
    # A source's whole patch must be untouched.
    free = (
        cv2.dilate(
            cv2.resize(forbidden, size, interpolation=cv2.INTER_NEAREST),
            np.ones((_PATCH, _PATCH), np.uint8),
        )
        == 0
    )
    rows, columns = np.nonzero(inside)
    empty = Matches(
        left,
        top,
        shrink,
        np.zeros((*inside.shape, 2), np.int16),
        inside,
        np.zeros(inside.shape, bool),
    )
    sources = np.flatnonzero(free)
    if not len(rows) or len(sources) < 64:
        return empty
    described = _describe(small)
    mine = described[rows, columns]
    rng = np.random.default_rng(20269)
    high, wide = inside.shape
    place = np.full(inside.shape, -1)
    place[rows, columns] = np.arange(len(rows))
    best = rng.choice(sources, len(rows))
    cost = ((mine - described.reshape(-1, described.shape[2])[best]) ** 2).sum(axis=1)
    flat, free_flat = described.reshape(-1, described.shape[2]), free.ravel()

    def consider(some: np.ndarray, row: np.ndarray, column: np.ndarray) -> None:
        fits = (row >= 0) & (row < high) & (column >= 0) & (column < wide)
        some, at = some[fits], row[fits] * wide + column[fits]
        open_ = free_flat[at]
        some, at = some[open_], at[open_]
        apart = np.take(mine, some, axis=0)
        apart -= np.take(flat, at, axis=0)
        now = np.einsum("ij,ij->i", apart, apart)
        better = now < cost[some]
        cost[some[better]], best[some[better]] = now[better], at[better]

    everyone = np.arange(len(rows))
    for turn in range(_ROUNDS):
        for step in (8, 2, 1) if turn < 3 else (1,):
            for dy, dx in ((0, step), (0, -step), (step, 0), (-step, 0)):
                ny, nx = rows + dy, columns + dx
                fits = (ny >= 0) & (ny < high) & (nx >= 0) & (nx < wide)
                fellow = np.where(
                    fits, place[np.clip(ny, 0, high - 1), np.clip(nx, 0, wide - 1)], -1
                )
                some = np.flatnonzero(fellow >= 0)
                there = best[fellow[some]]
                consider(some, there // wide - dy, there % wide - dx)
        radius = max(high, wide) / 2
        while radius >= 1:
            consider(
                everyone,
                best // wide + rng.integers(-int(radius), int(radius) + 1, len(rows)),
                best % wide + rng.integers(-int(radius), int(radius) + 1, len(rows)),
            )
            radius /= 2 if turn == 0 else 4
    dx, dy = best % wide - columns, best // wide - rows
    field = np.full((*inside.shape, 2), 10_000, np.int32)
    field[rows, columns, 0], field[rows, columns, 1] = dx, dy
    fellows, asked = np.zeros(inside.shape, np.uint8), np.zeros(inside.shape, np.uint8)
    padded = np.pad(field, ((_STEP, _STEP), (_STEP, _STEP), (0, 0)), constant_values=10_000)
    for sy in (0, _STEP, 2 * _STEP):
        for sx in (0, _STEP, 2 * _STEP):
            if sy != _STEP or sx != _STEP:
                other = padded[sy : sy + high, sx : sx + wide]
                fellows += (np.abs(other - field).max(axis=2) <= _NEAR).astype(np.uint8)
                asked += (other[..., 0] < 10_000).astype(np.uint8)
    coherent = inside & (asked >= 3) & (fellows >= _FELLOWS * asked)
    offsets = np.zeros((*inside.shape, 2), np.int16)
    offsets[rows, columns, 0], offsets[rows, columns, 1] = (
        np.rint(dx * shrink),
        np.rint(dy * shrink),
    )
    return Matches(left, top, shrink, offsets, inside, coherent)


def _colour(dx: float, dy: float) -> tuple[float, float, float]:
    """Hue by the way to the source, lightness by how far it is."""
    red, green, blue = colorsys.hls_to_rgb(
        (np.arctan2(dy, dx) / (2 * np.pi)) % 1.0,
        0.45 + 0.3 * min(1.0, float(np.hypot(dx, dy)) / 400),
        0.55,
    )
    return 255 * red, 255 * green, 255 * blue


def draw_matches(patch: np.ndarray, matches: tuple[Matches, ...], x: int, y: int) -> np.ndarray:
    """A paler picture; inside, the colour of each piece's way to its source, and grey where there
    is none.
    """
    height, width = patch.shape[:2]
    out = np.repeat(0.45 * patch.astype(np.float32).mean(axis=2, keepdims=True) + 70, 3, axis=2)
    for one in matches:
        rows, columns = one.inside.shape
        x0, y0 = max(x, one.x), max(y, one.y)
        x1, y1 = (
            min(x + width, one.x + int(columns * one.shrink)),
            min(y + height, one.y + int(rows * one.shrink)),
        )
        if x0 >= x1 or y0 >= y1:
            continue
        row = np.clip(((np.arange(y0, y1) - one.y) / one.shrink).astype(int), 0, rows - 1)
        column = np.clip(((np.arange(x0, x1) - one.x) / one.shrink).astype(int), 0, columns - 1)
        here = np.ix_(row, column)
        inside, coherent, offsets = one.inside[here], one.coherent[here], one.offsets[here]
        part = out[y0 - y : y1 - y, x0 - x : x1 - x]
        part[inside] *= 0.7
        seen, which = (
            np.unique(offsets[coherent].reshape(-1, 2), axis=0, return_inverse=True)
            if coherent.any()
            else (np.empty((0, 2)), np.empty(0, int))
        )
        if len(seen):
            part[coherent] = np.array(
                [_colour(float(dx), float(dy)) for dx, dy in seen], np.float32
            )[which.ravel()]
    drawn: np.ndarray = np.clip(np.rint(out), 0, 255).astype(np.uint8)
    return drawn
