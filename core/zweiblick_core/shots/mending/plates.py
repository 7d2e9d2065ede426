"""What a region's ground looks like without what passes in front and in even light."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import cv2
import numpy as np

from ... import methods
from ...errors import Refused
from ..locked import median_over
from .window import Window

#: What no frame shows is filled by the first of these that can.
_STILL = ("copy that fits its rim", "exemplar fill")
#: What is repaired reaches so far beyond the outline; what no frame shows is filled as far as it lacks
#: ground, which is not looked at near what was removed.
_RIM, _REACH = 3, 12


@dataclass(frozen=True)
class Plates:
    """A region's ground, in its window.

    Attributes:
        ground: float32 (height, width, 3), in the shot's own levels at the middle of its light; NaN where
            nothing is known.
        thing: likewise, what was removed, where it stands; None where it moves over the ground.
        repaired: by frame, what was repaired in it, likewise; NaN where nothing was.
        hidden: the share of what was removed that no frame shows, 0..1.
    """

    ground: np.ndarray
    thing: np.ndarray | None
    repaired: Mapping[int, np.ndarray]
    hidden: float

    def at(self, number: int) -> np.ndarray:
        """The ground for one frame: of the repaired frames beside it in time, the nearer for more; else what
        the shot shows, or was made up.
        """
        made = self.ground
        before = [one for one in self.repaired if one <= number]
        after = [one for one in self.repaired if one >= number]
        beside = {max(before)} if before else set()
        beside |= {min(after)} if after else set()
        rest = sorted(set(self.repaired) - beside, key=lambda one: -abs(one - number))
        for one in rest:
            made = _over(made, self.repaired[one], 1.0)
        if len(beside) == 2:
            first, last = sorted(beside)
            share = (number - first) / (last - first)
            made = _over(made, self.repaired[first], 1.0)
            return _over(made, self.repaired[last], share, self.repaired[first])
        for one in beside:
            made = _over(made, self.repaired[one], 1.0)
        return made


def _over(
    below: np.ndarray, above: np.ndarray, share: float, beside: np.ndarray | None = None
) -> np.ndarray:
    """One over the other where it is known; where `beside` is known too, only so much of it."""
    known = np.isfinite(above[..., :1])
    part = np.full(known.shape, np.float32(1))
    if beside is not None:
        part[np.isfinite(beside[..., :1])] = share
    mixed = np.where(np.isfinite(below), below, above) * (1 - part) + above * part
    return np.where(known, mixed, below)


def plates_of(
    window: Window, gains: np.ndarray, repaired: Mapping[int, np.ndarray], seed: int
) -> Plates:
    """The plates of a region whose window is read.

    Args:
        gains: float (frames,), how bright each frame of the shot is.
        repaired: whole frames, by number, of the window's own depth.
    """
    own = gains[window.numbers]
    ground = _median(window, window.seen, own)
    ever = window.ever()
    unknown = ever & ~np.isfinite(ground[..., 0])
    hidden = float(unknown.sum() / max(1, ever.sum()))
    if unknown.any():
        ground = _made_up(ground, unknown, window.frames.dtype, seed)
    thing = None
    if not window.part.moves:
        thing = _median(window, window.clear & window.mask, own)
    return Plates(
        ground,
        thing,
        {
            number: _repaired(window, number, pixels, float(gains[number]))
            for number, pixels in repaired.items()
        },
        hidden,
    )


def _median(window: Window, use: np.ndarray, gains: np.ndarray) -> np.ndarray:
    channels = [median_over(window.frames[..., at], use, gains) for at in range(3)]
    return np.stack(channels, axis=-1)


def _repaired(window: Window, number: int, pixels: np.ndarray, gain: float) -> np.ndarray:
    plate = window.of_frame(pixels, number, cv2.INTER_CUBIC).astype(np.float32) / gain
    # What is repaired lies within what was removed; of the rest the shot itself knows more.
    mask = window.of_frame(window.mask_in(number, pixels.shape), number) > 127
    near = cv2.dilate(mask.astype(np.uint8), np.ones((2 * _RIM + 1,) * 2, np.uint8)) > 0
    valid = window.of_frame(np.full(pixels.shape[:2], 255, np.uint8), number) > 254
    plate[~(near & valid & ~window.covered(number))] = np.nan
    return plate


def _made_up(
    ground: np.ndarray, unknown: np.ndarray, dtype: np.dtype[np.generic], seed: int
) -> np.ndarray:
    """Ground that no frame shows, filled as a picture is. It is carried through all frames, so that it
    is locked to the ground whatever it shows.
    """
    scale = np.float32(257 if dtype == np.uint16 else 1)
    missing = ~np.isfinite(ground[..., 0])
    reach = np.ones((2 * _REACH + 1,) * 2, np.uint8)
    hole = missing & (cv2.dilate(unknown.astype(np.uint8), reach) > 0)
    eight = np.clip(np.nan_to_num(ground, nan=0.0) / scale, 0, 255).round().astype(np.uint8)
    made = _still(eight, hole, missing & ~hole, seed)
    filled = ground.copy()
    filled[hole] = made[hole].astype(np.float32) * scale
    return filled


def _still(eight: np.ndarray, hole: np.ndarray, keep_out: np.ndarray, seed: int) -> np.ndarray:
    # A blended copy takes its tone from the rim within the hole, where nothing is known here.
    smooth = methods.remove("marching diffusion", eight, hole, seed=seed)
    for name in _STILL:
        try:
            return methods.remove(name, smooth, hole, keep_out=keep_out, seed=seed)
        except Refused:
            continue
    return smooth
