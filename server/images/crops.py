"""Small pictures of a region or of a whole frame, derived and kept like everything computed from a
blob.
"""

from __future__ import annotations

import os
import tempfile

import cv2
import numpy as np
from django.conf import settings

from zweiblick_core.reading import eight_bit, read

from .models import Blob, Derived
from .storage import blob_bytes, folder_of, key_of

CROP_VERSION = 1
LONGEST = 240


def crop_of(blob: Blob, box: tuple[int, int, int, int] | None) -> bytes:
    """A JPEG of `box` (x, y, width, height; None: the whole frame), its longer side `LONGEST`
    pixels.
    """
    parameters = {"box": list(box) if box else None, "side": LONGEST}
    key = key_of(blob.sha256, "crop", parameters, CROP_VERSION)
    derived, _ = Derived.objects.get_or_create(
        key=key,
        defaults={
            "source": blob,
            "recipe": "crop",
            "parameters": parameters,
            "version": CROP_VERSION,
        },
    )
    path = folder_of(derived).with_suffix(".jpg")
    if not path.exists():
        pixels = read(blob_bytes(blob), settings.MOST_PIXELS).pixels
        if box:
            x, y, width, height = box
            margin = max(8, int(0.08 * max(width, height)))
            pixels = pixels[
                max(0, y - margin) : y + height + margin, max(0, x - margin) : x + width + margin
            ]
        scale = min(1.0, LONGEST / max(pixels.shape[:2]))
        small = cv2.resize(
            eight_bit(pixels),
            (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale))),
            interpolation=cv2.INTER_AREA,
        )
        ok, data = cv2.imencode(
            ".jpg",
            np.ascontiguousarray(small[..., ::-1].round().astype(np.uint8)),
            [cv2.IMWRITE_JPEG_QUALITY, 88],
        )
        assert ok
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data.tobytes())
        os.replace(name, path)
        Derived.objects.filter(pk=key).update(ready=True)
    return path.read_bytes()
