"""What smear, soft, grain and invented share: how much detail lies at each place, on a grid, and
where the same outline may be placed.

Each cell of the grid holds logarithms of energies of the *result*: the eigenvalues of the structure
tensor (Bigun and Granlund 1987) at
a fine and three middle scales, and the finest Laplacian, which in flat places is grain (Immerkaer
1996). Outside every region cells are
filled once from untouched pixels; the fill's cells see only pixels of the fill. Controls are the
fill's own cells placed over
untouched ones, so they cost nothing but arithmetic on the grid.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import cv2
import numpy as np

from ..scene.window import Window

#: Grid on which detail is sampled, and about how wide each sample is averaged, pixels.
STRIDE, BOX = 8, 16
#: Blur before the gradient at each scale, pixels.
SCALES = (0.6, 1.4, 2.8)
#: One more between them, for how sharp things are.
BETWEEN = 1.0
#: How far from an area what is known may be carried in, grid steps.
NEAR = 30
CONTROLS, LEAST_CONTROLS = 18, 5
_SEED = 20262
#: Side of the largest squares placed where a whole outline finds no room, cells; and from how many of
#: them on a fill is so large that fewer are asked for.
_WIDEST, _MANY = 24, 16
#: So many of the largest squares make up a wide fill.
_MAKE_WIDE = 3
#: Fills that cover less of their cells than this are thin.
THIN = 0.82
#: Of a square at least so much must be known however thin the fill, and of what a thin fill has in
#: any at least so much.
_LEAST_OF_SQUARE, _MOST_OF_IT = 0.2, 0.8
#: How wide a boundary is left out where a few strong places would say something else, pixels, both
#: sides of it together, and how many pixels must remain.
_RIM, _INNER = 7, 60
#: What nothing found reaches.
_NEVER = 1e3
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


@dataclass(frozen=True)
class Ground:
    """The window's grid.

    Attributes:
        around: cells seen through untouched pixels; `known` (bool) where enough of them are.
        fill: cells seen through the fill's inner pixels, of the crop whose corner is `corner` (grid
            row, column).
        inside: bool, which of the crop's cells belong to the fill.
        controls: corners (row, column) at which the fill's cells lie over known ones: whole
            outlines, or none.
        seen: for thin fills, each control's cells seen through the fill's own outline: few pixels a
            cell scatter more, and controls must do so too.
        squares: (side, corners) for where the whole outline finds no room: squares of `side` cells.
    """

    around: Cells
    known: np.ndarray
    fill: Cells
    corner: tuple[int, int]
    inside: np.ndarray
    controls: list[tuple[int, int]]
    squares: tuple[int, list[tuple[int, int]]]
    seen: dict[tuple[int, int], Cells] = field(default_factory=dict)
    _least: dict[int, float] = field(default_factory=dict)

    @property
    def enough(self) -> bool:
        """Whether enough places are known to compare with."""
        return len(self.controls) >= LEAST_CONTROLS or len(self.squares[1]) >= 2 * LEAST_CONTROLS

    def known_at(
        self, corner: tuple[int, int], shape: np.ndarray, cells: Cells | None
    ) -> np.ndarray:
        """Which cells of a shape are known where it lies."""
        known = (
            shape
            & self.known[
                corner[0] : corner[0] + shape.shape[0], corner[1] : corner[1] + shape.shape[1]
            ]
        )
        return known if cells is None else known & (cells.share > 0.35)

    def nulls(self, measured: object, means: tuple[int, ...] = ()) -> np.ndarray:
        """The largest values that chance brings along one whole outline.

        Args:
            measured: called with (corner, shape of cells, cells or None for the untouched ones
                there) of each control; gives an array (k,) of the largest values of each pool.
            means: which of the k are means over all of a shape.

        Returns:
            (controls, k). Where only squares found room, outlines are drawn from them: the largest
            of as many as make one up. Where those are nearly all there are, the
            largest of them is always the same: how much it varies from outline to outline is then
                worked out from how much single squares do (Gumbel 1935). The mean over
            all of a wide fill is no largest of many: it scatters no more than those of single
                squares, which are smaller than it is, do.
        """
        assert callable(measured)
        rows = [measured(corner, self.inside, self.seen.get(corner)) for corner in self.controls]
        side, corners = self.squares
        if len(rows) < LEAST_CONTROLS + 3 and corners:
            pieces = np.array(
                [measured(corner, np.ones((side, side), bool), None) for corner in corners]
            )
            together = max(1, round(float(self.inside.sum()) / side**2))
            rng = np.random.default_rng(_SEED)
            drawn = np.array(
                [
                    pieces[rng.choice(len(pieces), min(together, len(pieces)), replace=False)].max(
                        axis=0
                    )
                    for _ in range(24)
                ]
            )
            known = self.usable(pieces)
            few = float(np.clip((together / len(pieces) - 0.25) / 0.5, 0, 1))
            if few > 0 and len(known) >= LEAST_CONTROLS:
                scale = known.std(axis=0) * np.sqrt(6) / np.pi
                drawn += few * scale * (rng.gumbel(size=(len(drawn), 1)) + np.log(np.log(2)))
            if means and side == _WIDEST and together >= _MAKE_WIDE:
                drawn[:, means] = pieces[np.arange(len(drawn)) % len(pieces)][:, means]
            rows += list(drawn)
        return np.array(rows)

    @cached_property
    def deeper(self) -> int:
        """By how many cells the fill's middle lies farther from anything known than a square's
        does.
        """
        side = self.squares[0]
        depth = cv2.distanceTransform(np.pad(self.inside, 1).astype(np.uint8), cv2.DIST_C, 3).max()
        return max(0, int(depth) - side // 2) if side else 0

    def grown_by(self, shape: np.ndarray) -> int:
        """By how much the gap into which is carried is larger than a shape of cells: a square of
        the surroundings must know as little of what belongs there as the fill's
        middle does, or what it departs by would be too little to compare with."""
        side = self.squares[0]
        return (
            self.deeper
            if side and shape.shape == (side, side) and shape.shape != self.inside.shape
            else 0
        )

    def gap(self, shape: np.ndarray, corner: tuple[int, int]) -> np.ndarray:
        """`without_of` a shape of cells, `grown_by` as much as it must be; bool, in the whole grid."""
        whole = without_of(shape, corner, self.known.shape)
        by = self.grown_by(shape)
        return (
            cv2.dilate(whole.view(np.uint8), np.ones((2 * by + 1, 2 * by + 1), np.uint8)).astype(
                bool
            )
            if by
            else whole
        )

    def usable(self, values: np.ndarray) -> np.ndarray:
        """Rows of `nulls` that know every pool. A pool that hardly any control knows has nothing to
        be compared with: it is judged by nothing, and hides no other.
        """
        if not len(values):
            return values
        known = values > -8
        judged = known.sum(axis=0) >= min(LEAST_CONTROLS, len(values))
        return (
            np.where(judged, values, _NEVER)[known[:, judged].all(axis=1)]
            if judged.any()
            else values[:0]
        )

    def least(self, side: int) -> float:
        """How many cells of a square of `side` cells must be known for its mean to be judged: of a
        pole's place, which no such square fills, most of what it ever fills of one.
        """
        if side not in self._least:
            most = float(
                cv2.boxFilter(
                    self.inside.astype(np.float32),
                    -1,
                    (side, side),
                    normalize=False,
                    borderType=cv2.BORDER_CONSTANT,
                ).max()
            )
            self._least[side] = min(
                0.45 * side * side, max(_LEAST_OF_SQUARE * side * side, _MOST_OF_IT * most)
            )
        return self._least[side]

    @property
    def null(self) -> str:
        """What the fill was compared with, as a report names it."""
        return "outline" if len(self.controls) >= LEAST_CONTROLS + 3 else "surround"


def _boxed(plane: np.ndarray) -> np.ndarray:
    """Sums over the grid's cells, spread to their neighbours by 1-2-1: a soft window of about `BOX`
    px, for the price of one pass. The plane is whole cells high and wide.
    """
    cells = cv2.resize(
        plane, (plane.shape[1] // STRIDE, plane.shape[0] // STRIDE), interpolation=cv2.INTER_AREA
    )
    return cv2.sepFilter2D(cells, -1, _SOFT, _SOFT, borderType=cv2.BORDER_CONSTANT)


def _products(luma: np.ndarray, sigma: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
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
            for value in _eigenvalues(*(mean(plane) for plane in _products(luma, sigma)))
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
_TILE, _BEYOND = (128, 512), 12
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
    wide = luma[max(0, top - _BEYOND) : bottom + _BEYOND, max(0, left - _BEYOND) : right + _BEYOND]
    inner = (
        slice(min(top, _BEYOND), min(top, _BEYOND) + bottom - top),
        slice(min(left, _BEYOND), min(left, _BEYOND) + right - left),
    )
    found = [plane[inner] for sigma in (*SCALES, BETWEEN) for plane in _products(wide, sigma)]
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


def streaks(window: Window, pixels: np.ndarray) -> tuple[float, float]:
    """How much of the result's detail within some pixels (uint8 like the window) runs one way,
    0..1, and along which angle, degrees 0..180.
    """
    if not pixels.any():
        return 0.0, 90.0
    x, y, w, h = cv2.boundingRect(pixels)
    part = (
        slice(max(0, y - _BEYOND), y + h + _BEYOND),
        slice(max(0, x - _BEYOND), x + w + _BEYOND),
    )
    here = pixels[part].astype(bool)
    xx, yy, xy = (
        float(plane[here].mean()) for plane in _products(window.luma_result[part], SCALES[1])
    )
    trace = xx + yy
    return float(np.hypot(xx - yy, 2 * xy) / trace) if trace > 1e-9 else 0.0, float(
        np.degrees(0.5 * np.arctan2(2 * xy, xx - yy)) + 90
    ) % 180


def ground_of(window: Window) -> Ground | str:
    """The window's grid, made once and shared; or why there is none."""
    if "ground" not in window.shared:
        window.shared["ground"] = _ground(window)
    made: Ground | str = window.shared["ground"]
    return made


