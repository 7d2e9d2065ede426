"""Copies from farther off than a window reaches.

The source of a wide copy has no room beside it. So some large squares of a wide fill are sought in
the whole frame, as structure at an eighth of its size (normalised
cross-correlation by FFT, plain and mirrored), and what is proposed so is verified at full size by
the grain of a few tiles. What stands is placed below the window, for
`repeat` to judge as it does all copies.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from ...io import shrunk
from ...scene.planes import luma_of
from ...scene.window import Window
from .searched import Searched

#: At which pyramid level the frame is looked through; and how wide a fill must be, pixels.
_PART, WIDE = 8, 220
#: Sides of the squares that are sought, at that size, and how many at most; of every other one the
#: mirror image too.
_LEAST_SIDE, _MOST_SIDE, _SQUARES = 14, 40, 5
#: The likeness of structure that proposes a place, and how many places of one square are looked at.
_ALIKE, _PLACES = 0.5, 2
#: How many tiles verify a place, how many of them must agree on one offset, by how much, and how
#: far a place may be off, pixels.
_ASKED, _AGREE, _BY, _OFF = 4, 2, 0.3, 12
#: What a tile's grain needs around it to be worked out, pixels.
_MARGIN = 12

Plane = Callable[[np.ndarray], np.ndarray]


@dataclass(frozen=True)
class Place:
    """Where a fill's source lies: a pixel (x, y) of the window comes from (x + dx, y + dy), of a
    mirrored one from (dx - x, y + dy); in the window's pixels, mostly beyond it.
    """

    dx: int
    dy: int
    mirrored: bool

    def source_of(self, x: int, y: int, width: int) -> tuple[int, int]:
        """The top left corner that a box at (x, y), so many pixels wide, comes from."""
        return (self.dx - x - width + 1 if self.mirrored else x + self.dx), y + self.dy

    def within(self, box: tuple[int, int, int, int], height: int, width: int) -> bool:
        """Whether all that a box (x, y, width, height) comes from lies in a window."""
        x, y = self.source_of(box[0], box[1], box[2])
        return x >= 0 and y >= 0 and x + box[2] <= width and y + box[3] <= height


@dataclass(frozen=True)
class Below:
    """Source pixels placed below a window's.

    Attributes:
        fine, steep: float32 (window's height + patch's, window's width) planes of both.
        at: (x, y) in the window's pixels of the patch's top left corner; it stands at (0, window's
            height) of the planes.
        place: what it is the source by.
    """

    fine: np.ndarray
    steep: np.ndarray
    at: tuple[int, int]
    place: Place

    def beyond(self, height: int) -> tuple[int, int]:
        """What to add to a place in the patch, as the planes have it, for the window's pixels."""
        return self.at[0], self.at[1] - height


def far_source(
    window: Window,
    tiles: list[tuple[int, int]],
    side: int,
    fine: np.ndarray,
    steep: np.ndarray,
    fine_of: Plane,
    steep_of: Plane,
    known: Place | None = None,
) -> Below | None:
    """The fill's source anywhere in the frame; None where there is none, or the fill is not wide.

    Args:
        tiles, side: tiles of the fill, (x, y) of their corners, and their width, pixels. fine,
            steep: the window's planes.
        fine_of, steep_of: what makes these of luma, float32.
        known: where it lies, if a part of the fill has said so.
    """
    x, y, w, h = cv2.boundingRect(window.filled.view(np.uint8))
    if window.pair is None or min(w, h) < WIDE or len(tiles) < _AGREE:
        return None
    if known is not None:
        return _placed_below(window, known, (x, y, w, h), fine, steep, fine_of, steep_of)
    verified: dict[tuple[bool, int, int], Below | None] = {}
    for place in _proposed(window):
        found = _verified(window, place, tiles, side, fine, fine_of)
        if found is not None:
            key = (found.mirrored, found.dx // 4, found.dy // 4)
            if key not in verified:
                verified[key] = _placed_below(
                    window, found, (x, y, w, h), fine, steep, fine_of, steep_of
                )
            if (below := verified[key]) is not None:
                return below
    return None


def _proposed(window: Window) -> list[Place]:
    """Places in the frame whose structure is like the fill's, the likest first."""
    assert window.pair is not None
    height, width = window.frame
    size = (width // _PART, height // _PART)
    if min(size) < 2 * _LEAST_SIDE:
        return []
    across, down = width / size[0], height / size[1]
    small = shrunk(window.pair.result.pixels, size)
    luma = luma_of(small)
    band = cv2.GaussianBlur(luma, (0, 0), 0.8) - cv2.GaussianBlur(luma, (0, 0), 6.0)
    left, top = window.origin
    rows, columns = (max(1, one // _PART) for one in window.mask.shape)
    own = (
        cv2.resize(
            window.filled.view(np.uint8) * np.uint8(255),
            (columns, rows),
            interpolation=cv2.INTER_AREA,
        )
        > 200
    )
    _, _, w, h = cv2.boundingRect(own.view(np.uint8))
    side = int(np.clip(min(w, h) // 2, _LEAST_SIDE, _MOST_SIDE))
    if side >= min(size) or side >= min(own.shape):
        return []
    whole = (
        cv2.boxFilter(
            own.astype(np.float32), -1, (side, side), anchor=(0, 0), borderType=cv2.BORDER_CONSTANT
        )[: own.shape[0] - side + 1, : own.shape[1] - side + 1]
        > 0.97
    )
    ys, xs = np.nonzero(whole)
    if not len(ys):
        return []
    # As far from one another as the fill lets them.
    chosen: list[tuple[int, int]] = []
    apart = np.full(len(ys), np.inf)
    at = int(np.argmin(np.hypot(ys - ys.mean(), xs - xs.mean())))
    while len(chosen) < _SQUARES and apart[at] > side / 2:
        chosen.append((int(xs[at]) + round(left / across), int(ys[at]) + round(top / down)))
        apart = np.minimum(apart, np.hypot(ys - ys[at], xs - xs[at]))
        at = int(np.argmax(apart))
    found: list[tuple[float, Place]] = []
    planes = [
        (mirrored, Searched.of(np.ascontiguousarray(band[:, ::-1]) if mirrored else band, side))
        for mirrored in (False, True)
    ]
    for number, (sx, sy) in enumerate(chosen):
        template = band[sy : sy + side, sx : sx + side]
        if template.shape != (side, side) or float(template.std()) < 0.5:
            continue
        for mirrored, searched in planes[: 1 if number % 2 else 2]:
            match = searched.correlated(template - template.mean(), 0, 0, *band.shape)
            own_x = size[0] - side - sx if mirrored else sx
            match[
                max(0, sy - side // 2) : sy + side // 2 + 1,
                max(0, own_x - side // 2) : own_x + side // 2 + 1,
            ] = -1
            for _ in range(_PLACES):
                _, alike, _, (px, py) = cv2.minMaxLoc(match)
                if alike < _ALIKE:
                    break
                match[max(0, py - 3) : py + 4, max(0, px - 3) : px + 4] = -1
                if mirrored:
                    px = size[0] - side - px
                # A square's left edge in the frame comes from its source's right one if it is
                # mirrored.
                dx = (
                    round((px + side + sx) * across) - 1 - 2 * left
                    if mirrored
                    else round((px - sx) * across)
                )
                found.append((float(alike), Place(dx, round((py - sy) * down), mirrored)))
    return [place for _, place in sorted(found, key=lambda one: -one[0])]


def _in_frame(window: Window, x: int, y: int, width: int, height: int) -> bool:
    """Whether a place of the window or beyond it lies in the frame."""
    x, y = x + window.origin[0], y + window.origin[1]
    return x >= 0 and y >= 0 and x + width <= window.frame[1] and y + height <= window.frame[0]


def _luma(window: Window, x: int, y: int, width: int, height: int) -> np.ndarray:
    """Of the result's pixels at a place in the frame, given in the window's."""
    assert window.pair is not None
    x, y = x + window.origin[0], y + window.origin[1]
    return luma_of(window.pair.result.pixels[y : y + height, x : x + width])


def _verified(
    window: Window,
    place: Place,
    tiles: list[tuple[int, int]],
    side: int,
    fine: np.ndarray,
    fine_of: Plane,
) -> Place | None:
    """The place to the pixel, by the grain of tiles whose sources all lie in the frame; None where
    it is none.
    """
    reach = _OFF + _MARGIN
    around = lambda x, y: (x - reach, y - reach, side + 2 * reach, side + 2 * reach)
    inside = [
        (at, there)
        for at in tiles
        if _in_frame(window, *(there := around(*place.source_of(*at, side))))
    ]
    seen: list[tuple[int, int]] = []
    for (x, y), there in inside[:: max(1, len(inside) // _ASKED)][:_ASKED]:
        tile = fine[y : y + side, x : x + side]
        if tile.shape != (side, side) or float(tile.std()) < 1e-3:
            continue
        wanted = np.ascontiguousarray(tile[:, ::-1]) if place.mirrored else tile
        match = cv2.matchTemplate(
            fine_of(_luma(window, *there))[_MARGIN:-_MARGIN, _MARGIN:-_MARGIN],
            wanted,
            cv2.TM_CCOEFF_NORMED,
        )
        _, agreed, _, (px, py) = cv2.minMaxLoc(match)
        if agreed > _BY:
            seen.append((px - _OFF, py - _OFF))
    for dx, dy in seen:
        same = [one for one in seen if max(abs(one[0] - dx), abs(one[1] - dy)) <= 1]
        if len(same) >= _AGREE:
            return Place(place.dx + dx, place.dy + dy, place.mirrored)
    return None


def _placed_below(
    window: Window,
    place: Place,
    box: tuple[int, int, int, int],
    fine: np.ndarray,
    steep: np.ndarray,
    fine_of: Plane,
    steep_of: Plane,
) -> Below | None:
    """The source of all of a box (x, y, width, height) of the window, as far as it lies in the
    frame.
    """
    x, y, w, h = box
    sx, sy = place.source_of(x, y, w)
    left, top = window.origin
    x0, y0 = max(sx - _MARGIN, -left), max(sy - _MARGIN, -top)
    x1, y1 = (
        min(sx + w + _MARGIN, window.frame[1] - left, x0 + fine.shape[1]),
        min(sy + h + _MARGIN, window.frame[0] - top),
    )
    if min(x1 - x0, y1 - y0) <= 2 * _MARGIN or not _in_frame(window, x0, y0, x1 - x0, y1 - y0):
        return None
    there = _luma(window, x0, y0, x1 - x0, y1 - y0)
    below = [
        np.concatenate(
            [
                plane,
                cv2.copyMakeBorder(
                    make(there),
                    0,
                    0,
                    0,
                    fine.shape[1] - there.shape[1],
                    cv2.BORDER_CONSTANT,
                    value=0.0,
                ),
            ]
        )
        for plane, make in ((fine, fine_of), (steep, steep_of))
    ]
    return Below(below[0], below[1], (x0, y0), place)
