"""Islands: something inside the fill that stands off from all that surrounds it as nothing else
here does.

What is foreign by colour and texture alone may be made of what lies elsewhere in plenty: a black
    disc on a grey wall, in a picture that has black windows too. But nothing
black, of about that size, lies *on such a wall*. So every place is described by how it differs from
what lies around it (centre and surround, Itti, Koch and Niebur 1998), on
round, wide and tall rings: the difference in CIELAB that it keeps in every direction. Its distance
    to the most alike place that is untouched says how unlike anything here it
is; the null is the same outline over untouched parts, its own cells left out.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np

from ..null import excess
from ..scene.window import Window
from .detail.cells import STRIDE
from .detail.ground import Ground

#: How far off the surroundings are looked at, in cells of the grid (down, across), and in how many
#: directions: all about, and about what is wide, or tall.
RINGS = (
    ((2, 2), (3, 3), (4, 4), (6, 6), (9, 9), (13, 13)),
    ((2, 5), (3, 8), (5, 13)),
    ((5, 2), (8, 3), (13, 5)),
)
WAYS = 8
#: Fills of more cells than this are looked at on a coarser grid.
_CELLS = 1600
#: Differences below this, CIELAB, make no island; untouched ones below it are all like none.
LEAST = 5.0
#: So many directions must be in the picture, and lie within the area or this many cells beside it.
_SEEN, _BESIDE = 5, 2
#: The untouched places that are compared with, and of an area those that differ most from their
#: surroundings, at each distance.
_MOST, _EACH = 2500, 64
_FLOOR = 4.0
#: Cells across, from far to near, over which colours beside an area are averaged; what part of them
#: must be known; and by what part of its contrast an island must differ from
#: them: within a fringe the ground itself stands off from all that surrounds it.
_ABOUT, _SOME, _DIFFERS = (97, 49, 25), 0.1, 0.25
#: Within how many pixels of its outline a thing ends.
_RIM = 4


@dataclass(frozen=True)
class Island:
    """What in an area is least like anything around.

    Attributes:
        far: how far its distance lies beyond what is natural, spreads (`calibrate.excess`).
        apart: that distance, CIELAB. nature: (controls,) the same by nature.
        contrast: (3,) CIELAB, its difference from what surrounds it that it keeps in every
            direction.
        radius: distance of those surroundings, pixels. at: (y, x) of its middle in the window,
            pixels.
    """

    far: float
    apart: float
    nature: np.ndarray
    contrast: np.ndarray
    radius: int
    at: tuple[int, int]


def _ways(ring: tuple[int, int]) -> list[tuple[int, int]]:
    angles = np.arange(WAYS) * 2 * np.pi / WAYS
    return [
        (round(ring[0] * float(np.sin(angle))), round(ring[1] * float(np.cos(angle))))
        for angle in angles
    ]


def kept_in_all_directions(grid: np.ndarray, ring: tuple[int, int]) -> np.ndarray:
    """The difference from what lies on a ring about each place, as far as it is kept in every
    direction.

    Args:
        grid: (rows, columns, channels) float32. ring: how far off, cells, down and across.

    Returns:
        The same shape: a vector in the mean direction of all differences, as long as the least of
            them in that direction; zeros where one of them has none of it, or fewer
        than `_SEEN` directions lie in the picture.
    """
    rows, columns = grid.shape[:2]
    down, across = ring
    wide = cv2.copyMakeBorder(grid, down, down, across, across, cv2.BORDER_REPLICATE)
    there = np.pad(np.ones((rows, columns), bool), ((down, down), (across, across)))
    moved = [
        (slice(down + dy, down + dy + rows), slice(across + dx, across + dx + columns))
        for dy, dx in _ways(ring)
    ]
    seen = np.stack([there[part] for part in moved])
    off = np.stack([grid - wide[part] for part in moved]) * seen[..., None]
    mean = off.sum(axis=0)
    way = mean / np.maximum(np.linalg.norm(mean, axis=-1, keepdims=True), 1e-6)
    least = np.where(seen, np.einsum("kijc,ijc->kij", off, way), np.inf).min(axis=0)
    return np.asarray(
        way * np.where(seen.sum(axis=0) >= _SEEN, np.maximum(least, 0), 0)[..., None], np.float32
    )


def cells_surrounded(
    shape: np.ndarray,
    ring: tuple[int, int],
    ends: tuple[bool, bool, bool, bool] = (False, False, False, False),
) -> np.ndarray:
    """Which cells of a shape have their surroundings within it or close beside it, but for one
    direction. Beyond the picture nothing surrounds anything.

    Args:
        ends: whether the picture ends above, below, left and right of the shape's array.
    """
    pad = max(ring) + _BESIDE
    size = 2 * _BESIDE + 1
    wide = cv2.dilate(np.pad(shape.astype(np.uint8), pad), np.ones((size, size), np.uint8))
    every, first, last = slice(None), slice(0, pad), slice(-pad, None)
    for end, part in zip(
        ends, ((first, every), (last, every), (every, first), (every, last)), strict=True
    ):
        if end:
            wide[part] = 1
    count = sum(
        wide[pad + dy : pad + dy + shape.shape[0], pad + dx : pad + dx + shape.shape[1]].astype(int)
        for dy, dx in _ways(ring)
    )
    return np.asarray(shape & (count >= WAYS - 1))


def _beyond(grid: np.ndarray, known: np.ndarray) -> np.ndarray:
    """Colours (rows, columns, channels) less the mean of what is known (bool) about each cell, as
    near as anything is.
    """
    weight = known.astype(np.float32)
    weighted = grid * weight[..., None]
    mean = np.broadcast_to(
        weighted.sum(axis=(0, 1)) / max(float(weight.sum()), 1.0), grid.shape
    ).astype(np.float32)
    for size in _ABOUT:
        share = cv2.blur(weight, (size, size))
        mean = np.where(
            (share > _SOME)[..., None],
            cv2.blur(weighted, (size, size)) / np.maximum(share, 1e-6)[..., None],
            mean,
        )
    return np.asarray(grid - mean)


class _Untouched:
    """Differences at untouched cells (bool, in the grid), at one distance and its neighbours."""

    def __init__(self, known: np.ndarray, fields: list[np.ndarray]) -> None:
        rng = np.random.default_rng(20268)
        vectors, ys, xs = [], [], []
        for field in fields:
            y, x = np.nonzero(known & (np.abs(field).sum(axis=-1) >= LEAST))
            vectors.append(field[y, x])
            ys.append(y)
            xs.append(x)
        self.vectors, self.ys, self.xs = (
            np.concatenate(vectors),
            np.concatenate(ys),
            np.concatenate(xs),
        )
        if len(self.ys) > _MOST:
            some = rng.permutation(len(self.ys))[:_MOST]
            self.vectors, self.ys, self.xs = self.vectors[some], self.ys[some], self.xs[some]

    def apart(self, vectors: np.ndarray, corner: tuple[int, int], grown: np.ndarray) -> np.ndarray:
        """Distance of each vector (n, 3) to the second nearest outside a shape of cells that was
        grown by `_BESIDE`, or to none.
        """
        top, left = self.ys - corner[0] + _BESIDE, self.xs - corner[1] + _BESIDE
        within = (top >= 0) & (left >= 0) & (top < grown.shape[0]) & (left < grown.shape[1])
        own = np.zeros(len(top), bool)
        own[within] = grown[top[within], left[within]]
        rows = self.vectors[~own]
        none = np.linalg.norm(vectors, axis=1)
        if len(rows) < 2:
            return np.asarray(none)
        squares = (
            (rows**2).sum(axis=1)[None] - 2 * vectors @ rows.T + (vectors**2).sum(axis=1)[:, None]
        )
        # The second nearest: one place that happens to be alike is no proof that this belongs here.
        return np.asarray(
            np.minimum(none, np.sqrt(np.maximum(np.partition(squares, 1, axis=1)[:, 1], 0)))
        )


def island(window: Window, ground: Ground) -> Island | None:
    """The place in the fill that is least like any around in how it differs from its surroundings;
    None where there is none, or too little is known.
    """
    every = int(np.ceil(np.sqrt(max(1.0, float(ground.inside.sum()) / _CELLS))))
    rows, columns = (-(-size // every) for size in ground.known.shape)
    lab, side = window.lab_result, STRIDE * every
    whole = cv2.copyMakeBorder(
        lab, 0, rows * side - lab.shape[0], 0, columns * side - lab.shape[1], cv2.BORDER_REPLICATE
    )
    grid = cv2.resize(whole, (columns, rows), interpolation=cv2.INTER_AREA)

    def coarser(cells: np.ndarray) -> np.ndarray:
        """Bool cells on the coarser grid: those of which most is covered."""
        if every == 1:
            return cells
        size = [-(-count // every) for count in cells.shape]
        held = np.zeros((size[0] * every, size[1] * every), np.float32)
        held[: cells.shape[0], : cells.shape[1]] = cells
        return np.asarray(cv2.resize(held, (size[1], size[0]), interpolation=cv2.INTER_AREA) > 0.5)

    known, inside = coarser(ground.known), coarser(ground.inside)
    on_grid = lambda corner: (corner[0] // every, corner[1] // every)
    top, left = on_grid(ground.corner)
    inside = inside[: rows - top, : columns - left]
    ends = (top == 0, top + inside.shape[0] >= rows, left == 0, left + inside.shape[1] >= columns)
    looked = {
        ring: some
        for rings in RINGS
        for ring in rings
        if rows > 2 * ring[0]
        and columns > 2 * ring[1]
        and (some := cells_surrounded(inside, ring, ends)).any()
    }
    if not looked:
        return None
    fields = {ring: kept_in_all_directions(grid, ring) for ring in looked}
    # What is a little smaller or larger is alike.
    near = lambda ring: [
        fields[other]
        for rings in RINGS
        if ring in rings
        for other in rings[max(0, rings.index(ring) - 1) : rings.index(ring) + 2]
        if other in fields
    ]
    beyond = _beyond(grid, known)
    untouched = {ring: _Untouched(known, near(ring)) for ring in looked}

    @cache
    def surrounded(cells: bytes, size: tuple[int, int], ring: tuple[int, int]) -> np.ndarray:
        """`cells_surrounded`, asked once of shapes that are alike: where whole outlines find no room,
        squares are placed.
        """
        return cells_surrounded(np.frombuffer(cells, bool).reshape(size), ring)

    def most(
        corner: tuple[int, int], shape: np.ndarray, of_known: bool
    ) -> tuple[float, np.ndarray, int, tuple[int, int]]:
        best = (0.0, np.zeros(3, np.float32), max(next(iter(looked))), corner)
        size = 2 * _BESIDE + 1
        # Where a part of a coarse cell lies beyond the grid.
        shape = shape[: rows - corner[0], : columns - corner[1]]
        grown = cv2.dilate(
            np.pad(shape.astype(np.uint8), _BESIDE), np.ones((size, size), np.uint8)
        ).astype(bool)
        here = (
            slice(corner[0], corner[0] + shape.shape[0]),
            slice(corner[1], corner[1] + shape.shape[1]),
        )
        for ring, places in looked.items():
            # The same places of the outline wherever it is placed.
            some = (
                places
                if shape.shape == inside.shape
                else surrounded(shape.tobytes(), shape.shape, ring)
            )
            if of_known:
                some = some & known[here]
            ys, xs = np.nonzero(some)
            vectors = fields[ring][here][ys, xs]
            own = np.einsum("ij,ij->i", beyond[here][ys, xs], vectors) >= _DIFFERS * np.einsum(
                "ij,ij->i", vectors, vectors
            )
            ys, xs, vectors = ys[own], xs[own], vectors[own]
            sizes = np.linalg.norm(vectors, axis=1)
            # What differs less than another place is unlike anything cannot be farther from none.
            order = np.argsort(-sizes)[:_EACH]
            order = order[sizes[order] > max(LEAST, best[0])]
            if not len(order):
                continue
            apart = untouched[ring].apart(vectors[order], corner, grown)
            top = int(apart.argmax())
            if float(apart[top]) > best[0]:
                at = int(order[top])
                best = (
                    float(apart[top]),
                    vectors[at],
                    max(ring),
                    (corner[0] + int(ys[at]), corner[1] + int(xs[at])),
                )
        return best

    apart, contrast, radius, at = most(on_grid(ground.corner), inside, False)
    if apart <= 0:
        return None
    nature = ground.nulls(
        lambda corner, shape, cells: np.array([most(on_grid(corner), coarser(shape), True)[0]])
    )
    if not len(nature):
        return None
    return Island(
        float(excess(np.array(apart), nature[:, 0], _FLOOR)),
        apart,
        nature[:, 0],
        contrast,
        radius * side,
        (at[0] * side + side // 2, at[1] * side + side // 2),
    )


def outline_of(found: Island, window: Window) -> np.ndarray:
    """Pixels of the fill on the island's side of half its contrast, about where it is; uint8 like
    the window.
    """
    size = float(np.linalg.norm(found.contrast))
    y, x = found.at
    reach = found.radius + STRIDE
    top, left = max(0, y - reach), max(0, x - reach)
    crop = (slice(top, y + reach + 1), slice(left, x + reach + 1))
    lab = cv2.GaussianBlur(window.lab_result[crop], (0, 0), 1.0)
    near = (slice(max(0, y - top - 4), y - top + 4), slice(max(0, x - left - 4), x - left + 4))
    along = (lab - lab[near].reshape(-1, 3).mean(axis=0)) @ (
        found.contrast / max(size, 1e-6)
    ).astype(np.float32)
    here = (along > -size / 2) & window.filled[crop]
    _, labels = cv2.connectedComponents(here.astype(np.uint8), connectivity=4)
    own = labels[near][labels[near] > 0]
    pixels = np.zeros(window.mask.shape, np.uint8)
    if len(own):
        pixels[crop] = labels == np.bincount(own).argmax()
    return pixels


def goes_on(found: Island, window: Window, pixels: np.ndarray) -> bool:
    """Whether what was outlined reaches beyond the surroundings that it stands off from: a fringe,
    a bar, that lies between the directions that were looked in.
    """
    y, x = found.at
    reach = found.radius + STRIDE
    top, left, bottom, right = (
        max(0, y - reach),
        max(0, x - reach),
        min(pixels.shape[0], y + reach + 1),
        min(pixels.shape[1], x + reach + 1),
    )
    part = pixels[top:bottom, left:right]
    sides = (
        (part[0], top > 0),
        (part[-1], bottom < pixels.shape[0]),
        (part[:, 0], left > 0),
        (part[:, -1], right < pixels.shape[1]),
    )
    return any(within and int(side.sum()) > 0 for side, within in sides)


def hardness(found: Island, window: Window, pixels: np.ndarray) -> float:
    """How hard an island ends, 0..1: the part of its contrast that lies within `_RIM` px on either
    side of its outline. A thing keeps most of it, a patch of other light little.
    """
    ring = np.ones((2 * _RIM + 1, 2 * _RIM + 1), np.uint8)
    y, x, reach = *found.at, found.radius + STRIDE + _RIM
    crop = (slice(max(0, y - reach), y + reach + 1), slice(max(0, x - reach), x + reach + 1))
    own = np.ascontiguousarray(pixels[crop])
    inner, outer = (
        own.astype(bool) & (cv2.erode(own, ring) == 0),
        (cv2.dilate(own, ring) > 0) & ~own.astype(bool) & window.filled[crop],
    )
    # The pixels farthest from the outline of both.
    inner, outer = (
        inner & (cv2.erode(own, ring[2:, 2:]) > 0),
        outer & (cv2.dilate(own, ring[2:, 2:]) == 0),
    )
    if inner.sum() < 8 or outer.sum() < 8:
        return 1.0
    size = float(np.linalg.norm(found.contrast))
    lab = window.lab_result[crop]
    step = (lab[inner].mean(axis=0) - lab[outer].mean(axis=0)) @ (found.contrast / max(size, 1e-6))
    return float(np.clip(step / max(size, 1e-6), 0, 1))
