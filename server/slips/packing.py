"""The slip package: a zip with everything a retoucher needs, the masks ready to use. Described in
docs/formats.md.
"""

from __future__ import annotations

import io
import json
import zipfile

import cv2
import numpy as np

from images.aligning import stored_alignment
from images.crops import NotYet
from images.decoding import blob_bytes
from images.models import Image
from images.pyramids import tiles_stand
from images.tiles import frame_of, pixels_of
from zweiblick_core.regions import Region
from zweiblick_core.registering import Alignment

from .models import Slip

SCHEMA = "zweiblick.slip/1"
_CROP_MARGIN = 24


def full_mask(region: Region, alignment: Alignment | None, frame: tuple[int, int]) -> bytes:
    """A region as a 1-bit PNG of the attempt's own frame (height, width), white where it lies."""
    mask = np.zeros(frame, np.uint8)
    placed = alignment.placed(region, frame) if alignment else region
    if placed is not None:
        x, y, w, h = placed.bbox
        mask[y : y + h, x : x + w] = placed.mask.astype(np.uint8) * 255
    ok, data = cv2.imencode(".png", mask, [cv2.IMWRITE_PNG_BILEVEL, 1])
    assert ok
    return data.tobytes()


def _crop(image: Image, box: list[float]) -> bytes:
    """A place with its surroundings, cut from the tiles: in the original's frame, as seen."""
    frame = frame_of(image)
    x, y, w, h = (round(value) for value in box)
    left, top = max(0, x - _CROP_MARGIN), max(0, y - _CROP_MARGIN)
    right = max(left + 1, min(frame.width, x + w + _CROP_MARGIN))
    bottom = max(top + 1, min(frame.height, y + h + _CROP_MARGIN))
    part = pixels_of(image, (left, top, right - left, bottom - top))
    ok, data = cv2.imencode(".png", np.ascontiguousarray(part[..., ::-1]))
    assert ok
    return data.tobytes()


def package_of(slip: Slip) -> bytes:
    """The package of a slip; the same slip gives the same content. Masks lie in the attempt's own
    frame, ready to use on its file.

    Raises:
        NotYet: the attempt's tiles, which the crops are cut from, are being made.
    """
    picture, image = slip.picture, slip.attempt.image
    original_name, attempt_name = (
        f"original.{picture.original.format}",
        f"attempt-{slip.attempt.number}.{image.format}",
    )
    data = blob_bytes(image.blob)
    if not tiles_stand(image):
        raise NotYet
    alignment = stored_alignment(picture.original.blob, image.blob)
    frame = (image.height, image.width)
    sent = list(slip.regions.select_related("region", "version"))
    numbers = {row.region.number for row in sent}
    regions, crops, masks = [], {}, {}
    for row in sent:
        mask_name = f"masks/region-{row.region.number}.png"
        masks[mask_name] = full_mask(row.version.core, alignment, frame)
        flaws = []
        for number, flaw in enumerate(row.flaws, 1):
            crop_name = f"evidence/region-{row.region.number}-{number}-{flaw['kind']}.png"
            crops[crop_name] = _crop(image, flaw["bbox"])
            flaws.append(
                {
                    "kind": flaw["kind"],
                    "word": flaw.get("word"),
                    "bbox": flaw["bbox"],
                    "polygon": flaw["polygon"],
                    "group": flaw.get("group_words"),
                    "measure": flaw["measure"],
                    "crop": crop_name,
                }
            )
        regions.append(
            {
                "number": row.region.number,
                "name": row.region.name,
                "ruling": row.verdict.ruling,
                "mask": mask_name,
                "bbox": list(row.version.bbox),
                "flaws": flaws,
                "changes": row.changes,
                "note": row.note,
            }
        )
    locked = []
    for region in picture.regions.select_related("current").order_by("number"):
        if region.number not in numbers and region.current:
            name = f"masks/locked-{region.number}.png"
            masks[name] = full_mask(region.current.core, alignment, frame)
            locked.append(name)
    described = {
        "schema": SCHEMA,
        "key": slip.key,
        "job": picture.job.name,
        "picture": picture.name,
        "attempt": slip.attempt.number,
        "round": slip.round,
        "note": slip.note,
        "files": {"original": original_name, "attempt": attempt_name},
        # Boxes and outlines are given in the original's frame; this leads to the attempt's own.
        "matrix": alignment.to_dict()["matrix"] if alignment else [[1, 0, 0], [0, 1, 0]],
        "regions": regions,
        "locked": locked,
    }
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_STORED) as files:
        files.writestr("slip.json", json.dumps(described, indent=1, ensure_ascii=False))
        files.writestr(original_name, blob_bytes(picture.original.blob))
        files.writestr(attempt_name, data)
        for name, content in {**masks, **crops}.items():
            files.writestr(name, content)
    return packed.getvalue()
