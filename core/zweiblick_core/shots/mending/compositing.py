"""A region's ground put into one frame: in the frame's light, with its grain, behind what passes in front."""

from __future__ import annotations

import cv2
import numpy as np

from .plates import Plates
from .window import Window

#: The fill goes over into the frame beyond the outline, over so many pixels.
MARGIN = 4
#: Light and grain are measured so far around an outline, pixels.
_RING = 24
#: Grain is made of noise that is blurred so widely, whichever is most like it.
_BLURS = (0.0, 0.4, 0.5, 0.6, 0.8, 1.0, 1.4)
#: What passes in front is told from the thing behind it by so many levels of 255.
_APART = 14.0
#: The edge of what passes in front is so wide, pixels.
_EDGE = 4


def composed(
    window: Window,
    plates: Plates,
    number: int,
    original: np.ndarray,
    base: np.ndarray,
    seed: int,
) -> np.ndarray:
    """One frame with a region filled.

    Args:
        original, base: uint8 or uint16 (height, width, 3) of one depth; the fill is put into `base`,
            what passes in front is taken from `original`.

    Returns:
        A new frame; beyond `MARGIN` pixels about the outline it is `base` to the bit.
    """
    mask = window.mask_in(number, base.shape)
    if not mask.any():
        return base
    x, y, w, h = cv2.boundingRect(mask)
    top, left = max(0, y - _RING - MARGIN), max(0, x - _RING - MARGIN)
    crop = np.s_[top : y + h + _RING + MARGIN, left : x + w + _RING + MARGIN]
    here = mask[crop]
    to_frame = np.linalg.inv(window.box.matrix @ window.part.motion.matrices[number])
    shift = np.array([[1, 0, -left], [0, 1, -top], [0, 0, 1]], float)
    carry = lambda plane, flags=cv2.INTER_CUBIC: cv2.warpPerspective(
        plane, shift @ to_frame, here.shape[::-1], flags=flags
    )
    plate = plates.at(number)
    known = carry(np.isfinite(plate[..., 0]).astype(np.float32), cv2.INTER_LINEAR) > 0.99
    fill = carry(np.nan_to_num(plate, nan=0.0))
    over = carry(window.covered(number).astype(np.float32), cv2.INTER_LINEAR)
    frame = original[crop].astype(np.float32)
    ring = _ring(here, over, known)
    gain = _light(frame, fill, ring, _top(base))
    fill = fill * gain
    fill += _grain(frame - fill, ring, (seed, number, window.part.name))
    shown = fill
    if over.max() > 0.1:
        thing = None
        if plates.thing is not None:
            thing = carry(np.nan_to_num(plates.thing, nan=np.nan), cv2.INTER_LINEAR) * gain
        shown = _behind(fill, frame, over, thing, _top(base))
    soft = _soft(here) * known
    out = base.copy()
    mixed = base[crop] * (1 - soft[..., None]) + shown * soft[..., None]
    out[crop] = np.where(
        soft[..., None] > 0, np.clip(mixed, 0, _top(base)).round(), base[crop]
    ).astype(base.dtype)
    return out


def _top(frame: np.ndarray) -> float:
    return float(np.iinfo(frame.dtype).max)


def _soft(mask: np.ndarray) -> np.ndarray:
    """1 over the outline, 0 from `MARGIN` pixels beyond it, float32."""
    away = cv2.distanceTransform((mask == 0).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.clip(1 - away / MARGIN, 0, 1).astype(np.float32)


def _ring(mask: np.ndarray, over: np.ndarray, known: np.ndarray) -> np.ndarray:
    away = cv2.distanceTransform((mask == 0).view(np.uint8), cv2.DIST_L2, 3)
    covered = cv2.dilate(over, np.ones((9, 9), np.uint8)) > 0.1
    return np.asarray((away > MARGIN) & (away < _RING) & ~covered & known)


def _light(frame: np.ndarray, fill: np.ndarray, ring: np.ndarray, top: float) -> np.ndarray:
    """How much brighter than the ground's plate each channel is about the region, float32 (3,)."""
    gains = np.ones(3, np.float32)
    for at in range(3):
        bright = ring & (fill[..., at] > top / 32) & (frame[..., at] < 0.98 * top)
        if bright.sum() > 50:
            gains[at] = np.median(frame[..., at][bright] / fill[..., at][bright])
    return gains


def _grain(apart: np.ndarray, ring: np.ndarray, seed: tuple[int, int, str]) -> np.ndarray:
    """Noise as strong and as fine as what a frame about the region differs by from its ground, which the
    plate, a median, has lost; float32 of the same shape.
    """
    if ring.sum() < 100:
        return np.zeros_like(apart)
    fine = apart - cv2.GaussianBlur(apart, (0, 0), 0.9)
    # By the quieter half: an edge that lies a part of a pixel off is no grain.
    level = lambda values: float(np.median(np.abs(values))) / 0.6745
    whole = level(apart[ring] - np.median(apart[ring], axis=0))
    share = level(fine[ring]) / max(whole, 1e-6)
    rng = np.random.default_rng([seed[0], seed[1], *seed[2].encode()])
    noise = rng.normal(0, 1, apart.shape).astype(np.float32)
    best = np.inf
    found: np.ndarray = noise
    for wide in _BLURS:
        blurred: np.ndarray = cv2.GaussianBlur(noise, (0, 0), wide) if wide else noise
        blurred = blurred / max(float(blurred.std()), 1e-6)
        off = abs(float((blurred - cv2.GaussianBlur(blurred, (0, 0), 0.9)).std()) - share)
        if off < best:
            best, found = off, blurred
    levels = [level(apart[ring][:, at] - np.median(apart[ring][:, at])) for at in range(3)]
    return found * np.array(levels, np.float32)


def _behind(
    fill: np.ndarray,
    frame: np.ndarray,
    over: np.ndarray,
    thing: np.ndarray | None,
    top: float,
) -> np.ndarray:
    """The fill behind what passes in front. At its edge a frame shows both it and the thing that was
    removed; how much of each follows from the colours of both (Porter and Duff 1984), and the fill takes the
    thing's part.

    Args:
        over: float32, what passes in front. thing: what was removed, NaN where that is not known.
    """
    alpha = cv2.GaussianBlur(over, (0, 0), 0.7)[..., None]
    if thing is None:
        return fill * (1 - alpha) + frame * alpha
    kernel = np.ones((2 * _EDGE + 1,) * 2, np.uint8)
    core = cv2.erode(over, kernel) > 0.9
    band = (cv2.dilate(over, kernel) > 0.1) & ~core
    weight = cv2.GaussianBlur(core.astype(np.float32), (0, 0), 2.0 * _EDGE)
    whole = cv2.GaussianBlur(frame * core[..., None].astype(np.float32), (0, 0), 2.0 * _EDGE)
    passer = whole / np.maximum(weight, 1e-4)[..., None]
    far = passer - thing
    apart = (far**2).sum(axis=-1)
    with np.errstate(invalid="ignore", divide="ignore"):
        told = np.clip(((frame - thing) * far).sum(axis=-1) / apart, 0, 1)
        sure = band & (weight > 1e-3) & np.isfinite(told) & (apart > 3 * (_APART / 255 * top) ** 2)
    share = np.where(sure, told, alpha[..., 0])
    share[core] = 1.0
    share = share[..., None].astype(np.float32)
    mixed = np.where(sure[..., None], frame + (1 - share) * (fill - thing), 0)
    return np.where(sure[..., None], mixed, fill * (1 - share) + frame * share)
