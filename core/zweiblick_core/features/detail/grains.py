"""What grain is around, by brightness, and what a fill should have."""

from __future__ import annotations

import numpy as np

from ...scene.noise import Grain
from .carried import predicted, regressed
from .cells import Cells
from .ground import Ground

#: Flat cells that must lie beside an area, within 12 cells of it.
BESIDE = 16
#: Finest detail of more than this many times the picture's grain is texture.
TEXTURE = 1.6
#: The root mean of a normal deviate, in parts of its deviation.
ROOT_MEAN = 0.676


def _columns(cells: Cells) -> list[np.ndarray]:
    return [cells.level, cells.level**2, cells.coarse]


class Expectations:
    """What grain is around, by brightness, over flat cells: those whose finest detail is about the
    picture's grain and no more.

    `sigma`: the picture's grain in its flattest places, levels of 255, a function of luma.
    """

    def __init__(self, ground: Ground, grain: Grain) -> None:
        self.ground = ground
        around = ground.around
        # Coarser than any grain: that the fill has more of it must not make the fill look textured.
        middle = around.coarse
        levels = np.array(grain.by_level or ((128.0, grain.sigma),), float)
        usual = np.interp(around.level * 255, levels[:, 0], levels[:, 1])
        quiet = ground.known & (np.exp(around.noise) < ROOT_MEAN * TEXTURE * usual + 0.15)
        # The fill's own grain may be anything, so it is called flat by what is coarser than grain;
        # and so is all else, or nulls would not be like it.
        self.flat_below = float(np.percentile(middle[quiet], 70)) if quiet.sum() > 20 else -99.0
        calm = ground.known & (middle <= self.flat_below)
        self.usual_middle = (
            float(np.percentile(around.logs[calm][:, 2], 80)) if calm.sum() > 20 else -4.0
        )
        self.flat = calm & self._is_noise(around)
        noise = around.noise[..., None]
        self.slope = regressed(noise, _columns(around), self.flat)
        self.own = (noise - predicted(self.slope, _columns(around)))[..., 0]
        self.beyond_middle = {-1: 0.0, 1: 0.0}

    def _is_noise(self, cells: Cells) -> np.ndarray:
        """Whether a cell's finest detail may be grain: fine texture (grass, cloth) has as much at
        middle scales as it has at the finest, grain has hardly any there.
        """
        deviation = np.exp(cells.noise) / ROOT_MEAN
        # White noise behind a Gaussian: variance over 8 pi sigma^4; twice that for grain that is
        # somewhat correlated.
        alone = np.log(0.004 + 2 * 6.5e-4 * deviation**2)
        is_noise: np.ndarray = cells.logs[..., 2] <= np.maximum(alone, self.usual_middle) + 0.4
        return is_noise

    def departure(
        self, corner: tuple[int, int], shape: np.ndarray, cells: Cells | None = None
    ) -> tuple[dict[int, np.ndarray], np.ndarray]:
        """By -1 (less) and 1 (more): (rows, columns) how far a shape's grain lies beyond what flat
        cells beside it have; and which of its cells are flat.
        """
        where = (
            slice(corner[0], corner[0] + shape.shape[0]),
            slice(corner[1], corner[1] + shape.shape[1]),
        )
        # Around it, at the same brightness: a picture whose grain changes from one side to the
        # other is judged by this side.
        by = self.ground.grown_by(shape)
        side = tuple(
            slice(max(0, at - 12 - by), at + size + 12 + by)
            for at, size in zip(corner, shape.shape, strict=True)
        )
        near = self.flat[side].copy()
        own_place = tuple(
            slice(max(0, at - by - one.start), at + size + by - one.start)
            for at, size, one in zip(corner, shape.shape, side, strict=True)
        )
        near[own_place] &= False if by else ~shape
        if near.sum() < BESIDE:
            # Flat places far away say nothing of this one: a meadow's blades under a grainy sky are
            # not its grain.
            return dict.fromkeys((-1, 1), np.zeros(shape.shape)), np.zeros(shape.shape, bool)
        # Where what lies beside differs among itself, as sky and meadow do, either may be what
        # belongs here.
        low, high = np.percentile(self.own[side][near], [25, 75])
        own, flat = self.own[where], self.flat[where]
        if cells is not None:
            # Reported is the ratio to the middle of what lies beside, whichever side of it was judged.
            middle = float(np.median(self.own[side][near]))
            self.beyond_middle = {-1: middle - float(low), 1: float(high) - middle}
            own = (cells.noise[..., None] - predicted(self.slope, _columns(cells)))[..., 0]
            flat = (cells.coarse <= self.flat_below) & self._is_noise(cells)
        return {-1: np.clip(low - own, -2.5, 2.5), 1: np.clip(own - high, -2.5, 2.5)}, shape & flat
