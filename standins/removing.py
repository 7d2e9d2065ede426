"""How the removal service works: what an order holds, and three takes with typical mistakes."""

from __future__ import annotations

import io
import json
import zipfile
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

#: Its model works at this size at most, longest side in pixels; what is larger is shrunk for it.
LARGEST = 1024
TAKES = 3


class Unreadable(ValueError):
    """An order that is none."""


@dataclass(frozen=True)
class Package:
    """An order as it came: uint8 (height, width, 3) BGR, a bool mask, and what is asked."""

    picture: np.ndarray
    mask: np.ndarray
    asked: dict[str, Any]


def unpacked(data: bytes) -> Package:
    """Read an order.

    Raises:
        Unreadable: a part is missing, is no picture, or has another size.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as files:
            picture, mask, asked = (
                files.read(name) for name in ("picture.png", "mask.png", "order.json")
            )
        said = json.loads(asked)
    except (zipfile.BadZipFile, KeyError, ValueError) as error:
        raise Unreadable("a part is missing") from error
    pixels = cv2.imdecode(np.frombuffer(picture, np.uint8), cv2.IMREAD_COLOR)
    marked = cv2.imdecode(np.frombuffer(mask, np.uint8), cv2.IMREAD_GRAYSCALE)
    if pixels is None or marked is None or marked.shape != pixels.shape[:2]:
        raise Unreadable("the picture and its mask do not fit")
    if not isinstance(said, dict) or not (marked > 127).any():
        raise Unreadable("nothing is marked")
    return Package(np.asarray(pixels, np.uint8), marked > 127, said)


def take_out(order: Package, number: int) -> bytes:
    """One take, as a PNG of the picture's own size. The first repeats a mirrored piece, the second
    leaves a bright spot and something that was not there, the third keeps a fringe.
    """
    height, width = order.mask.shape
    part = min(1.0, LARGEST / max(height, width))
    size = (max(1, round(width * part)), max(1, round(height * part)))
    small = cv2.resize(order.picture, size, interpolation=cv2.INTER_AREA)
    marked = cv2.resize(order.mask.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST) > 0
    chance = np.random.default_rng(number)
    worked = marked
    if number == 3:
        # An outline drawn too tight: the thing's own edge stays as a fringe.
        thinner = cv2.erode(marked.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
        worked = thinner if thinner.any() else marked
    filled = _from_beside(small, worked, mirrored=number == 1, chance=chance)
    if number == 2:
        _spot_and_thing(filled, marked, chance)
    # Done in its own size and enlarged: a large region comes back soft.
    large = cv2.resize(filled, (width, height), interpolation=cv2.INTER_CUBIC)
    made = order.picture.copy()
    made[order.mask] = large[order.mask]
    return bytes(cv2.imencode(".png", made)[1].tobytes())


def _from_beside(
    picture: np.ndarray, mask: np.ndarray, mirrored: bool, chance: np.random.Generator
) -> np.ndarray:
    """The marked place filled from beside it, toned to fit, with a repeat where it is mirrored."""
    ys, xs = np.nonzero(mask)
    left, top, right, bottom = xs.min(), ys.min(), xs.max() + 1, ys.max() + 1
    w, h = int(right - left), int(bottom - top)
    gap = 6
    places = [(w + gap, 0), (-w - gap, 0), (0, h + gap), (0, -h - gap)]
    fits = [
        (dx, dy)
        for dx, dy in places
        if left + dx >= 0
        and top + dy >= 0
        and right + dx <= picture.shape[1]
        and bottom + dy <= picture.shape[0]
    ]
    if not fits:
        rough = cv2.inpaint(picture, mask.astype(np.uint8), 5, cv2.INPAINT_TELEA)
        return np.asarray(rough, np.uint8)
    dx, dy = fits[int(chance.integers(len(fits)))]
    source = picture[top + dy : bottom + dy, left + dx : right + dx]
    if mirrored:
        source = source[:, ::-1]
    here = mask[top:bottom, left:right]
    rim = cv2.dilate(here.astype(np.uint8), np.ones((9, 9), np.uint8)).astype(bool) & ~here
    around = picture[top:bottom, left:right]
    shift = around[rim].mean(axis=0) - source[rim].mean(axis=0) if rim.any() else 0.0
    made: np.ndarray = picture.copy()
    toned = np.clip(source + shift, 0, 255).round().astype(np.uint8)
    made[top:bottom, left:right][here] = toned[here]
    return made


def _spot_and_thing(picture: np.ndarray, mask: np.ndarray, chance: np.random.Generator) -> None:
    """A bright spot, and a small dark thing that nobody asked for; in place."""
    ys, xs = np.nonzero(mask)
    at = int(chance.integers(len(xs)))
    reach = max(3, round(0.12 * np.sqrt(len(xs))))
    glow = np.zeros(mask.shape, np.float32)
    cv2.circle(glow, (int(xs[at]), int(ys[at])), reach, 70.0, -1)
    glow = cv2.GaussianBlur(glow, (0, 0), reach / 2)
    bright = np.clip(picture + glow[..., None], 0, 255).astype(np.uint8)
    picture[mask] = bright[mask]
    thing = np.zeros(mask.shape, np.uint8)
    centre = (int(xs.mean()), int(ys.mean()))
    cv2.ellipse(thing, centre, (reach, max(2, reach // 2)), 20.0, 0.0, 360.0, 255, -1)
    picture[(thing > 0) & mask] = picture[mask].mean(axis=0) * 0.35
