"""The slip package: a zip with everything a retoucher needs, the masks ready to use. Described in
docs/formats.md.
"""

from __future__ import annotations

import io
import json
from dataclasses import replace

import numpy as np

from images.aligning import image_alignment
from images.crops import NotYet
from images.decoding import blob_bytes, decoded
from images.models import Image
from images.openraster import layered
from images.pyramids import tiles_stand
from images.tiles import frame_of, pixels_of
from images.zips import Zip
from regions.models import Region as Place
from regions.models import encode_mask
from trials.removing import png, working_copy
from zweiblick_core.align import Alignment, original_in_frame
from zweiblick_core.regions import (
    Note,
    Region,
    to_annotations,
    to_geojson,
)
from zweiblick_core.rules.advice import CHANGES

from .area import area_asked
from .models import Slip, SlipRegion
from .sheet import slip_sheet

SCHEMA = "zweiblick.slip/1"
_CROP_MARGIN = 24


def _placed(region: Region, alignment: Alignment, frame: tuple[int, int]) -> Region | None:
    """A region of the original in the attempt's own frame (height, width)."""
    return alignment.placed(region, frame)


def full_mask(region: Region, alignment: Alignment, frame: tuple[int, int]) -> bytes:
    """A region as a 1-bit PNG of the attempt's own frame (height, width), white where it lies."""
    placed = _placed(region, alignment, frame)
    return encode_mask(np.zeros(frame, bool) if placed is None else placed.full(frame))


def _to_be_worked(
    slip_regions: list[SlipRegion], alignment: Alignment, frame: tuple[int, int]
) -> bytes:
    """All regions that were sent, together, as a 1-bit PNG: each as the slip asks for it."""
    whole = np.zeros(frame, bool)
    for row in slip_regions:
        area = area_asked(row, alignment, frame)
        if area is not None:
            whole |= area.full(frame)
    return encode_mask(whole)


def _outlines(
    sent: list[SlipRegion],
    locked: list[Place],
    alignment: Alignment,
    image: Image,
    name: str,
) -> dict[str, bytes]:
    """The regions as GeoJSON, and what is said of those that were sent as Web Annotations; in the
    attempt's own frame.
    """
    frame = (image.height, image.width)
    areas, notes, roles = [], [], {}
    for row in sent:
        area = _placed(row.version.core, alignment, frame)
        if area is not None:
            area = replace(area, id=f"region-{row.region.number}")
            areas.append(area)
            roles[area.id] = {"name": row.region.name, "role": "sent"}
            asked = [CHANGES.get(change["what"], change["what"]) for change in row.changes]
            found = [f"{flaw['kind']}: {flaw.get('group_words') or ''}" for flaw in row.flaws]
            said = [row.region.name, *found, *asked, row.note]
            notes.append(Note(area, tuple(words for words in said if words)))
    for place in locked:
        area = _placed(place.drawn.core, alignment, frame)
        if area is not None:
            area = replace(area, id=f"locked-{place.number}")
            areas.append(area)
            roles[area.id] = {"name": place.name, "role": "locked"}
    geojson = to_geojson(areas)
    for feature in geojson["features"]:
        feature["properties"] |= roles[feature["id"]]
    said_of = to_annotations(notes, name)
    files = {"regions.geojson": geojson, "annotations.jsonld": said_of}
    return {name: json.dumps(plain, ensure_ascii=False).encode() for name, plain in files.items()}


def _crop(image: Image, box: list[float]) -> np.ndarray:
    """A place with its surroundings, cut from the tiles: in the original's frame, as seen; uint8."""
    frame = frame_of(image)
    x, y, w, h = (round(value) for value in box)
    left, top = max(0, x - _CROP_MARGIN), max(0, y - _CROP_MARGIN)
    right = max(left + 1, min(frame.width, x + w + _CROP_MARGIN))
    bottom = max(top + 1, min(frame.height, y + h + _CROP_MARGIN))
    return pixels_of(image, (left, top, right - left, bottom - top))


def _layers(slip: Slip, sent: list[SlipRegion], alignment: Alignment) -> tuple[bytes, np.ndarray]:
    """The attempt over the original with the regions as layers, in the attempt's own frame; and the
    attempt's pixels, uint8.
    """
    result = decoded(slip.attempt.image.blob)
    frame = (result.height, result.width)
    original, _ = original_in_frame(decoded(slip.picture.original.blob), result, alignment)
    pixels = working_copy(result.pixels)
    regions = [
        (f"region {part.region.number}, {part.region.name}", area.full(frame))
        for part in sent
        if (area := area_asked(part, alignment, frame)) is not None
    ]
    return layered(working_copy(original), pixels, slip.attempt.number, regions), pixels


