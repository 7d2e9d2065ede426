"""Grain in colour: measured where brightness is full of texture.

Grain is drawn in each colour by itself, texture mostly in all of them alike: in the difference of
    two colours little is left but grain, in stone and leaves too. Its amplitude
there (the finest Laplacian of red less blue, Immerkaer 1996) is cleared of brightness and of what
texture leaks into it, by coarser scales, and compared with what is carried in
from around, from beside, and from above and below (`detail.carried`): what lies between these is
natural. The null is the same outline placed over untouched parts.

Grain that was added is often the same in all colours, and their difference does not show it. So
brightness is read in the same way; there it stands beside texture, and spreads
more. What brightness has more of and colour has not was added so: sharpening, or grain in each
colour, raises both.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..io import eight_bit
from ..scene.window import Window
from .detail.carried import box_of, carried, predicted, regressed
from .detail.cells import STRIDE, Cells, boxed_means, finest_of
from .detail.ground import LEAST_CONTROLS, Ground
from .detail.means import pools, tellable

PATCHES = (3, 7, 0)
#: Of brightness: smaller parts are ruled by texture.
IN_BRIGHTNESS = (7, 0)
#: Cells that must show grain in colour: of an area, and around it.
LEAST_CELLS, AROUND = 8, 80
#: An amplitude added before ratios are taken, levels of 255: what lies well below it, nobody sees.
FAINT = 0.25
#: Root of a normal deviate's mean root: what the mean of roots is of the deviation.
_OF_ROOTS = 0.676
#: From what amplitude on a picture has grain in colour, levels of 255.
LEAST_GRAIN = 0.3


@dataclass(frozen=True)
class ColourGrain:
    """Grain in colour, or in brightness, against around.

    Attributes:
        departure: by -1 (less) and 1 (more): (rows, columns) natural logarithm of the ratio,
            positive where it is less, or more.
        shows: bool (rows, columns), cells of the fill that are neither black nor burnt out.
        values: (controls, twice the patches) largest departures by chance: less by each patch, then
            more.
    """

    departure: dict[int, np.ndarray]
    shows: np.ndarray
    values: np.ndarray


@dataclass(frozen=True)
class _Seen:
    """`amplitude`: (rows, columns) natural logarithm of grain's deviation and `FAINT`. `coarser`:
    natural logarithm of the energy of gradients behind a blur of 2.8 px.
    """

    amplitude: np.ndarray
    coarser: np.ndarray


class _Planes:
    """Red less blue, in levels of 255 as one colour's grain is."""

    def __init__(self, window: Window) -> None:
        self.plane = (
            eight_bit(window.result[..., 0]) - eight_bit(window.result[..., 2])
        ) * np.float32(np.sqrt(0.5))
        self.finest = finest_of(self.plane)
        half = cv2.resize(self.plane, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
        smooth = cv2.GaussianBlur(half, (0, 0), 1.4)
        # Per pixel of the whole size.
        gx, gy = (
            cv2.Sobel(smooth, cv2.CV_32F, 1, 0, scale=0.0625),
            cv2.Sobel(smooth, cv2.CV_32F, 0, 1, scale=0.0625),
        )
        self.energy = cv2.resize(
            gx * gx + gy * gy, self.plane.shape[::-1], interpolation=cv2.INTER_NEAREST
        )

    def seen(
        self, area: np.ndarray, crop: tuple[slice, slice] = (slice(None), slice(None))
    ) -> _Seen:
        mean, _ = boxed_means(area)
        return _Seen(
            np.log(mean(self.finest[crop]) ** 2 / _OF_ROOTS + FAINT),
            np.log(mean(self.energy[crop]) + 0.004),
        )


def in_colour(window: Window, ground: Ground) -> ColourGrain | None:
    """Made once for a window. None where colour does not show grain: of grey pictures, and behind
    compression.
    """
    if "in_colour" not in window.shared:
        window.shared["in_colour"] = _in_colour(window, ground)
    return window.shared["in_colour"]


def _in_colour(window: Window, ground: Ground) -> ColourGrain | None:
    if window.lossy or not ground.enough:
        return None
    planes = _Planes(window)
    around = planes.seen(~window.apart)
    inner = cv2.erode(
        window.filled.astype(np.uint8), np.ones((5, 5), np.uint8), borderValue=1
    ).astype(bool)
    rows, columns = ground.inside.shape
    top, left = ground.corner[0] * STRIDE, ground.corner[1] * STRIDE
    crop = (slice(top, top + rows * STRIDE), slice(left, left + columns * STRIDE))
    fill = planes.seen(inner[crop], crop)
    if float(np.median(around.amplitude[ground.known])) < np.log(LEAST_GRAIN + FAINT):
        return None
    columns_of = lambda seen, cells: [cells.level, cells.level**2, seen.coarser, cells.logs[..., 2]]
    return _departures(
        ground,
        (around.amplitude, columns_of(around, ground.around)),
        (fill.amplitude, columns_of(fill, ground.fill)),
        PATCHES,
    )


def in_brightness(ground: Ground) -> ColourGrain | None:
    """The same of brightness, over `IN_BRIGHTNESS`."""
    if not ground.enough:
        return None
    read = lambda cells: (
        np.log(np.exp(cells.noise) + FAINT),
        [cells.level, cells.level**2, cells.coarse, cells.logs[..., 2]],
    )
    return _departures(ground, read(ground.around), read(ground.fill), IN_BRIGHTNESS)


def _departures(
    ground: Ground,
    around: tuple[np.ndarray, list[np.ndarray]],
    fill: tuple[np.ndarray, list[np.ndarray]],
    patches: tuple[int, ...],
) -> ColourGrain | None:
    """Amplitudes around and of the fill, each with the columns that they are cleared of, against
    what is carried in.
    """
    known, own_known = (
        ground.known & (tellable(ground.around) > 0.5),
        ground.inside & (tellable(ground.fill) > 0.5),
    )
    if known.sum() < AROUND or own_known.sum() < LEAST_CELLS:
        return None
    slope = regressed(around[0][..., None], around[1], known)
    cleared, own = (
        amplitude - predicted(slope, columns)[..., 0] for amplitude, columns in (around, fill)
    )
    # As it is and negated: the least of what is carried from three directions, and the most.
    both = np.stack([cleared, -cleared], -1).astype(np.float32)

    def departure(
        corner: tuple[int, int], shape: np.ndarray, values: np.ndarray
    ) -> dict[int, np.ndarray]:
        part = carried(
            both, known, ground.gap(shape, corner), box_of(corner, shape), directions=True
        )
        return {
            -1: np.clip(part[..., 0] - values, -2.5, 2.5),
            1: np.clip(values + part[..., 1], -2.5, 2.5),
        }

    def chance(corner: tuple[int, int], shape: np.ndarray, cells: Cells | None) -> np.ndarray:
        where = box_of(corner, shape)
        here = ground.known_at(corner, shape, cells) & known[where]
        if here.sum() < LEAST_CELLS:
            return np.full(2 * len(patches), -9.0)
        off = departure(corner, shape, cleared[where])
        return np.array(
            [
                float(pool.max())
                for sign in (-1, 1)
                for pool in pools(off[sign], here, patches, ground)
            ]
        )

    values = ground.usable(ground.nulls(chance, (len(patches) - 1, 2 * len(patches) - 1)))
    if len(values) < LEAST_CONTROLS:
        return None
    return ColourGrain(departure(ground.corner, ground.inside, own), own_known, values)
