"""Mask files to arrays."""

from __future__ import annotations

import warnings
from pathlib import Path

import numpy as np
from PIL import Image, ImageOps

from ..errors import Refused
from .decode import BROKEN, MOST_PIXELS, accepted, content, decoded, is_deep, opened, orientation_of


def read_mask(
    source: Path | str | bytes, shape: tuple[int, int], most_pixels: int = MOST_PIXELS
) -> np.ndarray:
    """A mask file as a bool array: white (at least half) is where something was to be removed.

    Args:
        source: path or bytes of a picture file.
        shape: (height, width) it must have.
        most_pixels: refuse larger ones, in pixels.

    Raises:
        Refused: unreadable, another size, or nothing marked.
    """
    data, name = content(source, "the mask")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        with opened(data, name) as image:
            kind = accepted(image, name, most_pixels)
            mask = _plain_mask(image, kind, data, name)
            if mask is None:
                picture = decoded(image, kind, data, name, "")
                top = 65535 if picture.depth == 16 else 255
                mask = picture.pixels.max(axis=2) >= top / 2
    if mask.shape != shape:
        raise Refused(
            f"{name}: is {mask.shape[1]}x{mask.shape[0]}, the original is {shape[1]}x{shape[0]}"
        )
    if not mask.any():
        raise Refused(f"{name}: marks nothing")
    return mask


def _plain_mask(image: Image.Image, kind: str, data: bytes, name: str) -> np.ndarray | None:
    """A mask that is stored as one bit or eight bits of grey, as most are, without colour made of
    it; None for all others.
    """
    if (
        image.mode not in ("1", "L")
        or image.info.get("icc_profile")
        or "transparency" in image.info
    ):
        return None
    if is_deep(image, kind, data):
        return None
    try:
        orientation = orientation_of(image)
        image.load()
    except BROKEN as error:
        raise Refused(f"{name}: is damaged or cut short") from error
    upright = ImageOps.exif_transpose(image) if orientation != 1 else image
    return np.array(upright) if upright.mode == "1" else np.asarray(upright) >= 128
