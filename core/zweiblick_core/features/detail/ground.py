"""A window's grid, which of its cells are known, and where control placements of its fill lie."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import cv2
import numpy as np

from ...scene.window import Window
from .cells import STRIDE, Cells, cells_of

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
#: What nothing found reaches.
_NEVER = 1e3


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


def without_of(shape: np.ndarray, corner: tuple[int, int], frame: tuple[int, int]) -> np.ndarray:
    """A shape of cells grown by one, in the whole grid: a box that reaches into the area saw some
    of it.
    """
    whole = np.zeros(frame, np.uint8)
    part = whole[corner[0] : corner[0] + shape.shape[0], corner[1] : corner[1] + shape.shape[1]]
    part[:] = shape[: part.shape[0], : part.shape[1]]
    return cv2.dilate(whole, np.ones((3, 3), np.uint8)).astype(bool)
