"""Locks: proof that a place in one result is, pixel for pixel, what it was in another."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import cv2
import numpy as np

from ..regions.masks import Region

#: A verdict on a region also rests on its rim: so far around it must be the same too, pixels.
RIM = 12


@dataclass(frozen=True)
class Proof:
    """Attributes: same: whether every pixel compared is equal; compared: how many were; differing:
    how many differ; largest: the largest
    difference of one channel, in the pictures' own steps."""

    same: bool
    compared: int
    differing: int
    largest: int


def same_pixels(
    first: np.ndarray,
    second: np.ndarray,
    region: Region,
    rim: int = RIM,
    others: Iterable[Region] = (),
) -> Proof:
    """Compare a region and its rim in two decoded pictures.

    Args:
        first, second: uint8 or uint16 (height, width, 3).
        region: the place.
        rim: how far around it counts, pixels.
        others: regions whose pixels the rim leaves out; each of those has a proof of its own.

    Pictures of different size or depth are never the same: nothing is proven by what was converted.
    """
    if first.shape != second.shape or first.dtype != second.dtype:
        return Proof(False, 0, 0, 0)
    height, width = first.shape[:2]
    x, y, w, h = region.bbox
    left, top, right, bottom = (
        max(0, x - rim),
        max(0, y - rim),
        min(width, x + w + rim),
        min(height, y + h + rim),
    )
    mask = np.zeros((bottom - top, right - left), np.uint8)
    mask[y - top : y - top + h, x - left : x - left + w] = region.mask
    if rim:
        mask = cv2.dilate(
            mask, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * rim + 1, 2 * rim + 1))
        )
    here = mask.astype(bool)
    for other in others:
        ox, oy, ow, oh = other.bbox
        x0, y0, x1, y1 = max(ox, left), max(oy, top), min(ox + ow, right), min(oy + oh, bottom)
        if other is not region and x0 < x1 and y0 < y1:
            here[y0 - top : y1 - top, x0 - left : x1 - left] &= ~other.mask[
                y0 - oy : y1 - oy, x0 - ox : x1 - ox
            ]
    apart = np.abs(
        first[top:bottom, left:right].astype(np.int32) - second[top:bottom, left:right]
    ).max(axis=2)[here]
    differing = int((apart > 0).sum())
    return Proof(differing == 0, int(here.sum()), differing, int(apart.max()) if len(apart) else 0)
