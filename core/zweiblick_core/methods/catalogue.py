"""The built-in methods by name, with what they share: outline, grow, feather, sources kept out,
seed.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import cv2
import numpy as np

from ..errors import Refused
from . import fills
from .finishing import with_tone
from .fitting import best_offset, with_grain


def outline_mask(outline: list[list[tuple[float, float]]], frame: tuple[int, int]) -> np.ndarray:
    """A bool mask of (height, width) from rings of (x, y), the original's pixels; even-odd, so that
    rings inside rings are holes.

    Raises:
        Refused: a ring with fewer than three points.
    """
    if not outline or any(len(ring) < 3 for ring in outline):
        raise Refused("an outline needs rings of at least three points")
    mask = np.zeros(frame, np.uint8)
    cv2.fillPoly(
        mask, [np.round(np.asarray(ring, float) - 0.5).astype(np.int32) for ring in outline], 1
    )
    return mask.astype(bool)


def grown(mask: np.ndarray, pixels: int) -> np.ndarray:
    """A mask grown (or shrunk, below zero) by whole pixels, round at its corners."""
    if pixels == 0:
        return mask.copy()
    kernel = cv2.getStructuringElement(
        cv2.MORPH_ELLIPSE, (2 * abs(pixels) + 1, 2 * abs(pixels) + 1)
    )
    change = cv2.dilate if pixels > 0 else cv2.erode
    return change(mask.astype(np.uint8), kernel, borderValue=0).astype(bool)


def _diffusion(
    picture: np.ndarray, mask: np.ndarray, front: str, feather: float, own: dict[str, Any]
) -> np.ndarray:
    return fills.diffusion(picture, mask, float(own.get("radius", 5.0)), front, feather)


def _fitted(
    picture: np.ndarray,
    mask: np.ndarray,
    keep_out: np.ndarray | None,
    feather: float,
    own: dict[str, Any],
) -> np.ndarray:
    offset = best_offset(
        picture, mask, keep_out, tuple(own.get("along", ())), float(own.get("least", 0.0))
    )
    made = (
        fills.blended_copy(picture, mask, offset)
        if own.get("blend", True)
        else fills.straight_copy(picture, mask, offset, feather)
    )
    return made


#: name -> (picture, mask, keep_out, feather, seed, own settings) -> picture
METHODS: dict[
    str,
    Callable[[np.ndarray, np.ndarray, np.ndarray | None, float, int, dict[str, Any]], np.ndarray],
] = {
    "marching diffusion": lambda picture, mask, keep_out, feather, seed, own: _diffusion(
        picture, mask, "marching", feather, own
    ),
    "flow diffusion": lambda picture, mask, keep_out, feather, seed, own: _diffusion(
        picture, mask, "flow", feather, own
    ),
    "biharmonic fill": lambda picture, mask, keep_out, feather, seed, own: fills.biharmonic(
        picture, mask, feather
    ),
    "gradient fill": lambda picture, mask, keep_out, feather, seed, own: fills.gradient(
        picture, mask, feather
    ),
    "frequency-selective fill": (
        lambda picture, mask, keep_out, feather, seed, own: fills.frequency_selective(
            picture, mask, float(own.get("scale", 1.0)), feather
        )
    ),
    "exemplar fill": lambda picture, mask, keep_out, feather, seed, own: fills.exemplar(
        picture,
        mask,
        seed,
        float(own.get("scale", 0.5)),
        int(own.get("margin", 160)),
        keep_out,
        feather,
    ),
    "straight copy": lambda picture, mask, keep_out, feather, seed, own: fills.straight_copy(
        picture, mask, tuple(own["offset"]), feather
    ),
    "blended copy": lambda picture, mask, keep_out, feather, seed, own: fills.blended_copy(
        picture, mask, tuple(own["offset"])
    ),
    "copy that fits its rim": lambda picture, mask, keep_out, feather, seed, own: _fitted(
        picture, mask, keep_out, feather, own
    ),
}


def remove(
    method: str,
    picture: np.ndarray,
    mask: np.ndarray,
    *,
    outline: list[list[tuple[float, float]]] | None = None,
    grow: int = 0,
    feather: float = 0.0,
    keep_out: np.ndarray | None = None,
    grain: bool = False,
    tone: bool = False,
    opacity: float = 1.0,
    seed: int = 0,
    **own: Any,
) -> np.ndarray:
    """Run a built-in method on one region.

    Args:
        method: of `METHODS`.
        picture: uint8 (height, width, 3); never altered.
        mask: bool (height, width), the region.
        outline: an outline of the attempt's own instead of the region's: rings of (x, y).
        grow: pixels by which the outline is grown; below zero, shrunk.
        feather: pixels over which the fill fades in, inside the outline.
        keep_out: bool, where nothing may be taken from.
        grain: give the fill its surroundings' grain afterwards.
        tone: bring the fill to its surroundings' tone before that.
        opacity: how much of the fill is put over what was there, 0..1.
        seed: the same seed gives the same result.
        own: the method's own settings (radius, scale, margin, offset, along, least, blend).

    Returns:
        A new picture; pixels outside the grown outline are those of the input.

    Raises:
        Refused: an unknown method, a missing or impossible setting, a mask of another size or with
            nothing in it.
    """
    if method not in METHODS:
        raise Refused(f"there is no built-in method “{method}”; there are: {', '.join(METHODS)}")
    if mask.shape != picture.shape[:2]:
        raise Refused(
            f"the mask is {mask.shape[1]}x{mask.shape[0]}, the picture {picture.shape[1]}x{picture.shape[0]}"
        )
    area = grown(outline_mask(outline, mask.shape) if outline is not None else mask, grow)
    if not area.any():
        raise Refused("the mask marks nothing")
    if method in ("straight copy", "blended copy") and "offset" not in own:
        raise Refused(f"“{method}” needs an offset")
    if not 0 < opacity <= 1:
        raise Refused("a fill's opacity lies between 0 and 1")
    made = METHODS[method](picture, area, keep_out, feather, seed, own)
    if tone:
        made = with_tone(made, area)
    if grain:
        made = with_grain(made, area, seed)
    return made if opacity == 1 else _put_over(picture, made, opacity)


def _put_over(picture: np.ndarray, made: np.ndarray, opacity: float) -> np.ndarray:
    mixed = picture.astype(np.float32) * (1 - opacity) + made.astype(np.float32) * opacity
    return np.asarray(mixed.round(), np.uint8)
