"""Building a delivery, as work: picture after picture into one zip, whole or not at all."""

from __future__ import annotations

import hashlib
import json
import tempfile
from collections.abc import Iterator
from dataclasses import replace
from typing import Any, BinaryIO

import numpy as np
from django.db import transaction
from django.utils import timezone

from history.models import record_job
from images.aligning import image_alignment
from images.decoding import decoded
from images.openraster import layered
from images.paper import small
from images.zips import Zip
from regions.models import encode_mask
from store.places import deliveries
from trials.removing import working_copy
from work.leases import Lease
from work.models import Work
from zweiblick_core.align import resampled_onto
from zweiblick_core.regions import Note, to_annotations, to_geojson
from zweiblick_core.rules.states import advance
from zweiblick_core.visibility import parse_size

from .finals import Final, as_jpeg, as_png, as_tiff, final_of, resized
from .formats import Options
from .keeping import stored_name
from .models import Delivery, SignOff
from .names import plain_name, told_apart
from .records import FILES, RULINGS, record_of, rulings_of, table
from .sheets import Shown, before_and_after, contact_sheet

_WRITERS = {"tiff": (as_tiff, "tif"), "png": (as_png, "png")}
_CHUNK = 1 << 20


def run_delivery(lease: Lease) -> None:
    """Build the zip beside its place and put it there whole. A worker that dies leaves nothing;
    the next begins anew.
    """
    delivery = Delivery.objects.select_related("job").get(pk=lease.work.subject)
    if delivery.state not in ("waiting", "building"):
        with lease.writing():
            return
    Delivery.objects.filter(pk=delivery.pk).update(
        state=advance("delivery", delivery.state, "started")
    )
    signed = list(
        delivery.signed.select_related(
            "picture__job", "attempt__image__blob", "attempt__run__method", "person"
        ).order_by("picture__number")
    )
    with tempfile.TemporaryFile() as file:
        _build(file, delivery, signed, Options.from_dict(delivery.options), lease)
        file.seek(0)
        stored = deliveries().write(stored_name(delivery), _chunks(file))
    with lease.writing():
        row = Delivery.objects.select_for_update().get(pk=delivery.pk)
        row.state = advance("delivery", row.state, "finished")
        row.sha256, row.size, row.finished_at = stored.sha256, stored.size, timezone.now()
        row.save()
        record_job(
            row.job,
            None,
            "delivery built",
            "",
            after={"pictures": len(signed), "sha256": row.sha256, "bytes": row.size},
        )


def _chunks(file: BinaryIO) -> Iterator[bytes]:
    while chunk := file.read(_CHUNK):
        yield chunk


def _build(
    file: Any, delivery: Delivery, signed: list[SignOff], options: Options, lease: Lease
) -> None:
    made: list[tuple[SignOff, dict[str, Any]]] = []
    shown: list[Shown] = []
    sums: list[dict[str, Any]] = []
    with Zip(file, "w") as files:

        def put(name: str, content: bytes, picture: str = "") -> None:
            files.writestr(name, content)
            digest = hashlib.sha256(content).hexdigest()
            sums.append({"picture": picture, "file": name, "sha256": digest, "bytes": len(content)})

        for number, row in enumerate(signed):
            lease.progress(0.9 * number / len(signed), row.picture.name)
            folder = folder_of(row)
            final, names = _picture(row, options)
            for name, content in names:
                put(f"{folder}/{name}", content, row.picture.name)
            made.append(
                (
                    row,
                    {
                        "folder": folder,
                        "files": [name for name, _ in names],
                        "done": list(final.done),
                    },
                )
            )
            if options.sheets:
                shown.append(_shown(row))
        lease.progress(0.92, "record and sheets")
        record = record_of(delivery.job, made)
        put("record.json", json.dumps(record, indent=1, ensure_ascii=False).encode())
        put("rulings.csv", table(RULINGS, rulings_of(record)))
        if options.sheets:
            pages = [
                Shown(said, one.before, one.after, one.boxes)
                for said, one in zip(record["pictures"], shown, strict=True)
            ]
            put("before-and-after.pdf", before_and_after(delivery.job.name, pages))
            put("contact-sheet.pdf", contact_sheet(delivery.job.name, pages))
        files.writestr("files.csv", table(FILES, sums))
        lines = "".join(f"{one['sha256']}  {one['file']}\n" for one in sums)
        files.writestr("SHA256SUMS", lines)


