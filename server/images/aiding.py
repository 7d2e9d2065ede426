"""Aids as tiles: drawn by the core from an image's own tiles, named by what they are made of, kept
until deleted.

Full-size tiles and those at half size are drawn when they are first asked for, so that a region is
there at once; the whole frame is work with progress.
"""

from __future__ import annotations

import io
import json
import re
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from regions.models import RegionVersion
from store.places import derived as derived_store
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core.aids import Aid, Ground, Known, Lines, Matches, aid_of, matches_within, searched
from zweiblick_core.io import read
from zweiblick_core.regions import Region

from .derivation import folder_name, folder_of, keep_ready, key_of
from .models import Derived, Image
from .pyramids import pyramid_of
from .tiles import frame_of, pixels_of

AID_VERSION = 3
#: One filter for all rows, which suits pictures, instead of the best of five for each: half the
#: time, the same bytes.
_PACKED = (cv2.IMWRITE_PNG_COMPRESSION, 1, cv2.IMWRITE_PNG_FILTER, cv2.IMWRITE_PNG_FILTER_UP)
#: The file that is written last.
WHOLE = "whole"
#: Tiles up to this many times smaller are drawn when asked for.
AT_ONCE = 2
#: Seconds after a tile was asked for in which its neighbours will be, and the most that a frame
#: waits before each of its tiles.
LOOKED, STOOD_BACK = 1.0, 2.0
TILE_PATH = re.compile(
    r"(full|max|[0-9]{1,6},[0-9]{1,6},[0-9]{1,6},[0-9]{1,6})/(max|[0-9]{1,6},[0-9]{0,6})/0/default\.png"
)


#: What is asked of the queue.
WORK = "aid"


class NotYet(Exception):
    """The tile belongs to the whole frame, which is still being drawn."""


@dataclass(frozen=True)
class Tile:
    """`path`: under the tiles' folder; x, y, width, height: its place in the frame; `out`: its own
    size; `scale`: pixels of the frame for one of its own.
    """

    path: str
    x: int
    y: int
    width: int
    height: int
    out: tuple[int, int]
    scale: int


@lru_cache(maxsize=64)
def tiles_in(folder: Path) -> dict[str, Tile]:
    """Every tile of a pyramid that stands; an aid has the same ones."""
    info = json.loads((folder / "info.json").read_text())
    found = {}
    for file in folder.glob("*/*/0/default.png"):
        place, out = file.parts[-4], file.parts[-3]
        x, y, width, height = (
            (0, 0, info["width"], info["height"]) if place == "full" else map(int, place.split(","))
        )
        w, h = map(int, out.split(","))
        path = str(file.relative_to(folder))
        # Levels halve, so that a rounded-up size still tells its level.
        found[path] = Tile(
            path,
            x,
            y,
            width,
            height,
            (w, h),
            1 << max(0, round(np.log2(max(width / w, height / h)))),
        )
    return found


def _versions(image: Image) -> list[RegionVersion]:
    return [
        region.current
        for region in image.picture.regions.select_related("current").order_by("number")
        if region.current
    ]


def aid_image(image: Image, aid: Aid) -> Derived:
    """What an aid's tiles are called: what they depend on is in the key. The row may not be stored
    yet; nothing is written.
    """
    parameters: dict[str, Any] = {
        "aid": aid.name,
        "tiles": pyramid_of(image).key,
        "ground": image.picture.original.blob_id,
    }
    if aid.needs == "matches":
        parameters["regions"] = (
            [version.pk for version in _versions(image)] if image.role == "result" else []
        )
    key = key_of(image.blob_id, "aid", parameters, AID_VERSION)
    return Derived.objects.filter(pk=key).first() or Derived(
        key=key,
        source_id=image.blob_id,
        recipe="aid",
        parameters=parameters,
        version=AID_VERSION,
    )


