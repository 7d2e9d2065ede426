"""Tile pyramids as work: IIIF level 0, drawn once for each image, without loss."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

import numpy as np
import pyvips

from store.places import derived as derived_store
from work.leases import Lease, ask
from zweiblick_core.aids import find_lines, measure_ground
from zweiblick_core.align import resampled_onto
from zweiblick_core.io import eight_bit

from .aligning import image_alignment
from .decoding import decoded
from .derivation import folder_name, keep_ready, key_of, stands_whole
from .models import Derived, Image

TILE = 512
PYRAMID_VERSION = 2
#: What is asked of the queue.
WORK = "pyramid"


def pyramid_parameters(image: Image) -> dict[str, Any]:
    """What an image's tiles depend on besides its bytes. A result's lie in its original's frame, so
    that both are seen in place.
    """
    parameters = {"tile": TILE, "suffix": "png"}
    if image.role == "result" and image.picture.original is not None:
        parameters["onto"] = image.picture.original.blob_id
    return parameters


def pyramid_key(image: Image) -> str:
    return key_of(image.blob_id, "pyramid", pyramid_parameters(image), PYRAMID_VERSION)


def pyramid_of(image: Image) -> Derived:
    """What an image's tiles are called; the row may not be stored yet. Writes nothing."""
    key = pyramid_key(image)
    return Derived.objects.filter(pk=key).first() or Derived(
        key=key,
        source_id=image.blob_id,
        recipe="pyramid",
        parameters=pyramid_parameters(image),
        version=PYRAMID_VERSION,
    )


def tiles_stand(image: Image) -> bool:
    """Whether an image's tiles can be shown now. Writes nothing."""
    return stands_whole(pyramid_of(image))


def standing(images: list[Image]) -> set[int]:
    """Which images' tiles stand, by primary key, in one query for all."""
    keys = {image.pk: pyramid_key(image) for image in images}
    rows = Derived.objects.filter(key__in=keys.values(), ready=True).only("key", "ready")
    ready = {row.key for row in rows if stands_whole(row)}
    return {pk for pk, key in keys.items() if key in ready}


def ask_pyramid(image: Image) -> bool:
    """Whether the tiles stand; if not, they are asked for."""
    if tiles_stand(image):
        return True
    ask(WORK, str(image.pk), image.picture)
    return False


def build_pyramid(image: Image) -> Derived:
    """Tiles of the upright sRGB picture, without loss, as IIIF level 0; whole or not there. Safe to
    run twice, also at the same moment: the first to finish stands.

    A result that was cropped, moved, turned or resized is resampled onto its original; all others show
    their own pixels.
    """
    derived = pyramid_of(image)
    if stands_whole(derived):
        return derived
    picture = decoded(image.blob)
    pixels = picture.pixels
    onto = derived.parameters.get("onto")
    if onto is not None and onto != image.blob_id:
        alignment = image_alignment(image)
        if alignment.kind not in ("same", "unmatched"):
            assert image.picture.original is not None
            pixels = resampled_onto(decoded(image.picture.original.blob), picture, alignment)
    flat = pixels if pixels.dtype.itemsize == 1 else eight_bit(pixels).round().astype("uint8")
    flat = np.ascontiguousarray(flat)
    with derived_store().making(folder_name(derived)) as folder:
        drawn = pyvips.Image.new_from_memory(
            flat.data, flat.shape[1], flat.shape[0], 3, "uchar"
        ).copy(interpretation="srgb")
        # dzsave makes a folder itself and writes beside it, so it works beside the one to be kept.
        made = folder.parent / "p"
        drawn.dzsave(
            str(made),
            layout="iiif3",
            tile_size=TILE,
            suffix=".png[compression=3]",
            id="tiles",
        )
        for part in made.iterdir():
            part.rename(folder / part.name)
        # What aids rest on is measured here, where the pixels are at hand.
        if image.role == "original":
            (folder / "ground.json").write_text(json.dumps(asdict(measure_ground(flat))))
        (folder / "lines.json").write_text(json.dumps(asdict(find_lines(flat))))
    keep_ready(derived)
    return derived


def run_pyramid(lease: Lease) -> None:
    image = Image.objects.select_related("blob", "picture").get(pk=lease.work.subject)
    lease.progress(0.1, "tiles")
    build_pyramid(image)
    with lease.writing():
        pass
