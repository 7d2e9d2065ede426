"""Small pictures of a region or of a whole frame, cut from an image's tiles: in the original's
frame, whatever the image's own.
"""

from __future__ import annotations

import cv2
import numpy as np

from store.places import derived as derived_store
from zweiblick_core.io import eight_bit

from .derivation import key_of, name_of
from .models import Image
from .pyramids import pyramid_key, tiles_stand
from .tiles import frame_of, pixels_of

CROP_VERSION = 2
LONGEST = 240


class NotYet(Exception):
    """The tiles that it is cut from are still being made."""


def crop_of(image: Image, box: tuple[int, int, int, int] | None) -> bytes:
    """A JPEG of `box` (x, y, width, height in the original's frame; None: the whole frame), its
    longer side `LONGEST` pixels.

    Raises:
        NotYet: the tiles do not stand.
    """
    parameters = {"box": list(box) if box else None, "side": LONGEST, "tiles": pyramid_key(image)}
    name = name_of(key_of(image.blob_id, "crop", parameters, CROP_VERSION), ".jpg")
    store = derived_store()
    if not store.is_file(name):
        if not tiles_stand(image):
            raise NotYet
        store.write(name, [small_jpeg(_cut(image, box))])
    return store.bytes_of(name)


def _cut(image: Image, box: tuple[int, int, int, int] | None) -> np.ndarray:
    frame = frame_of(image)
    if box is None:
        return _whole(image)
    x, y, width, height = box
    margin = max(8, int(0.08 * max(width, height)))
    left, top = max(0, x - margin), max(0, y - margin)
    right, bottom = min(frame.width, x + width + margin), min(frame.height, y + height + margin)
    return pixels_of(image, (left, top, right - left, bottom - top))


def _whole(image: Image) -> np.ndarray:
    """A frame by its rows of tiles, each made small at once, so that memory stays small too."""
    frame = frame_of(image)
    scale = min(1.0, LONGEST / max(frame.width, frame.height))
    rows = []
    for top in range(0, frame.height, 2048):
        height = min(2048, frame.height - top)
        strip = pixels_of(image, (0, top, frame.width, height))
        size = (max(1, round(frame.width * scale)), max(1, round(height * scale)))
        rows.append(cv2.resize(strip, size, interpolation=cv2.INTER_AREA))
    return np.concatenate(rows)


def small_jpeg(pixels: np.ndarray) -> bytes:
    """A JPEG whose longer side is `LONGEST` at most."""
    scale = min(1.0, LONGEST / max(pixels.shape[:2]))
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    small = eight_bit(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA))
    ok, data = cv2.imencode(
        ".jpg",
        np.ascontiguousarray(small[..., ::-1].round().astype(np.uint8)),
        [cv2.IMWRITE_JPEG_QUALITY, 88],
    )
    assert ok
    return data.tobytes()
