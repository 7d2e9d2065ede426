"""Proxies: every frame of some footage as a JPEG that a browser plays, in segments of a second or so.

A segment is its frames' JPEG files one after another. `index.json` says where each begins. Every JPEG
carries its frame's number in a comment of its own, so that whoever shows one can tell that it is that
frame.
"""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from itertools import accumulate
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from PIL import Image

from images.derivation import folder_name, keep_ready, key_of, stands_whole
from images.models import Derived
from store.places import derived as derived_store
from work.leases import Lease, ask
from zweiblick_core.io import eight_bit
from zweiblick_core.shots import Shot

from .models import Footage
from .opening import opened

#: What is asked of the queue.
WORK = "proxies"
_VERSION = 1
#: Frames in one segment.
SEGMENT = 24
#: Frames are made smaller to lie within so many pixels, (width, height).
_WITHIN = (1920, 1080)
_QUALITY = 90


def _parameters() -> dict[str, Any]:
    return {"segment": SEGMENT, "within": list(_WITHIN), "quality": _QUALITY}


def _key(footage: Footage) -> str:
    # Numbered pictures of one ZIP are the same frames at any rate.
    return key_of(footage.blob_id, "proxies", _parameters(), _VERSION)


def proxies_of(footage: Footage) -> Derived:
    """What footage's proxies are called; the row may not be stored yet. Writes nothing."""
    key = _key(footage)
    return Derived.objects.filter(pk=key).first() or Derived(
        key=key,
        source_id=footage.blob_id,
        recipe="proxies",
        parameters=_parameters(),
        version=_VERSION,
    )


def standing(rows: list[Footage]) -> set[int]:
    """Which footage's proxies stand, by primary key, in one query for all."""
    keys = {row.pk: _key(row) for row in rows}
    found = Derived.objects.filter(key__in=keys.values(), ready=True)
    ready = {row.key for row in found if stands_whole(row)}
    return {pk for pk, key in keys.items() if key in ready}


def ask_proxies(footage: Footage) -> bool:
    """Whether the proxies stand; if not, they are asked for."""
    if stands_whole(proxies_of(footage)):
        return True
    ask(WORK, str(footage.pk))
    return False


def run_proxies(lease: Lease) -> None:
    """Draw footage's proxies; whole or not there. Safe to run twice."""
    footage = Footage.objects.filter(pk=lease.work.subject).select_related("blob").first()
    if footage is None:
        with lease.writing():
            return
    derived = proxies_of(footage)
    if not stands_whole(derived):
        shot = opened(footage)
        with derived_store().making(folder_name(derived)) as folder:
            draw(shot, folder, lambda part: lease.progress(part, "drawing the frames to play"))
    with lease.writing():
        keep_ready(derived)


def part_played(width: int, height: int) -> float:
    """How large a proxy is, part of the frame's own size."""
    return min(1.0, _WITHIN[0] / width, _WITHIN[1] / height)


def size_within(width: int, height: int) -> tuple[int, int]:
    """(width, height) of a proxy: the frame's own, or smaller."""
    part = part_played(width, height)
    return max(1, round(width * part)), max(1, round(height * part))


def draw(shot: Shot, folder: Path, progress: Callable[[float], None]) -> None:
    """Write a shot's proxies into a folder.

    Args:
        progress: called with the part that is done, 0..1.
    """
    size = size_within(shot.width, shot.height)
    segments: list[list[int]] = []
    parts: list[bytes] = []
    for number, pixels in enumerate(shot):
        parts.append(_jpeg(pixels, size, number))
        if len(parts) == SEGMENT:
            segments.append(_write(folder, len(segments), parts))
            parts = []
        progress((number + 1) / shot.count)
    if parts:
        segments.append(_write(folder, len(segments), parts))
    index = {"width": size[0], "height": size[1], "segment": SEGMENT, "ends": segments}
    (folder / "index.json").write_text(json.dumps(index))


def _write(folder: Path, number: int, parts: list[bytes]) -> list[int]:
    """Write one segment; where each of its frames ends."""
    (folder / f"{number}.jpgs").write_bytes(b"".join(parts))
    return list(accumulate(len(one) for one in parts))


def _jpeg(pixels: np.ndarray, size: tuple[int, int], number: int) -> bytes:
    flat: np.ndarray = np.ascontiguousarray(np.round(eight_bit(pixels)).astype(np.uint8))
    if (flat.shape[1], flat.shape[0]) != size:
        flat = cv2.resize(flat, size, interpolation=cv2.INTER_AREA)
    out = io.BytesIO()
    Image.fromarray(flat).save(
        out, "JPEG", quality=_QUALITY, subsampling=0, comment=f"frame {number}"
    )
    return out.getvalue()
