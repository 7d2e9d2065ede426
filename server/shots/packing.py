"""What a retoucher needs beside the footage of a shot's slip: what is asked, and masks of the frames that were
sent. Described in docs/formats.md.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from typing import Any, BinaryIO

import numpy as np

from images.zips import Zip
from regions.models import encode_mask
from zweiblick_core.compare.locks import RIM
from zweiblick_core.rules.shots import in_ranges
from zweiblick_core.shots.proving import area_of

from .models import Footage, ShotCheck, ShotSlip
from .outlining import drawn_in

SCHEMA = "zweiblick.shot-slip/1"


def pack(slip: ShotSlip, file: BinaryIO, progress: Callable[[float], None]) -> None:
    """Write a slip's package: slip.json and a PNG mask for each frame of each region that was sent, white where
    the region lies, numbered as the frames are.
    """
    original = slip.shot.original
    shape = (original.height, original.width)
    digits = max(4, len(str(original.first + original.frames - 1)))
    sent = sum(last - first + 1 for part in slip.parts for first, last in part["ranges"])
    masks, done = _Masks(slip), 0
    with Zip(file, "w") as zipped:
        zipped.writestr("slip.json", json.dumps(_said(slip, masks), indent=1, ensure_ascii=False))
        for part in slip.parts:
            for number in range(original.frames):
                if not in_ranges(number, part["ranges"]):
                    continue
                mask = masks.of(part["number"], number, shape)
                if mask is not None:
                    name = f"{_folder(part)}{original.first + number:0{digits}}.png"
                    zipped.writestr(name, encode_mask(mask))
                done += 1
                progress(done / sent)


class _Masks:
    """Where regions are in each frame: as they were carried, or only as they were drawn."""

    def __init__(self, slip: ShotSlip) -> None:
        rows = ShotCheck.objects.filter(attempt=slip.attempt, state="done").order_by("-id")
        report: Mapping[str, Any] = next((row.report for row in rows[:1] if row.report), {})
        self._regions = {int(one["id"]): one for one in report.get("regions", [])}
        self._drawn = {int(name): masks for name, masks in drawn_in(slip.shot).items()}

    def of(self, region: int, frame: int, shape: tuple[int, int]) -> np.ndarray | None:
        carried = self._regions.get(region)
        if carried is not None:
            return area_of(carried["carried"]["outlines"][frame], shape, 0)
        return self._drawn.get(region, {}).get(frame)

    def repairs(self, region: int) -> list[int]:
        """Which frames to begin with."""
        return [one["frame"] for one in self._regions.get(region, {}).get("repairs", [])]


def _folder(part: Mapping[str, Any]) -> str:
    return f"masks/region-{part['number']}/"


def _said(slip: ShotSlip, masks: _Masks) -> dict[str, Any]:
    first = slip.shot.original.first
    names = {region.pk: region.name for region in slip.shot.regions.all()}
    return {
        "schema": SCHEMA,
        "job": slip.shot.job.name,
        "shot": slip.shot.name,
        "slip": slip.round,
        "attempt": slip.attempt.number if slip.attempt else None,
        "by": slip.written_by.called,
        "due": slip.due.isoformat() if slip.due else None,
        "note": slip.note,
        "margin": RIM,
        "original": _file(slip.shot.original),
        "sent": _file(slip.attempt.footage if slip.attempt else slip.shot.original),
        "regions": [
            {
                "number": part["number"],
                "name": names.get(part["region"], ""),
                "masks": _folder(part),
                "frames": [
                    {"first": first + start, "last": first + end} for start, end in part["ranges"]
                ],
                "findings": [
                    {
                        "kind": flaw["kind"],
                        "first": first + flaw["first"],
                        "last": first + flaw["last"],
                    }
                    for flaw in part["flaws"]
                ],
                "begin_with": [
                    first + one
                    for one in masks.repairs(part["number"])
                    if in_ranges(one, part["ranges"])
                ],
            }
            for part in slip.parts
        ],
    }


def _file(footage: Footage) -> dict[str, Any]:
    return {
        "name": footage.name,
        "sha256": footage.blob_id,
        "frames": footage.frames,
        "first": footage.first,
        "width": footage.width,
        "height": footage.height,
        "rate": footage.rate,
    }