def _ground(window: Window) -> Ground | str:
    inner = cv2.erode(
        window.filled.astype(np.uint8), np.ones((5, 5), np.uint8), borderValue=1
    ).astype(bool)
    if inner.sum() < 3 * STRIDE * STRIDE:
        return "the fill is too narrow to hold any texture"
    outside = ~window.apart
    if outside.sum() < 60 * STRIDE * STRIDE:
        return "too little untouched picture around the region to know how much detail belongs here"
    ys, xs = np.flatnonzero(inner.any(1)), np.flatnonzero(inner.any(0))
    top, left = int(ys[0]) // STRIDE * STRIDE, int(xs[0]) // STRIDE * STRIDE
    crop = (slice(top, int(ys[-1]) + 1), slice(left, int(xs[-1]) + 1))
    around, fill = cells_of(window, [((0, 0), outside), ((top, left), inner[crop])])
    known, inside = around.share > 0.5, fill.share > 0.35
    corner = (top // STRIDE, left // STRIDE)
    rows, columns = (min(inside.shape[k], known.shape[k] - corner[k]) for k in (0, 1))
    fill = Cells(*(value[:rows, :columns] for value in vars(fill).values()))
    inside = inside[:rows, :columns]
    if inside.sum() < 3:
        return "the fill is too narrow to hold any texture"
    if known.sum() < 12:
        return "too little untouched picture around the region to know how much detail belongs here"
    controls, squares = _controls(window, inner, outside, known, inside, corner)
    seen = {}
    if float(fill.share[inside].mean()) < THIN:
        own, shapes = inner[crop], []
        for row, column in controls:
            part = outside[
                row * STRIDE : row * STRIDE + own.shape[0],
                column * STRIDE : column * STRIDE + own.shape[1],
            ]
            shapes.append(
                ((row * STRIDE, column * STRIDE), own[: part.shape[0], : part.shape[1]] & part)
            )
        for (row, column), cells in zip(controls, cells_of(window, shapes), strict=True):
            if cells.share.shape[0] >= rows and cells.share.shape[1] >= columns:
                seen[row, column] = Cells(
                    *(value[:rows, :columns] for value in vars(cells).values())
                )
        controls = list(seen) if len(seen) >= LEAST_CONTROLS else controls
    return Ground(around, known, fill, corner, inside, controls, squares, seen)


def _controls(
    window: Window,
    inner: np.ndarray,
    outside: np.ndarray,
    known: np.ndarray,
    inside: np.ndarray,
    corner: tuple[int, int],
) -> tuple[list[tuple[int, int]], tuple[int, list[tuple[int, int]]]]:
    def controls_of(
        shape: np.ndarray, whole: np.ndarray, at: tuple[int, int], count: int
    ) -> list[tuple[int, int]]:
        found = []
        for dx, dy in window.room.places(whole, count, _SEED):
            row, column = at[0] + round(dy / STRIDE), at[1] + round(dx / STRIDE)
            if (
                row < 0
                or column < 0
                or row + shape.shape[0] > known.shape[0]
                or column + shape.shape[1] > known.shape[1]
            ):
                continue
            there = shape & known[row : row + shape.shape[0], column : column + shape.shape[1]]
            if there.sum() >= max(3, 0.6 * shape.sum()) and (row, column) not in found:
                found.append((row, column))
        return found

    whole = controls_of(inside, inner, corner, CONTROLS)
    if len(whole) >= LEAST_CONTROLS + 3:
        return whole, (0, [])
    for side in (_WIDEST, 16, 10, 6):
        square = np.zeros(inner.shape, bool)
        if min(square.shape) <= side * STRIDE:
            continue
        square[: side * STRIDE, : side * STRIDE] = True
        # In the largest, which are placed about the largest fills, there are as many cells in fewer.
        pieces = controls_of(
            np.ones((side, side), bool),
            square,
            (0, 0),
            18 if side == _WIDEST and inside.sum() > _MANY * side**2 else 26,
        )
        if len(pieces) >= 2 * LEAST_CONTROLS:
            return whole, (side, pieces)
    return whole, (0, [])


def regressed(values: np.ndarray, columns: list[np.ndarray], known: np.ndarray) -> np.ndarray:
    """Coefficients (1 + columns, channels) of values (rows, columns, channels) on other grid
    values, over known cells; ridge towards zero.
    """
    design = np.stack([np.ones_like(columns[0]), *columns], -1)[known]
    wanted = values[known]
    strength = 0.02 * len(design) * np.diag([0.0] + [0.2] * len(columns)) + 1e-6 * np.eye(
        len(columns) + 1
    )
    if len(design) < 4 * (len(columns) + 1):
        out = np.zeros((len(columns) + 1, values.shape[-1]))
        out[0] = wanted.mean(axis=0) if len(wanted) else 0.0
        return out
    centre = design.mean(axis=0)
    centre[0] = 0
    shifted = design - centre
    solved = np.linalg.solve(shifted.T @ shifted + strength, shifted.T @ wanted)
    solved[0] -= centre[1:] @ solved[1:]
    return solved


def predicted(slope: np.ndarray, columns: list[np.ndarray]) -> np.ndarray:
    """What a regression expects, (rows, columns, channels)."""
    return np.stack([np.ones_like(columns[0]), *columns], -1) @ slope


def carried(
    values: np.ndarray,
    known: np.ndarray,
    without: np.ndarray,
    box: tuple[slice, slice],
    directions: bool = False,
) -> np.ndarray:
    """Carry grid values (rows, columns, channels) into `without` (bool) from known cells near it:
    finest neighbourhood with enough to go on
    (normalised convolution, Knutsson and Westin 1993).

    Args:
        box: rows and columns of the grid that are asked for.
        directions: also from left and right only, and from above and below only; the least of the
            three is expected. A plinth between bricks
            and setts is as smooth as it is to its left and right, and no more is asked of it.

    Returns:
        The values in the box.
    """
    rows, columns = np.flatnonzero(without.any(1)), np.flatnonzero(without.any(0))
    gap = (slice(int(rows[0]), int(rows[-1]) + 1), slice(int(columns[0]), int(columns[-1]) + 1))
    # The middle of a wide gap is far from anything known: there what lies farther off must be asked
    # too.
    wide = directions and max(one.stop - one.start for one in gap) > NEAR + 1
    near = 3 * NEAR if wide else NEAR
    around = tuple(
        slice(max(0, min(one.start - near, asked.start)), max(one.stop + near, asked.stop))
        for one, asked in zip(gap, box, strict=True)
    )
    inner = tuple(
        slice(asked.start - whole.start, asked.stop - whole.start)
        for asked, whole in zip(box, around, strict=True)
    )
    part, weight = values[around], (known[around] & ~without[around]).astype(np.float32)
    overall = part[weight > 0].mean(axis=0) if (weight > 0).any() else values[known].mean(axis=0)
    weighted = np.ascontiguousarray(part * weight[..., None], np.float32)
    found: list[np.ndarray] = []
    for across, down in ((1.0, 1.0), (1.0, 0.0), (0.0, 1.0))[: 3 if directions else 1]:
        value, settled = (
            np.zeros(part[inner].shape, np.float32),
            np.zeros(weight[inner].shape, np.float32),
        )
        for sigma in (1.5, 4.0, 12.0, 40.0)[: 4 if wide else 3]:
            sx, sy = max(0.6, sigma * across), max(0.6, sigma * down)
            reached, blurred = (
                broadly(weight, sx, sy)[inner],
                broadly(weighted, sx, sy).reshape(part.shape)[inner],
            )
            share = np.clip(reached * 5, 0, 1) * (1 - settled)
            value += blurred * (share / np.maximum(reached, 1e-5))[..., None]
            settled += share
        # Where nothing lies in that direction, it has no say.
        found.append(
            value
            + (1 - settled)[..., None]
            * (overall if across and down else np.maximum(found[0], overall))
        )
    return np.min(found, axis=0) if directions else found[0]


def box_of(corner: tuple[int, int], shape: np.ndarray) -> tuple[slice, slice]:
    """Rows and columns of the grid over which an array of cells lies."""
    return slice(corner[0], corner[0] + shape.shape[0]), slice(
        corner[1], corner[1] + shape.shape[1]
    )


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


def tellable(cells: Cells) -> np.ndarray:
    """How far detail can be seen at a place at all, 0..1 (rows, columns): in black and in burnt-out
    white there is none by nature, and nobody misses it.
    """
    level = cells.level * 255
    seen: np.ndarray = np.clip((level - 7) / 9, 0, 1) * np.clip((251 - level) / 5, 0, 1)
    return seen


def without_of(shape: np.ndarray, corner: tuple[int, int], frame: tuple[int, int]) -> np.ndarray:
    """A shape of cells grown by one, in the whole grid: a box that reaches into the area saw some
    of it.
    """
    whole = np.zeros(frame, np.uint8)
    part = whole[corner[0] : corner[0] + shape.shape[0], corner[1] : corner[1] + shape.shape[1]]
    part[:] = shape[: part.shape[0], : part.shape[1]]
    return cv2.dilate(whole, np.ones((3, 3), np.uint8)).astype(bool)


def means_over(
    values: np.ndarray, known: np.ndarray, sides: tuple[int, ...], ground: Ground | None = None
) -> list[tuple[np.ndarray, np.ndarray]]:
    """Means of (rows, columns) or (rows, columns, channels) over squares of each side, in cells (0:
    over all known cells), and of which squares enough is known, bool:
    nearly half, or `ground.least`."""
    weight = known.astype(np.float32)
    weighted = np.ascontiguousarray(
        values * (weight if values.ndim == 2 else weight[..., None]), np.float32
    )
    found = []
    for side in sides:
        if side == 0:
            mean = values[known].mean(axis=0) if known.any() else np.zeros(values.shape[2:])
            found.append((np.broadcast_to(mean.astype(np.float32), values.shape), known))
            continue
        near = cv2.boxFilter(
            weight, -1, (side, side), normalize=False, borderType=cv2.BORDER_CONSTANT
        )
        total = cv2.boxFilter(
            weighted, -1, (side, side), normalize=False, borderType=cv2.BORDER_CONSTANT
        )
        count = np.maximum(near, 1)
        least = 0.45 * side * side if ground is None else ground.least(side)
        found.append(
            (
                total / (count if values.ndim == 2 else count[..., None]),
                known & (near >= min(least, max(2, known.sum() * 0.6))),
            )
        )
    return found


def pools(
    values: np.ndarray, known: np.ndarray, sides: tuple[int, ...], ground: Ground | None = None
) -> list[np.ndarray]:
    """`means_over` of (rows, columns); -9 where too little of a square is known."""
    return [
        np.where(enough, mean, -9.0) for mean, enough in means_over(values, known, sides, ground)
    ]


#: Places of a colour within this distance (CIELAB, lightness by half: shading changes it) are of
#: the same thing; so many of them are looked through, and so many must be known.
_SAME_COLOUR, _SAMPLED, _SO_MANY = 5.0, 900, 40
#: Squares of so many cells a side are compared.
_OVER = 3
#: Values that are larger by less than this count as little, natural logarithms.
_AS_LITTLE = 0.15
#: The share of places with as little that is rare, and that is natural; what natural ones leave of
#: a score.
_RARE, _NATURAL, _LEAVES = 0.04, 0.12, 0.4


def common_elsewhere(ground: Ground, own: np.ndarray, around: np.ndarray) -> np.ndarray:
    """How common places with as little of something are among untouched ones of the same colour; 0
    where too few of these are known.

    A blur leaves a place its colour and takes its detail; what is as smooth by nature is so
    wherever it shows.

    Args:
        own, around: (rows, columns) of the fill's crop and of the window, natural logarithms.

    Returns:
        (rows, columns) of the crop, 0..1.
    """

    def described(
        cells: Cells, values: np.ndarray, known: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray]:
        # Single cells vary too much to say how rare one is.
        pooled = np.stack(
            [
                pools(plane, known, (_OVER,))[0]
                for plane in (
                    values,
                    50.0 * cells.level,
                    cells.colour[..., 0],
                    cells.colour[..., 1],
                )
            ],
            -1,
        )
        return pooled, known & (pooled[..., 0] > -9)

    fill, inside = described(ground.fill, own, ground.inside)
    untouched, known = described(ground.around, around, ground.known)
    here, there = fill[inside], untouched[known]
    if len(there) > _SAMPLED:
        there = there[np.random.default_rng(20267).permutation(len(there))[:_SAMPLED]]
    share = np.zeros(ground.inside.shape, np.float32)
    if len(there) and len(here):
        colours, others = here[:, 1:], there[:, 1:]
        alike = (others**2).sum(axis=1) - 2 * colours @ others.T + (colours**2).sum(axis=1)[
            :, None
        ] < _SAME_COLOUR**2
        count = alike.sum(axis=1)
        as_little = (alike & (there[:, 0] <= here[:, :1] + _AS_LITTLE)).sum(axis=1)
        share[inside] = np.where(count >= _SO_MANY, as_little / np.maximum(count, 1), 0.0)
    return share


def uncommon(share: np.ndarray) -> np.ndarray:
    """What is left of a score where so large a share of what is alike is the same by nature; of any
    shape.
    """
    return np.asarray(1 - (1 - _LEAVES) * np.clip((share - _RARE) / (_NATURAL - _RARE), 0, 1))


def narrowed(hot: np.ndarray, values: np.ndarray, known: np.ndarray) -> np.ndarray:
    """Some cells that were reported by the mean of them all, less those that have no part in it: where
    most of what is missing is missing in a part of them, that part;
    a few that have no part in it are no part to leave out.

    Args:
        hot: bool (rows, columns). values: what was averaged, likewise. known: bool, which cells
            count.
    """
    near = pools(values, known, (3,))[0]
    some = hot & (near > -9)
    if not some.any():
        return hot
    most = float(np.percentile(near[some], 95))
    if most <= 0:
        return hot
    kept = some & (near >= 0.4 * most)
    rest = some & ~kept
    if rest.sum() < 0.25 * some.sum() or float(values[rest].mean()) > 0.25 * float(
        values[kept].mean()
    ):
        return hot
    return np.asarray(kept)


def pixels_of(window: Window, ground: Ground, cells: np.ndarray, margin: int = 2) -> np.ndarray:
    """Pixels of the fill that some of its cells stand for; uint8 like the window."""
    pixels = np.zeros(window.mask.shape, np.uint8)
    top, left = ground.corner[0] * STRIDE - margin, ground.corner[1] * STRIDE - margin
    whole = cv2.dilate(
        np.pad(np.repeat(np.repeat(cells.astype(np.uint8), STRIDE, 0), STRIDE, 1), margin),
        np.ones((2 * margin + 1, 2 * margin + 1), np.uint8),
    )
    there = whole[max(0, -top) :, max(0, -left) :]
    part = pixels[max(0, top) :, max(0, left) :][: there.shape[0], : there.shape[1]]
    part[:] = there[: part.shape[0], : part.shape[1]]
    return pixels & window.filled.astype(np.uint8)


def outlined(window: Window, pixels: np.ndarray) -> tuple[tuple[int, int, int, int], np.ndarray]:
    """(x, y, width, height) and the largest ring of some pixels, in the window."""
    if not pixels.any():
        pixels = window.filled.astype(np.uint8)
    x, y, w, h = cv2.boundingRect(pixels)
    rings, _ = cv2.findContours(pixels, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    ring = cv2.approxPolyDP(max(rings, key=len), 1.5, True)[:, 0] + 0.5
    if len(ring) < 3:
        ring = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], float)
    return (x, y, w, h), ring


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
