"""Putting bytes away and getting them back. Content decides the name, so nothing is ever
overwritten.
"""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import tempfile
from dataclasses import asdict
from functools import lru_cache
from pathlib import Path
from threading import Lock

import cv2
import numpy as np
import pyvips
from django.conf import settings
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage

from jobs.models import Picture
from zweiblick_core.aids import find_lines, measure_ground
from zweiblick_core.reading import Picture as CorePicture
from zweiblick_core.reading import eight_bit, read
from zweiblick_core.registering import laid_onto, register

from .models import Blob, Derived, Image

TILE = 512
PYRAMID_VERSION = 2
MEDIA = {"jpeg": "image/jpeg", "png": "image/png", "tiff": "image/tiff"}


def put_blob(data: bytes, media_type: str) -> Blob:
    """Store bytes once; the same bytes again give the same blob."""
    sha = hashlib.sha256(data).hexdigest()
    blob, _ = Blob.objects.get_or_create(
        sha256=sha, defaults={"size": len(data), "media_type": media_type}
    )
    if not default_storage.exists(blob.path):
        default_storage.save(blob.path, ContentFile(data))
    return blob


def blob_bytes(blob: Blob) -> bytes:
    with default_storage.open(blob.path, "rb") as file:
        return file.read()


def put_image(picture: Picture, role: str, name: str, data: bytes) -> tuple[Image, CorePicture]:
    """Read a picture file and store it under a picture.

    Raises:
        Refused: it cannot be read; nothing is stored then.
    """
    decoded = read(data, settings.MOST_PIXELS)
    blob = put_blob(data, MEDIA[decoded.format])
    return Image.objects.create(
        picture=picture,
        blob=blob,
        role=role,
        name=name,
        width=decoded.width,
        height=decoded.height,
        format=decoded.format,
        depth=decoded.depth,
        profile=decoded.profile[:120],
    ), decoded


def key_of(sha256: str, recipe: str, parameters: dict, version: int) -> str:
    text = "\n".join([sha256, recipe, repr(sorted(parameters.items())), str(version)])
    return hashlib.sha256(text.encode()).hexdigest()


def pyramid_parameters(image: Image) -> dict:
    """What an image's tiles depend on besides its bytes. A result's lie in its original's frame, so
    that both are seen in place.
    """
    parameters = {"tile": TILE, "suffix": "png"}
    if image.role == "result" and image.picture.original is not None:
        parameters["onto"] = image.picture.original.blob_id
    return parameters


def pyramid_of(image: Image) -> Derived:
    """The row of an image's tile pyramid, ready or not."""
    parameters = pyramid_parameters(image)
    found, _ = Derived.objects.get_or_create(
        key=key_of(image.blob_id, "pyramid", parameters, PYRAMID_VERSION),
        defaults={
            "source": image.blob,
            "recipe": "pyramid",
            "parameters": parameters,
            "version": PYRAMID_VERSION,
        },
    )
    return found


def standing(images: list[Image]) -> set[int]:
    """Which images' tiles stand, by primary key, in one query for all."""
    keys = {
        image.pk: key_of(image.blob_id, "pyramid", pyramid_parameters(image), PYRAMID_VERSION)
        for image in images
    }
    ready = {
        row.key
        for row in Derived.objects.filter(key__in=keys.values(), ready=True).only("key")
        if folder_of(row).is_dir()
    }
    return {pk for pk, key in keys.items() if key in ready}


def folder_of(derived: Derived) -> Path:
    return Path(settings.DERIVED) / derived.key[:2] / derived.key


@lru_cache(maxsize=64)
def _tile(file: Path) -> np.ndarray:
    """A tile's pixels, not to be written into. Tiles never change, and neighbours need the same
    ones: 64 take 50 megabytes.
    """
    # They are our own plain PNG files: nothing to be asked of them, and half the time of reading a
    # stranger's.
    if not file.is_file():
        raise FileNotFoundError(file)
    pixels = cv2.imread(str(file), cv2.IMREAD_COLOR_RGB)
    pixels.setflags(write=False)
    return pixels


