"""The grid that detail is seen in: what the result shows in each cell, through one area of pixels."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from ...scene.window import Window

#: Grid on which detail is sampled, and about how wide each sample is averaged, pixels.
STRIDE, BOX = 8, 16
#: Blur before the gradient at each scale, pixels.
SCALES = (0.6, 1.4, 2.8)
#: One more between them, for how sharp things are.
BETWEEN = 1.0
_LAPLACIAN = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
_SMALL = 0.004
_SOFT = np.array([0.25, 0.5, 0.25])


@dataclass(frozen=True)
class Cells:
    """Grid values seen through one area of pixels.

    Attributes:
        logs: (rows, columns, scales) logarithms of the smaller eigenvalue.
        noise: (rows, columns) logarithm of the finest Laplacian's amplitude, levels of 255;
            averaged as a root, so that a few edges do not rule.
        level: (rows, columns) luma 0..1.
        coarse: (rows, columns) logarithm of the energy of gradients behind a blur of 6 px.
        colour: (rows, columns, 2) mean a* and b*.
        spread: (rows, columns) deviation of colour about its mean, CIELAB.
        way: (rows, columns, 2) orientation times coherence, as a double angle.
        share: (rows, columns) share of each box that the area covers.
        structure: (rows, columns, 8) logarithms of both eigenvalues, smaller first, at each of
            `SCALES` and at `BETWEEN`.
    """

    logs: np.ndarray
    noise: np.ndarray
    level: np.ndarray
    coarse: np.ndarray
    colour: np.ndarray
    spread: np.ndarray
    way: np.ndarray
    share: np.ndarray
    structure: np.ndarray


def _boxed(plane: np.ndarray) -> np.ndarray:
    """Sums over the grid's cells, spread to their neighbours by 1-2-1: a soft window of about `BOX`
    px, for the price of one pass. The plane is whole cells high and wide.
    """
    cells = cv2.resize(
        plane, (plane.shape[1] // STRIDE, plane.shape[0] // STRIDE), interpolation=cv2.INTER_AREA
    )
    return cv2.sepFilter2D(cells, -1, _SOFT, _SOFT, borderType=cv2.BORDER_CONSTANT)


def products(luma: np.ndarray, sigma: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Of the gradient behind a blur: xx, yy, xy."""
    smooth = cv2.GaussianBlur(luma, (0, 0), sigma)
    gx, gy = (
        cv2.Sobel(smooth, cv2.CV_32F, 1, 0, scale=0.125),
        cv2.Sobel(smooth, cv2.CV_32F, 0, 1, scale=0.125),
    )
    return gx * gx, gy * gy, gx * gy


