"""Patches in a fill's own shape, sought by the slopes that a soft patch must have."""

from __future__ import annotations

import cv2
import numpy as np

from .membrane import ABOUT_RIM, RISES, STEADY

#: Slopes beyond this many times the middle one count less.
_HUBER = 0.6


def humps_of(shape: np.ndarray) -> list[np.ndarray]:
    """Patches in a fill's own shape (bool, cells, with a cell to spare around it unless the frame
    ends there), 0 at its rim and 1 well inside, one for each of `RISES`.
    """
    inside = cv2.distanceTransform(shape.astype(np.uint8), cv2.DIST_L2, 5)
    return [
        np.clip(inside / max(2.0, rise * float(inside.max())), 0, 1).astype(np.float32)
        for rise in RISES
    ]


def heights(colour: np.ndarray, humps: list[np.ndarray], area: np.ndarray) -> np.ndarray:
    """How high each hump stands in colours (rows, columns, 3) of the same shape, by their slopes;
    (humps, 3) CIELAB.

    Args:
        area: bool, cells whose slopes count.
    """
    slopes, rising = _slopes(colour, humps, area)
    return np.stack([_height(slopes, one) for one in rising])


def _slopes(
    colour: np.ndarray, humps: list[np.ndarray], area: np.ndarray
) -> tuple[np.ndarray, list[np.ndarray]]:
    """Differences of neighbouring cells of an area (bool), to the right and below: of colours, (n,
    3), and of each hump, (n,).
    """
    beside, below = area[:, 1:] & area[:, :-1], area[1:] & area[:-1]
    of = lambda plane: np.concatenate(
        [np.diff(plane, axis=1)[beside], np.diff(plane, axis=0)[below]]
    ).astype(float)
    return of(colour), [of(hump) for hump in humps]


def steepness(
    colour: np.ndarray, humps: list[np.ndarray], area: np.ndarray, found: np.ndarray
) -> np.ndarray:
    """How steep colours are along each hump's slopes without a hump of the height found, (humps,):
    CIELAB from cell to cell, three in four less; arguments as of `heights`, and
    what that gives."""
    slopes, rising = _slopes(colour, humps, area)
    steep = []
    for rise, height in zip(rising, found, strict=True):
        some = np.abs(rise) > 1e-4
        steep.append(
            float(
                np.linalg.norm(
                    np.percentile(np.abs(slopes[some] - height * rise[some][:, None]), 75, axis=0)
                )
            )
            if some.any()
            else 0.0
        )
    return np.array(steep)


def steepness_about(
    colour: np.ndarray,
    shape: np.ndarray,
    corner: tuple[int, int],
    known: np.ndarray,
    cells: int = ABOUT_RIM,
) -> float:
    """The same of the known cells about a shape, as far as so many `cells`."""
    whole = np.zeros(known.shape, np.uint8)
    whole[corner[0] : corner[0] + shape.shape[0], corner[1] : corner[1] + shape.shape[1]] = shape
    grown = lambda cells: cv2.dilate(whole, np.ones((2 * cells + 1,) * 2, np.uint8)).astype(bool)
    slopes, _ = _slopes(colour, [], grown(cells) & ~grown(1) & known)
    return float(np.linalg.norm(np.percentile(np.abs(slopes), 75, axis=0))) if len(slopes) else 0.0


def _height(slopes: np.ndarray, rising: np.ndarray) -> np.ndarray:
    """(3,) how many times a hump's slopes (n,) are in those of colours (n, 3): a location, in which
    strong ones count for no more than is usual (Huber 1964).
    """
    some = np.abs(rising) > 1e-4
    found = np.zeros(3)
    if some.sum() < 12:
        return found
    here, rise = slopes[some], rising[some][:, None]
    usual = _HUBER * np.median(np.abs(here), axis=0) + 0.02
    for _ in range(8):
        weight = rise / np.maximum(1.0, np.abs(here - found * rise) / usual)
        found = (weight * here).sum(axis=0) / (weight * rise).sum(axis=0)
    return found


def stands_out(colour: np.ndarray, hump: np.ndarray, area: np.ndarray, height: np.ndarray) -> float:
    """0..1, how far a hump of some height (3,) is one from side to side as well as from top to
    bottom: what is found of it each way, the lesser over the greater. A band
    of bricks between boards and setts stands out one way only."""
    found = []
    for axis, both in ((1, area[:, 1:] & area[:, :-1]), (0, area[1:] & area[:-1])):
        rising, slopes = (
            np.diff(hump, axis=axis)[both].astype(float),
            np.diff(colour, axis=axis)[both].astype(float),
        )
        # The two slopes across it apart: edges may hide one of them, and at the frame there may be
        # one, or none to say anything.
        sides = [rising * sign > 1e-4 for sign in (1, -1)]
        some = [
            float(_height(slopes[side], rising[side]) @ height)
            for side in sides
            if side.sum() >= 12
        ]
        if not some:
            return 1.0
        found.append(max(some))
    return float(np.clip(min(found) / max(*found, 1e-9), 0, 1))


def growth_of(afar: float, near: float, times: int) -> float:
    """By what natural heights are more at full size than at one part in so many `times`, from how
    steep colours are at both, CIELAB from cell to cell. What is in focus is
    alike at any size; what is not is calmer the closer it is looked at."""
    return float(np.clip((afar + STEADY) / (near + STEADY), 1, times))


def corners_at(
    places: list[tuple[int, int]], side: int, corner: tuple[int, int]
) -> list[tuple[int, int]]:
    """Corners (row, column) of an outline moved to each of some places ((x, y) pixels), in cells of
    `side` pixels; `corner`: where it lies now.
    """
    return [(corner[0] + round(dy / side), corner[1] + round(dx / side)) for dx, dy in places]


def heights_at(
    corners: list[tuple[int, int]],
    colour: np.ndarray,
    free: np.ndarray,
    shape: np.ndarray,
    humps: list[np.ndarray],
    area: np.ndarray,
    steep: np.ndarray,
) -> list[np.ndarray]:
    """`heights` of the humps at untouched places, (humps, 3) each.

    Args:
        corners: of the outline, (row, column). colour, free: of the window's cells, CIELAB and
            which are untouched.
        shape, humps, area: in cells, as of `_by_slopes`. steep: of the fill, (humps,).
    """
    height, width = shape.shape
    controls = []
    for row, column in corners:
        if (
            row < 0
            or column < 0
            or row + height > colour.shape[0]
            or column + width > colour.shape[1]
        ):
            continue
        if (free[row : row + height, column : column + width] | ~area).mean() > 0.9:
            there = colour[row : row + height, column : column + width]
            found = heights(there, humps, area)
            # A wall is not judged by what a hedge's slopes come to.
            controls.append(
                found
                * np.minimum(1.0, steep / (steepness(there, humps, area, found) + STEADY))[:, None]
            )
    return controls