# Several threads draw neighbours at the same time: who comes second waits for the tile instead of
# decoding it too.
_ONE_AT_A_TIME = tuple(Lock() for _ in range(61))


def _shared_tile(file: Path) -> np.ndarray:
    with _ONE_AT_A_TIME[hash(file) % len(_ONE_AT_A_TIME)]:
        return _tile(file)


def pixels_of(image: Image, box: tuple[int, int, int, int]) -> np.ndarray:
    """The pixels of a box (x, y, width, height, within the frame) of an image as its full-size
    tiles show it, uint8 (height, width, 3).

    Raises:
        FileNotFoundError: the tiles do not stand yet.
    """
    folder = folder_of(pyramid_of(image))
    frame = image.picture.original if image.role == "result" and image.picture.original else image
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
            pixels = _shared_tile(folder / region / f"{width},{height}" / "0" / "default.png")
            x0, y0, x1, y1 = (
                max(left, tile_x),
                max(top, tile_y),
                min(right, tile_x + width),
                min(bottom, tile_y + height),
            )
            patch[y0 - top : y1 - top, x0 - left : x1 - left] = pixels[
                y0 - tile_y : y1 - tile_y, x0 - tile_x : x1 - tile_x
            ]
    return patch


def patch_at(image: Image, x: int, y: int, around: int) -> tuple[np.ndarray, int, int]:
    """The pixels around one of an image, and where that pixel lies in them.

    Raises:
        FileNotFoundError: the tiles do not stand yet.
    """
    frame = image.picture.original if image.role == "result" and image.picture.original else image
    left, top = max(0, x - around), max(0, y - around)
    right, bottom = min(frame.width, x + around + 1), min(frame.height, y + around + 1)
    return pixels_of(image, (left, top, right - left, bottom - top)), x - left, y - top


def build_pyramid(image: Image) -> Derived:
    """Tiles of the upright sRGB picture, without loss, as IIIF level 0; whole or not there, and
    safe to run twice.

    A result that was cropped, moved, turned or resized is laid onto its original; all others show
    their own pixels.
    """
    derived = pyramid_of(image)
    target = folder_of(derived)
    if derived.ready and target.is_dir():
        return derived
    picture = read(blob_bytes(image.blob), settings.MOST_PIXELS)
    pixels = picture.pixels
    if "onto" in derived.parameters and derived.parameters["onto"] != image.blob_id:
        original = read(blob_bytes(image.picture.original.blob), settings.MOST_PIXELS)
        pixels = laid_onto(original, picture, register(original, picture))
    flat = pixels if pixels.dtype.itemsize == 1 else eight_bit(pixels).round().astype("uint8")
    target.parent.mkdir(parents=True, exist_ok=True)
    # dzsave writes beside its folder too, so it gets a parent of its own.
    with tempfile.TemporaryDirectory(dir=target.parent, prefix=".making-") as scratch:
        drawn = pyvips.Image.new_from_memory(
            flat.tobytes(), flat.shape[1], flat.shape[0], 3, "uchar"
        ).copy(interpretation="srgb")
        drawn.dzsave(
            os.path.join(scratch, "p"),
            layout="iiif3",
            tile_size=TILE,
            suffix=".png[compression=3]",
            id="tiles",
        )
        # What aids rest on is measured here, where the pixels are at hand.
        if image.role == "original":
            Path(scratch, "p", "ground.json").write_text(json.dumps(asdict(measure_ground(flat))))
        Path(scratch, "p", "lines.json").write_text(json.dumps(asdict(find_lines(flat))))
        if target.exists():
            shutil.rmtree(target)
        os.chmod(os.path.join(scratch, "p"), 0o755)
        os.replace(os.path.join(scratch, "p"), target)
    Derived.objects.filter(pk=derived.pk).update(ready=True)
    derived.ready = True
    return derived