def _parts_of(
    sent: list[SlipRegion], alignment: Alignment, frame: tuple[int, int]
) -> dict[int, tuple[float, float, float, float]]:
    """By region, where it lies in parts of the attempt's frame."""
    height, width = frame
    found = {}
    for part in sent:
        area = alignment.placed(part.version.core, frame)
        if area is not None:
            x, y, w, h = area.bbox
            found[part.region_id] = (x / width, y / height, w / width, h / height)
    return found


def package_of(slip: Slip) -> bytes:
    """The package of a slip; the same slip gives the same content. Masks lie in the attempt's own
    frame, ready to use on its file. For workers: it decodes.

    Raises:
        NotYet: the attempt's tiles, which the crops are cut from, are being made.
    """
    picture, image = slip.picture, slip.attempt.image
    original_name, attempt_name = (
        f"original.{picture.original.format}",
        f"attempt-{slip.attempt.number}.{image.format}",
    )
    data = blob_bytes(image.blob)
    sent = list(slip.regions.select_related("region", "version", "attempt__image__picture"))
    # What failed in other attempts goes along, to be looked at.
    others = {row.attempt_id: row.attempt for row in sent if row.attempt_id != slip.attempt_id}
    if not all(tiles_stand(one) for one in (image, *(other.image for other in others.values()))):
        raise NotYet
    alignment = image_alignment(image)
    frame = (image.height, image.width)
    numbers = {row.region.number for row in sent}
    regions, crops, masks = [], {}, {}
    seen: dict[int, list[np.ndarray]] = {}
    for row in sent:
        mask_name = f"masks/region-{row.region.number}.png"
        masks[mask_name] = full_mask(row.version.core, alignment, frame)
        flaws = []
        for number, flaw in enumerate(row.flaws, 1):
            crop_name = f"evidence/region-{row.region.number}-{number}-{flaw['kind']}.png"
            crop = _crop(row.attempt.image, flaw["bbox"])
            crops[crop_name] = png(crop)
            seen.setdefault(row.region_id, []).append(crop)
            flaws.append(
                {
                    "kind": flaw["kind"],
                    "word": flaw.get("word"),
                    "bbox": flaw["bbox"],
                    "polygon": flaw["polygon"],
                    "group": flaw.get("group_words"),
                    "words": flaw.get("words", ""),
                    "measure": flaw["measure"],
                    "crop": crop_name,
                }
            )
        regions.append(
            {
                "number": row.region.number,
                "name": row.region.name,
                "attempt": row.attempt.number,
                "ruling": row.verdict.ruling,
                "mask": mask_name,
                "bbox": list(row.version.bbox),
                "flaws": flaws,
                "changes": row.changes,
                "note": row.note,
            }
        )
    locked, places = [], []
    for region in picture.regions.select_related("current").order_by("number"):
        if region.number not in numbers and region.current:
            name = f"masks/locked-{region.number}.png"
            masks[name] = full_mask(region.current.core, alignment, frame)
            locked.append(name)
            places.append(region)
    described = {
        "schema": SCHEMA,
        "key": slip.key,
        "job": picture.job.name,
        "picture": picture.name,
        "attempt": slip.attempt.number,
        "round": slip.round,
        "due": slip.due.isoformat() if slip.due else None,
        "note": slip.note,
        "files": {"original": original_name, "attempt": attempt_name},
        "others": {
            str(other.number): f"attempt-{other.number}.{other.image.format}"
            for other in others.values()
        },
        # Boxes and outlines are given in the original's frame; this leads to the attempt's own.
        "matrix": alignment.to_dict()["matrix"],
        "regions": regions,
        "locked": locked,
        "sent": "masks/sent.png",
        "layers": "layers.ora",
        "sheet": "slip.pdf",
    }
    layers, pixels = _layers(slip, sent, alignment)
    masks["masks/sent.png"] = _to_be_worked(sent, alignment, frame)
    outlines = _outlines(sent, places, alignment, image, attempt_name)
    packed = io.BytesIO()
    with Zip(packed, "w") as files:
        files.writestr("slip.json", json.dumps(described, indent=1, ensure_ascii=False))
        files.writestr(original_name, blob_bytes(picture.original.blob))
        files.writestr(attempt_name, data)
        for other in others.values():
            name = f"attempt-{other.number}.{other.image.format}"
            files.writestr(name, blob_bytes(other.image.blob))
        files.writestr("layers.ora", layers)
        shown = _parts_of(sent, alignment, frame)
        files.writestr("slip.pdf", slip_sheet(slip, sent, pixels, shown, seen))
        for name, content in {**masks, **outlines, **crops}.items():
            files.writestr(name, content)
    return packed.getvalue()
