"""Locks: proof that a place in one result is, pixel for pixel, what it was in another."""

from __future__ import annotations

import io
from collections.abc import Iterable
from dataclasses import dataclass, replace

import cv2
import numpy as np
from PIL import Image

from ..io import Picture
from ..regions.masks import Region

#: A verdict on a region also rests on its rim: so far around it must be the same too, pixels.
RIM = 12


#: A JPEG's blocks of chroma cover so many pixels; what changes in one may change all of it, and,
#: by smooth upsampling, a pixel or two beyond.
_BLOCK, _BEYOND = 16, 2


@dataclass(frozen=True)
class Proof:
    """What a comparison of a place showed.

    Attributes:
        same: whether every pixel compared is equal, or exactly what saving the first anew as the
            second was saved makes of it.
        compared: how many pixels were.
        differing: how many differ.
        largest: the largest difference of one channel, in the pictures' own steps.
        saved_anew: whether it is the same but for being saved anew.
    """

    same: bool
    compared: int
    differing: int
    largest: int
    saved_anew: bool = False

    @property
    def identical(self) -> bool:
        """Whether it is the same without being saved anew: only then has nothing to be looked at
        again.
        """
        return self.same and not self.saved_anew


def saved_as(first: Picture, second: Picture) -> np.ndarray | None:
    """What saving the first picture as the second was saved makes of it: the same quantisation
    tables and subsampling. An encoder gives the same coefficients for the same pixels, so what was
    not edited comes out equal to the bit.

    Returns:
        uint8 (height, width, 3); None where the second is no JPEG of that kind, or was turned or
        converted when it was read.
    """
    if second.saving is None or first.pixels.dtype != np.uint8:
        return None
    saved = io.BytesIO()
    Image.fromarray(first.pixels).save(
        saved, "JPEG", qtables=second.saving.tables, subsampling=second.saving.subsampling
    )
    read: np.ndarray = np.asarray(Image.open(saved).convert("RGB"))
    return read


def same_when_saved_anew(
    expected: np.ndarray,
    second: np.ndarray,
    region: Region,
    rim: int = RIM,
    others: Iterable[Region] = (),
) -> Proof:
    """Compare a region and its rim with what `saved_as` expects there. Blocks that other regions
    reach into are left out: an edit there changes all of such a block.

    Args:
        expected: of `saved_as`.
        others: as of `same_pixels`.
    """
    wide = [in_blocks(other) for other in others if other is not region]
    proof = same_pixels(expected, second, region, rim, wide)
    return replace(proof, saved_anew=True)


def in_blocks(region: Region) -> Region:
    """All blocks that a region reaches into."""
    x, y, w, h = region.bbox
    left, top = x // _BLOCK * _BLOCK, y // _BLOCK * _BLOCK
    columns = -(-(x + w - left) // _BLOCK)
    rows = -(-(y + h - top) // _BLOCK)
    whole = np.zeros((rows * _BLOCK, columns * _BLOCK), bool)
    whole[y - top : y - top + h, x - left : x - left + w] = region.mask
    touched = whole.reshape(rows, _BLOCK, columns, _BLOCK).any(axis=(1, 3))
    mask = np.pad(np.repeat(np.repeat(touched, _BLOCK, 0), _BLOCK, 1), _BEYOND)
    reach = np.ones((2 * _BEYOND + 1, 2 * _BEYOND + 1), np.uint8)
    grown = cv2.dilate(mask.view(np.uint8), reach).view(bool)
    return Region(region.id, grown, (left - _BEYOND, top - _BEYOND, *grown.shape[::-1]))


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