def folder_of(row: SignOff) -> str:
    """A folder's name that every system takes."""
    return f"{row.picture.number:02d}-{plain_name(row.picture.name, 'picture')}"[:60]


def _picture(row: SignOff, options: Options) -> tuple[Final, list[tuple[str, bytes]]]:
    image = row.attempt.image
    image.picture = row.picture
    final = final_of(row.picture.original, image, image_alignment(image))
    files = []
    for kind in options.finals:
        if kind == "jpeg":
            files.append(("final.jpg", as_jpeg(final, options.quality)))
        else:
            write, ending = _WRITERS[kind]
            files.append((f"final.{ending}", write(final)))
    frame = (row.picture.original.width, row.picture.original.height)
    names = told_apart([plain_name(size["name"], "size") for size in row.sizes])
    for size, name in zip(row.sizes, names, strict=True):
        if size["name"] in options.sizes:
            parsed = parse_size(size["spec"])
            sized = resized(final, parsed.scale(*frame), parsed.dpi if parsed.unit == "mm" else 0.0)
            content = sized.jpegsave_buffer(Q=options.quality, subsample_mode="off")
            files.append((f"for-{name}.jpg", bytes(content)))
    if options.layered:
        files.append(("layers.ora", _layers(row)))
    if options.masks:
        files += _masks(row)
    return final, files


def _both(row: SignOff) -> tuple[np.ndarray, np.ndarray]:
    """Original and result in the original's frame, sRGB, uint8."""
    image = row.attempt.image
    image.picture = row.picture
    original, result = decoded(row.picture.original.blob), decoded(image.blob)
    placed = resampled_onto(original, result, image_alignment(image))
    return working_copy(original.pixels), working_copy(placed)


def _layers(row: SignOff) -> bytes:
    original, result = _both(row)
    frame = original.shape[:2]
    regions = [
        (f"region {version.region.number}, {version.region.name}", version.core.full(frame))
        for version in row.regions()
    ]
    return layered(original, result, row.attempt.number, regions)


def _masks(row: SignOff) -> list[tuple[str, bytes]]:
    original = row.picture.original
    frame = (original.height, original.width)
    files, areas, notes, names = [], [], [], {}
    for version in row.regions():
        region = version.region
        area = replace(version.core, id=f"region-{region.number}")
        files.append((f"masks/region-{region.number}.png", encode_mask(area.full(frame))))
        areas.append(area)
        names[area.id] = region.name
        notes.append(Note(area, (region.name,)))
    geojson = to_geojson(areas)
    for feature in geojson["features"]:
        feature["properties"] |= {"name": names[feature["id"]]}
    annotations = to_annotations(notes, original.name)
    for name, plain in (
        ("masks/regions.geojson", geojson),
        ("masks/annotations.jsonld", annotations),
    ):
        files.append((name, json.dumps(plain, ensure_ascii=False).encode()))
    return files


def _shown(row: SignOff) -> Shown:
    before, after = _both(row)
    height, width = before.shape[:2]
    boxes = []
    for version in row.regions():
        x, y, w, h = version.bbox
        boxes.append((x / width, y / height, w / width, h / height))
    return Shown({}, small(before), small(after), boxes)


def delivery_failed(work: Work) -> None:
    """It could not be built; people see why and can have it built again."""
    with transaction.atomic():
        row = Delivery.objects.select_for_update().filter(pk=work.subject).first()
        if row is None or row.state not in ("waiting", "building"):
            return
        row.state, row.reason = advance("delivery", row.state, "failed"), work.error
        row.save()
