"""What trials and slips that go to a built-in method share: the frame, what nothing is taken from,
and writing the result.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import cv2
import numpy as np

from images.aligning import image_alignment
from images.models import Image
from zweiblick_core.io import eight_bit
from zweiblick_core.regions import Region as Area
from zweiblick_core.regions import grown, reaching_frame


def working_copy(pixels: np.ndarray) -> np.ndarray:
    """Decoded pixels as methods take them: uint8 (height, width, 3)."""
    copy: np.ndarray = eight_bit(pixels).round().astype(np.uint8)
    return copy


def placed(image: Image, area: Area) -> Area | None:
    """An area of the original in an image's own frame."""
    if image.role != "result":
        return area
    return image_alignment(image).placed(area, (image.height, image.width))


def barred(
    image: Image, boxes: Iterable[Sequence[float]], areas: Iterable[Area]
) -> np.ndarray | None:
    """Where nothing may be taken from, bool (height, width) of an image's own frame; None if
    anywhere.

    Args:
        boxes: (x, y, width, height) in the original's frame.
        areas: in the original's frame too.
    """
    frame = (image.height, image.width)
    mask = np.zeros(frame, bool)
    for area in areas:
        there = placed(image, area)
        if there is not None:
            mask |= there.full(frame)
    for x, y, width, height in boxes:
        shape = (max(1, round(height)), max(1, round(width)))
        box = Area("kept out", np.ones(shape, bool), (round(x), round(y), shape[1], shape[0]))
        there = placed(image, box)
        if there is not None:
            left, top, w, h = there.bbox
            mask[max(0, top) : top + h, max(0, left) : left + w] = True
    return mask if mask.any() else None


def sources_barred(
    image: Image,
    keep_out: Iterable[Sequence[float]],
    take_from: Iterable[Sequence[float]],
    areas: Iterable[Area],
) -> np.ndarray | None:
    """As `barred`; where places to take it from were marked, everything else is barred too."""
    out = barred(image, keep_out, areas)
    wanted = barred(image, take_from, [])
    if wanted is None:
        return out
    return ~wanted if out is None else ~wanted | out


def as_png(made: np.ndarray, source: np.ndarray, worked_on: np.ndarray) -> bytes:
    """What a method made, as a PNG of its source's own depth: pixels that it left alone are the
    source's, to the bit.

    Args:
        made, worked_on: uint8, what came out of the method and what went in.
        source: uint8 or uint16, what `worked_on` is a working copy of.
    """
    whole = made
    if source.dtype == np.uint16:
        changed = (made != worked_on).any(axis=2)
        whole = source.copy()
        whole[changed] = made[changed].astype(np.uint16) * 257
    return png(whole)


def worked_outline(
    area: Area, pixels: float, past_frame: bool, frame: tuple[int, int]
) -> Area | None:
    """Where work was asked for: an outline grown or shrunk, and pushed past the frame's edge; None
    if nothing is left.
    """
    found: Area | None = grown(area, pixels, frame) if pixels else area
    return reaching_frame(found, frame) if found is not None and past_frame else found


def png(pixels: np.ndarray) -> bytes:
    """Pixels, uint8 or uint16 (height, width, 3), as a PNG."""
    ok, data = cv2.imencode(
        ".png", np.ascontiguousarray(pixels[..., ::-1]), [cv2.IMWRITE_PNG_COMPRESSION, 3]
    )
    assert ok
    return data.tobytes()
