"""How far each cell of a fill is from the nearest of all untouched ones (nearest-neighbour novelty,
Boiman and Irani 2007)."""

from __future__ import annotations

import cv2
import numpy as np

from .detail.cells import Cells
from .detail.ground import Ground

#: Untouched cells that are compared with, and cells of an area that are: more tell nothing new, and
#: cost their product.
_MOST, _EACH = 2400, 600
#: What makes a cell foreign, by the columns of `described`. Another light, another grain or a blur
#: changes one of them; a thing has several.
GROUPS = {"detail": [0, 1, 2], "colour": [3, 4, 5], "structure": [6, 7, 8, 9]}


def described(cells: Cells) -> np.ndarray:
    """(rows, columns, features)."""
    return np.concatenate(
        [
            cells.logs * 0.7,
            cells.level[..., None] * 100,
            cells.colour,
            cells.spread[..., None],
            cells.coarse[..., None] * 0.7,
            cells.way * 1.5,
        ],
        axis=-1,
    ).astype(np.float32)


class Foreignness:
    """Distances to the nearest untouched cell."""

    def __init__(self, ground: Ground) -> None:
        self.ground = ground
        features = described(ground.around)
        rows = features[ground.known]
        low, high = np.percentile(rows, [10, 90], axis=0)
        # A floor for each: colours closer than these look the same however even the surroundings
        # are.
        floor = np.array([0.35] * 3 + [6.0, 2.5, 2.5, 2.0, 0.7, 0.7, 0.7], np.float32)
        self.scale = np.maximum((high - low) / 2.56, floor).astype(np.float32)
        self.features = features / self.scale
        ys, xs = np.nonzero(ground.known)
        keep = np.random.default_rng(20265).permutation(len(ys))[:_MOST]
        self.ys, self.xs = ys[keep], xs[keep]
        self.rows = self.features[self.ys, self.xs]
        self.squares = (self.rows**2).sum(axis=1)

    def nearest(
        self, corner: tuple[int, int], shape: np.ndarray, cells: Cells | None = None
    ) -> np.ndarray:
        """(rows, columns) distance of each cell of a shape to the nearest known cell outside it and
        its rim.
        """
        ys, xs = np.nonzero(shape)
        every = max(1, int(np.ceil(np.sqrt(len(ys) / _EACH))))
        if every > 1:
            # A large area by every other cell; a cell's box reaches over its neighbours anyway.
            some = (ys % every == 0) & (xs % every == 0)
            ys, xs = ys[some], xs[some]
        features = (
            self.features[ys + corner[0], xs + corner[1]]
            if cells is None
            else (described(cells)[ys, xs] / self.scale)
        )
        top, left = self.ys - corner[0], self.xs - corner[1]
        grown = cv2.dilate(np.pad(shape.astype(np.uint8), 3), np.ones((7, 7), np.uint8)).astype(
            bool
        )
        within = (
            (top >= -3) & (left >= -3) & (top < shape.shape[0] + 3) & (left < shape.shape[1] + 3)
        )
        own = np.zeros(len(top), bool)
        own[within] = grown[top[within] + 3, left[within] + 3]
        rows, squares = self.rows[~own], self.squares[~own]
        out = np.zeros(shape.shape, np.float32)
        if not len(rows) or not len(ys):
            return out
        # |r|^2 - 2 f r in one product.
        apart = (
            np.column_stack([features, np.ones(len(features), np.float32)])
            @ np.column_stack([-2 * rows, squares]).T
        )
        # The second nearest: one cell that happens to fit is no proof that this belongs here.
        least = apart.argmin(axis=1)
        apart[np.arange(len(apart)), least] = np.inf
        out[ys, xs] = np.sqrt(np.maximum(apart.min(axis=1) + (features**2).sum(axis=1), 0))
        if cells is not None:
            # What the fill's cells differ in from the place most like them, by what a person would
            # name.
            off = (features - rows[apart.argmin(axis=1)]) ** 2
            self.by_group = np.zeros((*shape.shape, len(GROUPS)), np.float32)
            self.by_group[ys, xs] = np.stack(
                [off[:, columns].sum(axis=1) for columns in GROUPS.values()], -1
            )
        if every > 1:
            out = cv2.dilate(out, np.ones((every, every), np.uint8)) * shape
        return out
