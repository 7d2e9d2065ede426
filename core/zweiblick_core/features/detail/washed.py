"""What the surroundings let one expect of a fill's detail."""

from __future__ import annotations

import numpy as np

from .carried import box_of, carried, predicted, regressed
from .cells import SCALES, Cells
from .ground import Ground, without_of
from .means import means_over, tellable

#: What each scale's shortfall weighs: middle bands missing is what tells a smear.
WEIGHTS = np.array((0.2, 0.5, 0.3), np.float32)
#: Patches whose mean shortfall is judged: side in grid steps; 0 is the whole fill.
PATCHES = (3, 7, 0)
#: The ways to know what is expected, and the least that must be missing by each.
WAYS = ("around", "around and coarse", "least", "least grain")


def _columns(cells: Cells, way: int) -> list[np.ndarray]:
    return [cells.level, cells.level**2, cells.coarse][: 2 + way]


class Expectations:
    """What the surroundings let one expect, by each of `WAYS`."""

    def __init__(self, ground: Ground, lossy: bool) -> None:
        self.ground, self.lossy = ground, lossy
        self.slopes = [
            regressed(ground.around.logs, _columns(ground.around, way), ground.known)
            for way in (0, 1)
        ]
        self.cleared = [
            (ground.around.logs - predicted(slope, _columns(ground.around, way))).astype(np.float32)
            for way, slope in enumerate(self.slopes)
        ]
        self.joined = np.concatenate(self.cleared, axis=-1)
        self.seen = tellable(ground.around)
        self.least = np.percentile(ground.around.logs[ground.known], 4, axis=0)
        # Grain follows brightness; detail only adds to it.
        noise, columns = ground.around.noise[..., None], _columns(ground.around, 0)
        self.grain_slope = regressed(noise, columns, ground.known)
        self.grain = (noise - predicted(self.grain_slope, columns))[..., 0]
        self.least_grain = float(np.percentile(self.grain[ground.known], 4))

    def shortfall(
        self, corner: tuple[int, int], shape: np.ndarray, cells: Cells | None = None
    ) -> tuple[np.ndarray, np.ndarray]:
        """How much detail is missing in a shape of cells: the fill's own (`cells`), or, for a
        control, the untouched ones there.

        Returns:
            (ways, rows, columns) weighted shortfall; (rows, columns, scales) that of each scale by
            the first way.
        """
        ground = self.ground
        without = without_of(shape, corner, ground.known.shape)
        where = box_of(corner, shape)
        ways, first = [], np.zeros((*shape.shape, len(SCALES)))
        logs = ground.around.logs[where] if cells is None else cells.logs
        seen = self.seen[where] if cells is None else tellable(cells)
        # Both ways at once: where they carry from is the same.
        expected = carried(self.joined, ground.known, without, where, directions=True)
        for way in (0, 1):
            part = expected[..., way * len(SCALES) : (way + 1) * len(SCALES)]
            own = (
                self.cleared[way][where]
                if cells is None
                else logs - predicted(self.slopes[way], _columns(cells, way))
            )
            missing = np.clip(part - own, -2.5, 6.0) * seen[..., None]
            first = missing if way == 0 else first
            ways.append(missing @ WEIGHTS)
        # Below the picture's own grain nothing natural lies; the coarsest scale has no grain and
        # says nothing here.
        ways.append(np.clip(self.least - logs, -0.6, 3.0)[..., :2].mean(-1) * seen)
        if not self.lossy:
            grain = (
                self.grain[where]
                if cells is None
                else cells.noise - predicted(self.grain_slope, _columns(cells, 0))[..., 0]
            )
            ways.append(np.clip(self.least_grain - grain, -0.6, 3.0) * seen)
        return np.stack(ways), first


def pooled_over(ways: np.ndarray, known: np.ndarray, ground: Ground) -> list[np.ndarray]:
    """Means of each way's departures over squares of each of `PATCHES`; -9 where too little of a
    square is known.
    """
    by_side = [
        np.where(enough[..., None], means, -9.0)
        for means, enough in means_over(np.moveaxis(ways, 0, -1), known, PATCHES, ground)
    ]
    return [by_side[side][..., way] for way in range(len(ways)) for side in range(len(PATCHES))]
