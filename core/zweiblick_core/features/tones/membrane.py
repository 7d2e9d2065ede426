"""What a fill's colours should be by what lies around it: Laplace's equation, what lies opposite, and a
plane; and what it departs by."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

#: How many cells on either side say what lies between, and what part of its departure something may
#: have left, for lying between its like, to be no patch.
_BESIDE, LIKE = 2, 0.5
#: How far from the rim a hump rises, as shares of the fill's greatest depth; and how many cells
#: across the fill its slopes are taken on.
RISES, ACROSS = (0.25, 0.5, 1.0), 28
#: What is natural goes with how steep colours are along the rim, CIELAB from cell to cell, and so
#: much more.
STEADY = 0.1
#: So many cells about the fill say how calm its ground is.
ABOUT_RIM = 7
#: What is natural goes with how calm the surroundings are: by the deviation of their colours from a
#: plane, CIELAB, and so much more; how many cells about a shape say it.
_CALM, _ABOUT = 0.7, 4


def boxed_down(plane: np.ndarray, side: int) -> np.ndarray:
    """A plane's means over cells of `side` pixels; whole cells only."""
    height, width = plane.shape[0] // side * side, plane.shape[1] // side * side
    return cv2.resize(
        plane[:height, :width], (width // side, height // side), interpolation=cv2.INTER_AREA
    )


def membrane(colour: np.ndarray, area: np.ndarray, known: np.ndarray) -> np.ndarray:
    """Colours (rows, columns, 3) with `area` filled by Laplace's equation from the `known` cells
    that border it.
    """
    # From coarse to fine: each level starts from the one above, so that few steps settle it.
    height, width = area.shape
    usable = (known & ~area).astype(np.float32)
    if min(height, width) > 6:
        half = lambda plane: cv2.resize(
            plane, ((width + 1) // 2, (height + 1) // 2), interpolation=cv2.INTER_AREA
        )
        weight = half(usable)
        smaller = half(colour * usable[..., None]) / np.maximum(weight, 1e-4)[..., None]
        start = cv2.resize(
            membrane(smaller.astype(np.float32), weight <= 1e-3, weight > 1e-3),
            (width, height),
            interpolation=cv2.INTER_LINEAR,
        )
    else:
        mean = (
            colour[usable > 0].mean(axis=0)
            if (usable > 0).any()
            else colour.reshape(-1, 3).mean(axis=0)
        )
        start = np.broadcast_to(mean, colour.shape).astype(np.float32)
    free = (usable == 0)[..., None]
    out = np.where(free, start, colour).astype(np.float32)
    kernel = np.array([[0, 1, 0], [1, 0, 1], [0, 1, 0]], np.float32) / 4
    for _ in range(12):
        out = np.where(free, cv2.filter2D(out, -1, kernel, borderType=cv2.BORDER_REFLECT_101), out)
    return out


@dataclass(frozen=True)
class Around:
    """A shape of cells with what lies around it.

    Attributes:
        colour: (rows, columns, 3) CIELAB. area: bool, the shape. grown: bool, the same and a cell
            around it. known: bool, untouched cells. inner: where the shape's box lies.
    """

    colour: np.ndarray
    area: np.ndarray
    grown: np.ndarray
    known: np.ndarray
    inner: tuple[slice, slice]


def surroundings_at(
    colour: np.ndarray, shape: np.ndarray, corner: tuple[int, int], known: np.ndarray
) -> Around | None:
    """A shape of cells at a corner (row, column); None where too little around it is known."""
    margin = 10
    top, left = corner
    bottom, right = top + shape.shape[0], left + shape.shape[1]
    here = (
        slice(max(0, top - margin), bottom + margin),
        slice(max(0, left - margin), right + margin),
    )
    area = np.zeros(known[here].shape, bool)
    inner = (
        slice(top - here[0].start, bottom - here[0].start),
        slice(left - here[1].start, right - here[1].start),
    )
    area[inner] = shape
    grown = cv2.dilate(area.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
    return (
        Around(colour[here], area, grown, known[here], inner)
        if (known[here] & ~grown).sum() >= 12
        else None
    )


def unrest_of(around: Around) -> float:
    """How much colours close about a shape depart from a plane, CIELAB, root mean square."""
    size = 2 * _ABOUT + 1
    close = (
        around.known
        & ~around.grown
        & (cv2.dilate(around.grown.astype(np.uint8), np.ones((size, size), np.uint8)) > 0)
    )
    if close.sum() < 12:
        return 0.0
    off = (around.colour - _plane(around.colour, around.known & ~around.grown, around.area))[close]
    return float(np.sqrt((off**2).sum(axis=1).mean()))


def calmed(unrest: float, control: Around) -> float:
    """What part of a control's departures is natural where a fill of such an `unrest_of` lies: a wall
    is not judged by what a door beside it does to colours. 0..1.
    """
    return min(1.0, (unrest + _CALM) / (unrest_of(control) + _CALM))


def residual_of(around: Around) -> np.ndarray:
    """Signed departures (ways, rows, columns, 3) of a shape of cells from the membrane over it and
    from the plane through what is around.
    """
    stretched = membrane(around.colour, around.grown, around.known)
    return np.stack(
        [
            (around.colour - expected)[around.inner]
            for expected in (
                stretched,
                _plane(around.colour, around.known & ~around.grown, around.area),
            )
        ]
    )


def residual_between(around: Around) -> np.ndarray:
    """Signed departures (2, rows, columns, 3) from what lies above and below, and from what lies to
    both sides, along a straight line; infinite where nothing does.
    """
    found = []
    for axis in (0, 1):
        colour, area, known = (
            plane if axis == 0 else plane.swapaxes(0, 1)
            for plane in (around.colour, around.grown, around.known & ~around.grown)
        )
        weight = known.astype(np.float32)
        across = np.array([[0.25, 0.5, 0.25]], np.float32)
        mean = cv2.filter2D(
            np.ascontiguousarray(colour * weight[..., None], np.float32),
            -1,
            across,
            borderType=cv2.BORDER_REPLICATE,
        )
        mean = (
            mean
            / np.maximum(cv2.filter2D(weight, -1, across, borderType=cv2.BORDER_REPLICATE), 1e-4)[
                ..., None
            ]
        )
        departs = np.full(colour.shape, np.inf, np.float32)
        for column in np.flatnonzero(area.any(axis=0)):
            own, there = np.flatnonzero(area[:, column]), np.flatnonzero(known[:, column])
            sides = [
                side
                for side in (there[there < own[0]][-_BESIDE:], there[there > own[-1]][:_BESIDE])
                if len(side)
            ]
            if sides:
                at, values = (
                    [float(side.mean()) for side in sides],
                    np.stack([mean[side, column].mean(axis=0) for side in sides]),
                )
                departs[own, column] = colour[own, column] - np.stack(
                    [np.interp(own, at, values[:, channel]) for channel in range(3)], -1
                )
        found.append((departs if axis == 0 else departs.swapaxes(0, 1))[around.inner])
    return np.stack(found)


def _plane(colour: np.ndarray, beyond: np.ndarray, area: np.ndarray) -> np.ndarray:
    """The plane through the cells around, nearer ones counting more; where texture is coarse a wide
    rim tells more than a narrow one.
    """
    away = cv2.distanceTransform((~area).astype(np.uint8), cv2.DIST_L2, 3)
    y, x = np.mgrid[: area.shape[0], : area.shape[1]]
    design = np.stack(
        [np.ones(area.shape), (x - x[area].mean()) / 10.0, (y - y[area].mean()) / 10.0], -1
    )
    weight = (np.exp(-((away / 6.0) ** 2)) * beyond)[beyond][:, None]
    rows = design[beyond]
    # The slope is drawn towards zero: a few odd cells on one side must not tilt it.
    solved = np.linalg.solve(
        rows.T @ (rows * weight) + np.diag([1e-6, 1.0, 1.0]) * 0.5 * float(weight.sum()) / 10,
        rows.T @ (colour[beyond] * weight),
    )
    return (design @ solved).astype(np.float32)


def known_between(
    colour: np.ndarray, shape: np.ndarray, corner: tuple[int, int], known: np.ndarray
) -> list[np.ndarray]:
    """`residual_between` of a shape of cells, by the directions that are known of most of it."""
    around = surroundings_at(colour, shape, corner, known)
    return (
        []
        if around is None
        else [
            way for way in residual_between(around) if np.isfinite(way[..., 0])[shape].mean() > 0.8
        ]
    )