def boxed_means(area: np.ndarray) -> tuple[Callable[[np.ndarray], np.ndarray], np.ndarray]:
    """What averages a plane over soft boxes, using only pixels of an area (bool), and the share of
    each box that it covers.
    """
    height, width = area.shape
    # Beyond the last pixels lies nothing.
    held = np.zeros((-(-height // STRIDE) * STRIDE, -(-width // STRIDE) * STRIDE), np.float32)
    weight, masked = area.astype(np.float32), held[:height, :width]
    masked[:] = weight
    share = _boxed(held)
    safe = np.maximum(share, 1e-6)

    def mean(plane: np.ndarray) -> np.ndarray:
        np.multiply(plane, weight, out=masked)
        return _boxed(held) / safe

    return mean, share


def _eigenvalues(xx: np.ndarray, yy: np.ndarray, xy: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Logarithms of a structure tensor's eigenvalues, smaller first."""
    half, split = (xx + yy) / 2, np.sqrt(np.maximum((xx - yy) ** 2 / 4 + xy * xy, 0))
    return np.log(np.maximum(half - split, 0) + _SMALL), np.log(half + split + _SMALL)


def structure_of(luma: np.ndarray, area: np.ndarray) -> np.ndarray:
    """`Cells.structure` of another plane: luma (n, m) float32, seen through area (n, m) bool."""
    mean, _ = boxed_means(area)
    return np.stack(
        [
            value
            for sigma in (*SCALES, BETWEEN)
            for value in _eigenvalues(*(mean(plane) for plane in products(luma, sigma)))
        ],
        -1,
    )


def noise_of(luma: np.ndarray, area: np.ndarray) -> np.ndarray:
    """`Cells.noise`, likewise."""
    mean, _ = boxed_means(area)
    return _noise(mean(finest_of(luma)))


def finest_of(luma: np.ndarray) -> np.ndarray:
    """Root of the finest Laplacian's amplitude."""
    return np.sqrt(np.abs(cv2.filter2D(luma, -1, _LAPLACIAN)) / 6)


def _noise(mean: np.ndarray) -> np.ndarray:
    return 2 * np.log(mean + 0.05)


#: Planes are made in tiles of so many pixels, which a processor keeps near it; gradients behind the
#: widest blur reach so far beyond one.
_TILE, BEYOND = (128, 512), 12
#: How many planes are averaged: three products at each of four blurs, the finest detail,
#: brightness, two colours and their square, coarse detail; then the area itself.
_COUNT = 3 * (len(SCALES) + 1) + 6


def cells_of(window: Window, areas: list[tuple[tuple[int, int], np.ndarray]]) -> list[Cells]:
    """The result averaged over soft boxes, seen through each of some areas.

    Args:
        areas: (row, column) of a corner in the window, whole cells, and a bool array of the pixels
            from there that are used.
    """
    luma, lab = window.luma_result, window.lab_result
    small = cv2.resize(luma, None, fx=0.25, fy=0.25, interpolation=cv2.INTER_AREA)
    smooth = cv2.GaussianBlur(small, (0, 0), 1.5)
    gx, gy = (
        cv2.Sobel(smooth, cv2.CV_32F, 1, 0, scale=0.03125),
        cv2.Sobel(smooth, cv2.CV_32F, 0, 1, scale=0.03125),
    )
    coarse = cv2.resize(gx * gx + gy * gy, luma.shape[::-1], interpolation=cv2.INTER_LINEAR)
    sums = [
        np.zeros((_COUNT + 1, -(-area.shape[0] // STRIDE), -(-area.shape[1] // STRIDE)), np.float32)
        for _, area in areas
    ]
    for top in range(0, luma.shape[0], _TILE[0]):
        for left in range(0, luma.shape[1], _TILE[1]):
            bottom, right = min(top + _TILE[0], luma.shape[0]), min(left + _TILE[1], luma.shape[1])
            touched = []
            for (row, column), area in areas:
                y0, x0, y1, x1 = (
                    max(top, row),
                    max(left, column),
                    min(bottom, row + area.shape[0]),
                    min(right, column + area.shape[1]),
                )
                touched.append(
                    (y0, x0, y1, x1, area[y0 - row : y1 - row, x0 - column : x1 - column])
                    if y0 < y1 and x0 < x1
                    else None
                )
            if not any(part is not None and part[-1].any() for part in touched):
                continue
            planes = _planes(luma, lab, coarse, (top, left, bottom, right))
            for part, ((row, column), _), summed in zip(touched, areas, sums, strict=True):
                if part is None or not part[-1].any():
                    continue
                y0, x0, y1, x1, area = part
                crop = (slice(y0 - top, y1 - top), slice(x0 - left, x1 - left))
                rows, columns = -(-(y1 - y0) // STRIDE), -(-(x1 - x0) // STRIDE)
                there = summed[
                    :,
                    (y0 - row) // STRIDE : (y0 - row) // STRIDE + rows,
                    (x0 - column) // STRIDE : (x0 - column) // STRIDE + columns,
                ]
                # Beyond the last pixels lies nothing.
                held = np.zeros((rows * STRIDE, columns * STRIDE), np.float32)
                masked = held[: y1 - y0, : x1 - x0]
                masked[:] = seen = area.astype(np.float32)
                there[_COUNT] = cv2.resize(held, (columns, rows), interpolation=cv2.INTER_AREA)
                whole = masked.shape == held.shape and bool(area.all())
                for k, plane in enumerate(planes):
                    if whole:
                        there[k] = cv2.resize(
                            plane[crop], (columns, rows), interpolation=cv2.INTER_AREA
                        )
                        continue
                    np.multiply(plane[crop], seen, out=masked)
                    there[k] = cv2.resize(held, (columns, rows), interpolation=cv2.INTER_AREA)
    return [_cells(summed) for summed in sums]


def _planes(
    luma: np.ndarray, lab: np.ndarray, coarse: np.ndarray, tile: tuple[int, int, int, int]
) -> list[np.ndarray]:
    """All `_COUNT` planes of a tile (top, left, bottom, right), float32 (height, width) each."""
    top, left, bottom, right = tile
    wide = luma[max(0, top - BEYOND) : bottom + BEYOND, max(0, left - BEYOND) : right + BEYOND]
    inner = (
        slice(min(top, BEYOND), min(top, BEYOND) + bottom - top),
        slice(min(left, BEYOND), min(left, BEYOND) + right - left),
    )
    found = [plane[inner] for sigma in (*SCALES, BETWEEN) for plane in products(wide, sigma)]
    a, b = (np.ascontiguousarray(lab[top:bottom, left:right, channel]) for channel in (1, 2))
    return [
        *found,
        finest_of(wide)[inner],
        luma[top:bottom, left:right],
        a,
        b,
        a * a + b * b,
        coarse[top:bottom, left:right],
    ]


def _cells(summed: np.ndarray) -> Cells:
    """Cells of plain means (`_COUNT` + 1, rows, columns): each spread to its neighbours, and
    divided by what of it was seen.
    """
    *planes, share = (
        cv2.sepFilter2D(plane, -1, _SOFT, _SOFT, borderType=cv2.BORDER_CONSTANT) for plane in summed
    )
    safe = np.maximum(share, 1e-6)
    means = [plane / safe for plane in planes]
    products, (noise, level, a, b, square, coarse) = means[:-6], means[-6:]
    structure = np.stack(
        [value for k in range(0, len(products), 3) for value in _eigenvalues(*products[k : k + 3])],
        -1,
    )
    xx, yy, xy = products[3:6]
    way = np.stack([(xx - yy), 2 * xy], -1) / (xx + yy + 0.05)[..., None]
    spread = np.sqrt(np.maximum(square - a * a - b * b, 0))
    return Cells(
        np.ascontiguousarray(structure[..., 0 : 2 * len(SCALES) : 2]),
        _noise(noise),
        level / 255.0,
        np.log(coarse + _SMALL),
        np.stack([a, b], -1),
        spread,
        way,
        share,
        structure,
    )


def broadly(plane: np.ndarray, sx: float, sy: float) -> np.ndarray:
    """A Gaussian blur; broad ones on a grid as much coarser as they can bear."""
    every = [
        int(min(max(sigma // 3, 1), max(1, side // 3)))
        for sigma, side in ((sx, plane.shape[1]), (sy, plane.shape[0]))
    ]
    if max(every) == 1:
        return cv2.GaussianBlur(plane, (0, 0), sigmaX=sx, sigmaY=sy)
    size = (-(-plane.shape[1] // every[0]), -(-plane.shape[0] // every[1]))
    # Mirrored at its ends as a blur at full size is, and a whole number of cells, so that nothing
    # shifts.
    whole = cv2.copyMakeBorder(
        plane,
        0,
        size[1] * every[1] - plane.shape[0],
        0,
        size[0] * every[0] - plane.shape[1],
        cv2.BORDER_REFLECT_101,
    )
    small = cv2.GaussianBlur(
        cv2.resize(whole, size, interpolation=cv2.INTER_AREA),
        (0, 0),
        sigmaX=sx / every[0],
        sigmaY=sy / every[1],
    )
    return cv2.resize(small, whole.shape[1::-1], interpolation=cv2.INTER_LINEAR)[
        : plane.shape[0], : plane.shape[1]
    ]
