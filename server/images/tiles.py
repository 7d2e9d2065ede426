"""Reading pixels from an image's tiles: only what is asked for, in the original's frame."""

from __future__ import annotations

from functools import lru_cache
from threading import Lock

import cv2
import numpy as np

from store.places import derived

from .derivation import folder_name
from .models import Image
from .pyramids import TILE, pyramid_of


@lru_cache(maxsize=64)
def _tile(name: str) -> np.ndarray:
    """A tile's pixels, not to be written into. Tiles never change, and neighbours need the same
    ones: 64 take 50 megabytes.
    """
    # They are our own plain PNG files: nothing to be asked of them, and half the time of reading a
    # stranger's.
    with derived().opened(name) as file:
        data = np.frombuffer(file.read(), np.uint8)
    pixels = cv2.imdecode(data, cv2.IMREAD_COLOR_RGB)
    if pixels is None:
        raise FileNotFoundError(name)
    pixels.setflags(write=False)
    return pixels


# Several threads draw neighbours at the same time: who comes second waits for the tile instead of
# decoding it too.
_ONE_AT_A_TIME = tuple(Lock() for _ in range(61))


def _shared_tile(name: str) -> np.ndarray:
    with _ONE_AT_A_TIME[hash(name) % len(_ONE_AT_A_TIME)]:
        return _tile(name)


def frame_of(image: Image) -> Image:
    """The image whose frame an image's tiles are in: a result lies in its original's."""
    return image.picture.original if image.role == "result" and image.picture.original else image


def pixels_of(image: Image, box: tuple[int, int, int, int]) -> np.ndarray:
    """The pixels of a box (x, y, width, height, within the frame) of an image as its full-size
    tiles show it, uint8 (height, width, 3).

    Raises:
        FileNotFoundError: the tiles do not stand yet.
    """
    folder = folder_name(pyramid_of(image))
    frame = frame_of(image)
    left, top, right, bottom = box[0], box[1], box[0] + box[2], box[1] + box[3]
    patch = np.zeros((bottom - top, right - left, 3), np.uint8)
    for tile_y in range(top // TILE * TILE, bottom, TILE):
        for tile_x in range(left // TILE * TILE, right, TILE):
            width, height = min(TILE, frame.width - tile_x), min(TILE, frame.height - tile_y)
            # A picture of one tile is called the full one.
            region = (
                "full"
                if (width, height) == (frame.width, frame.height)
                else f"{tile_x},{tile_y},{width},{height}"
            )
            pixels = _shared_tile(f"{folder}/{region}/{width},{height}/0/default.png")
            x0, x1 = max(left, tile_x), min(right, tile_x + width)
            y0, y1 = max(top, tile_y), min(bottom, tile_y + height)
            patch[y0 - top : y1 - top, x0 - left : x1 - left] = pixels[
                y0 - tile_y : y1 - tile_y, x0 - tile_x : x1 - tile_x
            ]
    return patch


def patch_at(image: Image, x: int, y: int, around: int) -> tuple[np.ndarray, int, int]:
    """The pixels around one of an image, and where that pixel lies in them.

    Raises:
        FileNotFoundError: the tiles do not stand yet.
    """
    frame = frame_of(image)
    left, top = max(0, x - around), max(0, y - around)
    right, bottom = min(frame.width, x + around + 1), min(frame.height, y + around + 1)
    return pixels_of(image, (left, top, right - left, bottom - top)), x - left, y - top
