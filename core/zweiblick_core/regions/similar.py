"""Marking what is of one colour: solid things, and translucent overlays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter
from scipy.optimize import minimize
from scipy.special import expit

from ..errors import Refused
from ..scene.planes import lab_of

#: A pick is the median of so many pixels about it, so that grain does not decide.
_PICK = 1


def _picked(plane: np.ndarray, at: tuple[int, int]) -> np.ndarray:
    x, y = at
    height, width = plane.shape[:2]
    if not (0 <= x < width and 0 <= y < height):
        raise Refused("the spot lies outside what is looked at")
    around = plane[max(0, y - _PICK) : y + _PICK + 1, max(0, x - _PICK) : x + _PICK + 1]
    picked: np.ndarray = np.median(around.reshape(-1, plane.shape[2]), axis=0)
    return picked


def _joined_to(mask: np.ndarray, at: tuple[int, int]) -> np.ndarray:
    """What of a mask hangs together with a spot; nothing if the spot is not marked."""
    _, labels = cv2.connectedComponents(mask.view(np.uint8), connectivity=8)
    label = labels[at[1], at[0]]
    return (labels == label) if label else np.zeros_like(mask)


def like_colour(
    pixels: np.ndarray, at: tuple[int, int], tolerance: float, connected: bool
) -> np.ndarray:
    """Where a picture is of the colour at a spot.

    Args:
        pixels: uint8 (height, width, 3), sRGB.
        at: (x, y) of the spot.
        tolerance: the largest colour difference that still counts, in CIELAB (CIE 1976); about 2.3
            is just noticeable.
        connected: only what hangs together with the spot, else anywhere.

    Returns:
        bool (height, width).

    Raises:
        Refused: the spot lies outside.
    """
    lab = lab_of(pixels)
    apart = np.linalg.norm(lab - _picked(lab, at), axis=2)
    found: np.ndarray = apart <= tolerance
    return _joined_to(found, at) if connected else found


#: Levels of 255 in one cell of a table of colours.
_CELL = 4
_CELLS = 256 // _CELL
#: What no pixel of the ground has may occur all the same.
_FLOOR = 1e-8
#: Opacities from which the fit starts.
_STARTS = (0.2, 0.35, 0.5, 0.7)
#: So many pixels are enough to fit four numbers.
_SAMPLE = 1000
#: How much a pixel is believed beside its neighbours, how strongly these agree, how far they reach
#: (px): an evidence of one pixel never outweighs all of its neighbours.
_OWN, _TOGETHER, _NEAR = 0.5, 8.0, 1.5
_MOST_EVIDENCE = 6.0


class _Colours:
    """How often each colour occurs in a ground: a smoothed table of sRGB."""

    def __init__(self, pixels: np.ndarray) -> None:
        cells = (np.clip(pixels, 0, 255) // _CELL).astype(int)
        flat = np.ravel_multi_index(tuple(cells.reshape(-1, 3).T), (_CELLS,) * 3)
        counted = np.bincount(flat, minlength=_CELLS**3).reshape((_CELLS,) * 3).astype(np.float32)
        smooth = gaussian_filter(counted, 0.8)
        self._log = np.log(smooth / smooth.sum() + _FLOOR).ravel()

    def log_density(self, pixels: np.ndarray) -> np.ndarray:
        """For each colour (..., 3), the natural logarithm of its share; beyond the gamut the
        least there is.
        """
        cells = np.floor(pixels / _CELL).astype(int)
        inside = ((cells >= 0) & (cells < _CELLS)).all(-1)
        cells = np.clip(cells, 0, _CELLS - 1)
        flat = (cells[..., 0] * _CELLS + cells[..., 1]) * _CELLS + cells[..., 2]
        return np.where(inside, self._log[flat], np.log(_FLOOR))


@dataclass(frozen=True)
class Veil:
    """An overlay on a ground: its colour, sRGB 0..255, and its opacity, 0..1."""

    colour: tuple[float, float, float]
    opacity: float

    def log_density(self, ground: _Colours, pixels: np.ndarray) -> np.ndarray:
        """How likely a pixel is as this ground seen through the veil: the colour that lies under
        it occurs in the ground, and the ground's spread shrinks by the veil's opacity.
        """
        under = (pixels - self.opacity * np.array(self.colour)) / (1 - self.opacity)
        return ground.log_density(under) - 3 * np.log(1 - self.opacity)


def _fitted(ground: _Colours, usual: np.ndarray, pixels: np.ndarray) -> Veil:
    """The veil under which these pixels are likeliest (maximum likelihood)."""
    some = pixels[:: max(1, len(pixels) // _SAMPLE)]
    mean = some.mean(0)

    def unlikely(values: np.ndarray) -> float:
        opacity = float(np.clip(values[0], 0.05, 0.95))
        veil = Veil((float(values[1]), float(values[2]), float(values[3])), opacity)
        return -float(veil.log_density(ground, some).mean())

    fits = []
    for opacity in _STARTS:
        start = [opacity, *((mean - (1 - opacity) * usual) / opacity)]
        # The table has steps: a simplex of its own size walks over them.
        simplex = np.array([start] + [start] * 4, float)
        for i, step in enumerate((0.1, 12, 12, 12)):
            simplex[i + 1, i] += step
        fits.append(
            minimize(
                unlikely,
                start,
                method="Nelder-Mead",
                options={"initial_simplex": simplex, "maxiter": 150},
            )
        )
    best = min(fits, key=lambda one: float(one.fun)).x
    colour = (float(best[1]), float(best[2]), float(best[3]))
    return Veil(colour, float(np.clip(best[0], 0.05, 0.95)))


def laid_over(
    pixels: np.ndarray, area: np.ndarray, spots: Sequence[tuple[int, int]], belief: float = 0.5
) -> tuple[np.ndarray, Veil]:
    """Where something of one colour lies translucently over a picture: lettering that the
    ground shows through. What is outside the area says which colours the ground has; inside, a
    pixel belongs to the overlay where it is likelier as that ground seen through one veil
    of one opacity than as ground. The veil is fitted to what was found, beginning at the spots,
    in turn with finding it (expectation maximisation, Dempster, Laird and Rubin 1977); neighbours
    agree by a mean field (Kraehenbuehl and Koltun 2011). Nothing is asked of the ground but that
    the same of it is seen outside.

    Args:
        pixels: uint8 (height, width, 3), sRGB, the area and some ground about it.
        area: bool (height, width), drawn roughly around the overlay.
        spots: (x, y) of one spot or more inside strokes.
        belief: from which probability on a pixel belongs to it, 0..1.

    Returns:
        bool (height, width), and the veil.

    Raises:
        Refused: no spot, or one outside the area; no ground to compare with; or nothing there
            looks like an overlay.
    """
    if not spots or any(
        not (0 <= x < area.shape[1] and 0 <= y < area.shape[0]) or not area[y, x] for x, y in spots
    ):
        raise Refused("pick a spot of the lettering inside the outline around it")
    if (~area).sum() < 500:
        raise Refused("there is too little ground around the outline to compare with")
    smooth = cv2.GaussianBlur(pixels.astype(np.float32), (0, 0), 0.7)
    around = smooth[~area]
    ground, usual = _Colours(around), around.mean(0)
    as_ground = ground.log_density(smooth)
    belongs = np.zeros(area.shape, np.float32)
    for x, y in spots:
        belongs[max(0, y - 3) : y + 4, max(0, x - 3) : x + 4] = 1
    belongs[~area] = 0
    veil = None
    for _ in range(5):
        likely = belongs > 0.5
        if likely.sum() < 20:
            break
        veil = _fitted(ground, usual, smooth[likely])
        own = np.clip(veil.log_density(ground, smooth) - as_ground, -_MOST_EVIDENCE, _MOST_EVIDENCE)
        belongs = expit(own).astype(np.float32)
        for _ in range(12):
            agreed = cv2.GaussianBlur(belongs, (0, 0), _NEAR) - 0.5
            belongs = expit(_OWN * own + _TOGETHER * agreed).astype(np.float32)
            belongs[~area] = 0
    found: np.ndarray = belongs > belief
    if veil is None or not found.any():
        raise Refused("nothing here looks like an overlay; pick another spot")
    return found, veil