def _known(image: Image) -> Known:
    """What the core needs besides pixels; it was measured when the tiles were made."""
    ground = json.loads((folder_of(pyramid_of(image.picture.original)) / "ground.json").read_text())
    lines = json.loads((folder_of(pyramid_of(image)) / "lines.json").read_text())
    pair = lambda point: None if point is None else tuple(point)
    return Known(
        Ground(tuple(ground["mean"]), ground["grain"]),
        Lines(
            tuple(tuple(row) for row in lines["segments"]),
            tuple(pair(one) for one in lines["points"]),
            pair(lines["horizon"]),
        ),
    )


def _found(
    image: Image,
    derived: Derived,
    near: Tile | None = None,
    progress: Callable[[float], None] = lambda part: None,
) -> tuple[Matches, ...]:
    """The matches of an image's regions (of those that a tile shows), found when they are first
    needed and kept beside the tiles.
    """
    regions = [
        version.core
        for version in RegionVersion.objects.filter(pk__in=derived.parameters["regions"]).order_by(
            "region__number"
        )
    ]
    found = []
    for number, region in enumerate(regions):
        progress(number / len(regions))
        x, y, width, height = region.bbox
        if near is None or (
            x < near.x + near.width
            and near.x < x + width
            and y < near.y + near.height
            and near.y < y + height
        ):
            found.append(
                _matches_of(
                    image,
                    region,
                    [other for other in regions if other is not region],
                    f"{folder_name(derived)}/matches-{region.id}.npz",
                )
            )
    return tuple(found)


def _matches_of(image: Image, region: Region, others: list[Region], name: str) -> Matches:
    store = derived_store()
    # Neighbouring tiles are asked for at the same time, of several processes: one finds, the others
    # wait for what it found.
    with store.locked(f"{name}.lock"):
        if not store.is_file(name):
            frame = image.picture.original
            box = searched(region, frame.width, frame.height)
            made = matches_within(pixels_of(image, box), box[0], box[1], region, tuple(others))
            packed = io.BytesIO()
            np.savez(
                packed,
                place=(made.x, made.y),
                shrink=made.shrink,
                offsets=made.offsets,
                inside=made.inside,
                coherent=made.coherent,
            )
            store.write(name, [packed.getvalue()])
    with store.opened(name) as file, np.load(file) as kept:
        return Matches(
            int(kept["place"][0]),
            int(kept["place"][1]),
            float(kept["shrink"]),
            kept["offsets"],
            kept["inside"],
            kept["coherent"],
        )


