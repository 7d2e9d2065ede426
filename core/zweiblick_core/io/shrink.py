"""Pictures and masks made smaller by area."""

from __future__ import annotations

import weakref

import cv2
import numpy as np

#: Pictures of more pixels than this are averaged by four once, for all that look at less of them.
_LARGE = 4_000_000

_quarters: dict[int, tuple[weakref.ref[np.ndarray], np.ndarray]] = {}


def _quarter(pixels: np.ndarray) -> np.ndarray:
    """A decoded picture at a quarter of its width and height, kept as long as the picture itself
    is. Decoded pixels are never written to.
    """
    known = _quarters.get(id(pixels))
    if known is not None and known[0]() is pixels:
        return known[1]
    rows, columns = pixels.shape[0] // 4, pixels.shape[1] // 4
    small = pixels[: rows * 4, : columns * 4]
    # Twice by half: that is twice as quick as once by four.
    for part in (2, 1):
        small = cv2.resize(small, (columns * part, rows * part), interpolation=cv2.INTER_AREA)
    key = id(pixels)
    _quarters[key] = (weakref.ref(pixels, lambda _: _quarters.pop(key, None)), small)
    return small


def share_of(mask: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """How much of each place of (width, height) is True in a bool mask of at least that size, uint8
    0..255; by whole blocks first, which is quick.
    """
    block = max(1, min(mask.shape[0] // size[1], mask.shape[1] // size[0]))
    rows, columns = mask.shape[0] // block, mask.shape[1] // block
    plane = np.full((rows, columns), 255, np.uint8)
    # Most masks are True all over but for a region or two: only there is anything to count.
    here = _blocks(np.asarray(~mask[: rows * block, : columns * block].all(axis=1)), block)
    there = _blocks(
        np.asarray(~mask[here.start * block : here.stop * block, : columns * block].all(axis=0)),
        block,
    )
    if there.stop:
        part = mask[
            here.start * block : here.stop * block, there.start * block : there.stop * block
        ].view(np.uint8) * np.uint8(255)
        plane[here, there] = cv2.resize(
            part, (there.stop - there.start, here.stop - here.start), interpolation=cv2.INTER_AREA
        )
    return (
        plane
        if plane.shape[1::-1] == size
        else cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
    )


def _blocks(some: np.ndarray, block: int) -> slice:
    """The blocks from the first to the last of some (bool) places in a row; slice(0, 0) for none."""
    at = np.flatnonzero(some)
    return slice(int(at[0]) // block, int(at[-1]) // block + 1) if len(at) else slice(0, 0)


def shrunk(pixels: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """A picture averaged down to (width, height), uint8 or uint16 as it is: by whole blocks first,
    which is quick, then to the exact size.

    A larger size than the picture's is given back as it is.
    """
    if size[0] >= pixels.shape[1] and size[1] >= pixels.shape[0]:
        return pixels
    if (
        pixels.shape[0] * pixels.shape[1] > _LARGE
        and size[0] * 4 <= pixels.shape[1]
        and size[1] * 4 <= pixels.shape[0]
    ):
        pixels = _quarter(pixels)
    block = max(1, min(pixels.shape[0] // size[1], pixels.shape[1] // size[0]))
    if block > 1:
        height, width = pixels.shape[0] // block * block, pixels.shape[1] // block * block
        pixels = cv2.resize(
            pixels[:height, :width], (width // block, height // block), interpolation=cv2.INTER_AREA
        )
    return (
        pixels
        if pixels.shape[1::-1] == size
        else cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    )
