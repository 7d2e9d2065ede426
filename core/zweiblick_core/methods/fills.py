"""The built-in removal methods.

All take uint8 sRGB (height, width, 3) and a bool mask of the same frame, and return a new array;
pixels outside the mask are those of
the input, to the bit. All are deterministic for a seed.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..errors import Refused
from .membrane import carried_inward


def _window(mask: np.ndarray, margin: int) -> tuple[slice, slice]:
    rows, columns = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    if not len(rows):
        raise Refused("the mask marks nothing")
    return (
        slice(max(0, int(rows[0]) - margin), min(mask.shape[0], int(rows[-1]) + 1 + margin)),
        slice(max(0, int(columns[0]) - margin), min(mask.shape[1], int(columns[-1]) + 1 + margin)),
    )


def _feathered(
    picture: np.ndarray, fill: np.ndarray, mask: np.ndarray, feather: float
) -> np.ndarray:
    """Lay the fill in; with a feather its edge fades *inside* the mask, so that nothing outside
    changes.
    """
    out = picture.copy()
    if feather <= 0:
        out[mask] = fill[mask]
        return out
    alpha = np.clip(cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5) / feather, 0, 1)[
        ..., None
    ]
    mixed = picture * (1 - alpha) + fill * alpha
    out[mask] = np.clip(mixed[mask], 0, 255).round().astype(np.uint8)
    return out


def diffusion(
    picture: np.ndarray,
    mask: np.ndarray,
    radius: float = 5.0,
    front: str = "marching",
    feather: float = 0.0,
) -> np.ndarray:
    """Carry colour in from the rim.

    Args:
        radius: neighbourhood in pixels.
        front: "marching" (Telea 2004) or "flow" (Bertalmio, Bertozzi and Sapiro 2001).

    Raises:
        Refused: an empty mask or another `front`.
    """
    flags = {"marching": cv2.INPAINT_TELEA, "flow": cv2.INPAINT_NS}
    if front not in flags:
        raise Refused(f"front is “marching” or “flow”, not “{front}”")
    crop = _window(mask, int(radius) + 16)
    fill = picture.copy()
    fill[crop] = cv2.inpaint(
        np.ascontiguousarray(picture[crop]), mask[crop].astype(np.uint8), radius, flags[front]
    )
    return _feathered(picture, fill, mask, feather)


def biharmonic(picture: np.ndarray, mask: np.ndarray, feather: float = 0.0) -> np.ndarray:
    """Carry colour and its slope in from the rim (Damelin and Hoang 2018, as in scikit-image); for
    small masks: at most 40 000 pixels.

    Raises:
        Refused: an empty mask, or one that is too large.
    """
    from skimage.restoration import inpaint_biharmonic

    if mask.sum() > 40_000:
        raise Refused(f"the mask has {int(mask.sum())} pixels; this method takes at most 40 000")
    crop = _window(mask, 24)
    made = inpaint_biharmonic(
        picture[crop].astype(np.float64) / 255, mask[crop], split_into_regions=True, channel_axis=-1
    )
    fill = picture.copy()
    fill[crop] = np.clip(made * 255, 0, 255).round().astype(np.uint8)
    return _feathered(picture, fill, mask, feather)


def exemplar(
    picture: np.ndarray,
    mask: np.ndarray,
    seed: int = 0,
    scale: float = 0.5,
    margin: int = 160,
    keep_out: np.ndarray | None = None,
    feather: float = 0.0,
) -> np.ndarray:
    """Fill with shifted pieces of the surroundings (He and Sun 2012, as in OpenCV's xphoto), at a
    reduced size and brought back up.

    Args:
        seed: of OpenCV's random generator.
        scale: size at which pieces are sought, 0.25..1; the fill is enlarged again from there.
        margin: how far around the mask sources are taken from, pixels.
        keep_out: bool, places that may not serve as a source.
    """
    crop = _window(mask, margin)
    part, hole = np.ascontiguousarray(picture[crop]), mask[crop].astype(np.uint8)
    barred = hole if keep_out is None else (hole.astype(bool) | keep_out[crop]).astype(np.uint8)
    size = (max(8, round(part.shape[1] * scale)), max(8, round(part.shape[0] * scale)))
    small = cv2.resize(part, size, interpolation=cv2.INTER_AREA)
    small_hole = (
        cv2.resize(barred.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.01
    ).astype(np.uint8)
    cv2.setRNGSeed(seed)
    lab = cv2.cvtColor(small, cv2.COLOR_RGB2LAB)
    filled = np.zeros_like(lab)
    cv2.xphoto.inpaint(lab, (1 - small_hole) * 255, filled, cv2.xphoto.INPAINT_SHIFTMAP)
    back = cv2.resize(
        cv2.cvtColor(filled, cv2.COLOR_LAB2RGB),
        (part.shape[1], part.shape[0]),
        interpolation=cv2.INTER_CUBIC,
    )
    fill = picture.copy()
    fill[crop] = back
    return _feathered(picture, fill, mask, feather)


def _source(picture: np.ndarray, mask: np.ndarray, offset: tuple[int, int]) -> np.ndarray:
    dx, dy = offset
    ys, xs = np.nonzero(mask)
    if not len(ys):
        raise Refused("the mask marks nothing")
    sx, sy = xs + dx, ys + dy
    if sx.min() < 0 or sy.min() < 0 or sx.max() >= mask.shape[1] or sy.max() >= mask.shape[0]:
        raise Refused(f"the source at {dx}, {dy} lies partly outside the picture")
    fill = picture.copy()
    fill[ys, xs] = picture[sy, sx]
    return fill


def straight_copy(
    picture: np.ndarray, mask: np.ndarray, offset: tuple[int, int], feather: float = 0.0
) -> np.ndarray:
    """Copy from `offset` (dx, dy) pixels away.

    Raises:
        Refused: an empty mask, or a source that lies partly outside the picture.
    """
    return _feathered(picture, _source(picture, mask, offset), mask, feather)


def blended_copy(picture: np.ndarray, mask: np.ndarray, offset: tuple[int, int]) -> np.ndarray:
    """Copy from `offset`, keeping the source's gradients and the surroundings' tone (Perez, Gangnet
    and Blake 2003).

    Raises:
        Refused: an empty mask, or a source that lies partly outside the picture.
    """
    fill = _source(picture, mask, offset)
    inner = mask.copy()
    inner[:2], inner[-2:], inner[:, :2], inner[:, -2:] = False, False, False, False
    crop = _window(inner, 8)
    hole = inner[crop]
    ys, xs = np.nonzero(hole)
    centre = (int((xs.min() + xs.max() + 1) // 2), int((ys.min() + ys.max() + 1) // 2))
    blended = cv2.seamlessClone(
        np.ascontiguousarray(fill[crop]),
        np.ascontiguousarray(picture[crop]),
        hole.astype(np.uint8) * 255,
        centre,
        cv2.NORMAL_CLONE,
    )
    out = picture.copy()
    part = out[crop]
    part[hole] = blended[hole]
    return out


def gradient(picture: np.ndarray, mask: np.ndarray, feather: float = 0.0) -> np.ndarray:
    """For plain backdrops: a smooth surface through the surroundings (a polynomial of third order
    in each colour, fitted robustly), and what it leaves at the rim carried inward by a membrane.
    It has no grain of its own.

    Raises:
        Refused: an empty mask, or too little around it.
    """
    rows, columns = _window(mask, 48)
    part, hole = picture[rows, columns].astype(np.float32), mask[rows, columns]
    ring = cv2.dilate(hole.view(np.uint8), np.ones((81, 81), np.uint8)).view(bool) & ~hole
    if ring.sum() < 200:
        raise Refused("there is too little around this region for a gradient")
    height, width = hole.shape
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    x, y = 2 * x / max(1, width - 1) - 1, 2 * y / max(1, height - 1) - 1
    terms = np.stack([x**i * y**j for i in range(4) for j in range(4 - i)], axis=-1)
    known = terms[ring][:: max(1, int(ring.sum()) // 20_000)]
    values = part[ring][:: max(1, int(ring.sum()) // 20_000)]
    weight = np.ones(len(known), np.float32)
    for _ in range(6):
        # Iteratively reweighted least squares with Huber's weights (Huber 1964).
        scaled = known * weight[:, None]
        found = np.linalg.lstsq(scaled, values * weight[:, None], rcond=None)[0]
        away = np.abs(values - known @ found).max(axis=1)
        spread = max(0.5, 1.4826 * float(np.median(away)))
        weight = np.sqrt(np.minimum(1, 1.5 * spread / np.maximum(away, 1e-6))).astype(np.float32)
    surface = terms @ found
    fill = picture.copy()
    made = surface + carried_inward(part - surface, hole)
    fill[rows, columns] = np.clip(made, 0, 255).round().astype(np.uint8)
    return _feathered(picture, fill, mask, feather)


#: Pixels of a mask that the frequency-selective fill takes at full size: about six seconds.
_MOST_SELECTED = 60_000


def frequency_selective(
    picture: np.ndarray, mask: np.ndarray, scale: float = 1.0, feather: float = 0.0
) -> np.ndarray:
    """Continue what the surroundings consist of as a sum of waves (Seiler and Kaup 2010, as in
    OpenCV's xphoto): regular texture above all. Large masks are filled reduced.

    Args:
        scale: 0.1..1; the fill is made at so much of its size at most, and enlarged.

    Raises:
        Refused: an empty mask.
    """
    crop = _window(mask, 48)
    part, hole = np.ascontiguousarray(picture[crop]), mask[crop]
    scale = min(scale, float(np.sqrt(_MOST_SELECTED / max(1, int(hole.sum())))))
    size = (max(16, round(part.shape[1] * scale)), max(16, round(part.shape[0] * scale)))
    small = cv2.resize(part, size, interpolation=cv2.INTER_AREA)
    small_hole = cv2.resize(hole.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.01
    made = np.zeros_like(small)
    cv2.xphoto.inpaint(
        small, (~small_hole).astype(np.uint8) * 255, made, cv2.xphoto.INPAINT_FSR_FAST
    )
    back = cv2.resize(made, (part.shape[1], part.shape[0]), interpolation=cv2.INTER_CUBIC)
    fill = picture.copy()
    fill[crop] = back
    return _feathered(picture, fill, mask, feather)