def _draw(image: Image, aid: Aid, known: Known, folder: str, tile: Tile, whole: bool) -> str:
    """Draw one tile if it does not stand, and what it is made from; its name.

    Raises:
        NotYet: it is made from more than may be drawn at once, and `whole` was not asked for.
    """
    target = f"{folder}/{tile.path}"
    if derived_store().is_file(target):
        return target
    frame = frame_of(image)
    if tile.scale <= AT_ONCE:
        left, top = max(0, tile.x - aid.margin), max(0, tile.y - aid.margin)
        right, bottom = (
            min(frame.width, tile.x + tile.width + aid.margin),
            min(frame.height, tile.y + tile.height + aid.margin),
        )
        drawn = aid.draw(
            pixels_of(image, (left, top, right - left, bottom - top)), known, left, top
        )
        drawn = drawn[
            tile.y - top : tile.y - top + tile.height, tile.x - left : tile.x - left + tile.width
        ]
        if tile.scale > 1:
            drawn = cv2.resize(drawn, tile.out, interpolation=cv2.INTER_AREA)
    else:
        if not whole:
            raise NotYet
        source = tiles_in(folder_of(pyramid_of(image)))
        half = tile.scale // 2
        size = (-(-tile.width // half), -(-tile.height // half))
        canvas = np.zeros((size[1], size[0], 3), np.uint8)
        for child in source.values():
            if (
                child.scale == half
                and tile.x <= child.x < tile.x + tile.width
                and tile.y <= child.y < tile.y + tile.height
            ):
                drawn_child = _draw(image, aid, known, folder, child, whole)
                part = read(derived_store().bytes_of(drawn_child)).pixels
                x, y = (child.x - tile.x) // half, (child.y - tile.y) // half
                part = part[: size[1] - y, : size[0] - x]
                canvas[y : y + part.shape[0], x : x + part.shape[1]] = part
        drawn = cv2.resize(canvas, tile.out, interpolation=cv2.INTER_AREA)
    # Many aids have no colour: a third of the bytes, and of the time to pack them.
    grey = np.array_equal(drawn[..., 0], drawn[..., 1]) and np.array_equal(
        drawn[..., 1], drawn[..., 2]
    )
    ok, data = cv2.imencode(
        ".png", drawn[..., 0].copy() if grey else np.ascontiguousarray(drawn[..., ::-1]), _PACKED
    )
    assert ok
    derived_store().write(target, [data.tobytes()])
    return target


#: Touched whenever somebody waits for what is drawn at once.
_LOOKED = ".looked"


def _stand_back() -> None:
    """A whole frame waits while somebody waits for the tiles that are seen, but never for long: it
    goes on, only slower, if they never stop.
    """
    began = time.time()
    while (
        time.time() - derived_store().touched(_LOOKED) < LOOKED and time.time() - began < STOOD_BACK
    ):
        time.sleep(0.05)


def stands(derived: Derived) -> bool:
    """Whether the whole frame is drawn. The folder may have been deleted since, and begun again
    tile by tile: its last file tells.
    """
    return derived.ready and (folder_of(derived) / WHOLE).is_file()


def tile_of(image: Image, aid: Aid, path: str) -> str | None:
    """The stored name of one tile of an aid, drawn now if need be; None if there is no such tile.

    Raises:
        NotYet: the whole frame must be drawn first.
    """
    tile = tiles_in(folder_of(pyramid_of(image))).get(path)
    if tile is None:
        return None
    derived = aid_image(image, aid)
    folder = folder_name(derived)
    derived_store().touch(_LOOKED)
    known = _known(image)
    if aid.needs == "matches" and not derived_store().is_file(f"{folder}/{path}"):
        known = replace(known, matches=_found(image, derived, tile))
    return _draw(image, aid, known, folder, tile, False)


def _subject(image: Image, aid: Aid) -> str:
    return f"{image.pk}:{aid.name}"


def aid_state(image: Image, aid: Aid) -> dict[str, Any]:
    """How far the whole frame is: {"ready", "state", "progress"}. Writes nothing."""
    if stands(aid_image(image, aid)):
        return {"ready": True, "state": "done", "progress": 1.0}
    work = Work.objects.filter(kind=WORK, subject=_subject(image, aid)).first()
    if work is None or work.state == "done":
        return {"ready": False, "state": "not asked for", "progress": 0.0}
    return {"ready": False, "state": work.state, "progress": work.progress}


def ask_aid(image: Image, aid: Aid) -> dict[str, Any]:
    """Ask for the whole frame unless it stands; the state as `aid_state` gives it."""
    state = aid_state(image, aid)
    if state["state"] in ("not asked for", "failed"):
        ask(WORK, _subject(image, aid), image.picture)
        state = aid_state(image, aid)
    return state


def run_aid(lease: Lease) -> None:
    """Draw the whole frame, full size first, then what is made of it."""
    pk, _, name = lease.work.subject.partition(":")
    image, aid = Image.objects.select_related("blob", "picture").get(pk=pk), aid_of(name)
    assert aid is not None
    derived = aid_image(image, aid)
    known = _known(image)
    if aid.needs == "matches":
        known = replace(
            known,
            matches=_found(
                image, derived, progress=lambda part: lease.progress(0.2 * part, "matches")
            ),
        )
    tiles = sorted(
        tiles_in(folder_of(pyramid_of(image))).values(),
        key=lambda tile: (tile.scale, tile.y, tile.x),
    )
    for number, tile in enumerate(tiles):
        lease.progress(
            (0.2 if aid.needs else 0.0) + (0.8 if aid.needs else 1.0) * number / len(tiles),
            aid.words,
        )
        _stand_back()
        _draw(image, aid, known, folder_name(derived), tile, True)
    derived_store().write(f"{folder_name(derived)}/{WHOLE}", [])
    with lease.writing():
        keep_ready(derived)
