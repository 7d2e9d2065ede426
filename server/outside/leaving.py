"""What leaves the house: a crop around the region, as a picture and a mask without any metadata."""

from __future__ import annotations

import io
import json

import cv2
import numpy as np

from images.aligning import registered
from images.crops import NotYet
from images.models import Image
from images.zips import Zip
from regions.models import RegionVersion
from trials.removing import placed, png
from zweiblick_core.errors import Refused
from zweiblick_core.regions import Region as Area
from zweiblick_core.regions.framing import Window

#: So much of the surroundings goes along: a share of the region's longer side, and pixels at least.
SHARE, LEAST = 0.5, 64


def area_of(image: Image, version: RegionVersion) -> Area:
    """A region in an image's own frame.

    Raises:
        Refused: the image does not show the region.
        NotYet: the image is not registered yet; nothing is decoded here.
    """
    if image.role == "result" and not registered(image):
        raise NotYet
    area = placed(image, version.core)
    if area is None:
        raise Refused("the region lies outside what this attempt shows")
    return area


def box_of(image: Image, area: Area) -> tuple[int, int, int, int]:
    """What leaves of an image for an area, (x, y, width, height), both in the image's own frame."""
    margin = max(LEAST, round(SHARE * max(area.bbox[2:])))
    window = Window([area], (image.height, image.width), margin)
    height, width = window.shape
    return window.left, window.top, width, height


def crop_and_mask(
    area: Area, pixels: np.ndarray, box: tuple[int, int, int, int]
) -> tuple[np.ndarray, np.ndarray]:
    """What leaves of an image's uint8 pixels, and where the area lies in it, bool."""
    x, y, w, h = box
    mask = area.full(pixels.shape[:2])[y : y + h, x : x + w]
    return pixels[y : y + h, x : x + w], mask


def package(crop: np.ndarray, mask: np.ndarray, tier: str) -> bytes:
    """An order as the service reads it: the same order, the same bytes."""
    ok, marked = cv2.imencode(".png", mask.astype(np.uint8) * 255)
    assert ok
    packed = io.BytesIO()
    with Zip(packed, "w") as files:
        for name, content in (
            ("picture.png", png(crop)),
            ("mask.png", marked.tobytes()),
            ("order.json", json.dumps({"tier": tier}).encode()),
        ):
            files.writestr(name, content)
    return packed.getvalue()
