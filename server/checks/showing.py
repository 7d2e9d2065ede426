"""A finding's picture: only the pixels around it are read, from the tiles."""

from __future__ import annotations

from images.models import Image
from images.tiles import pixels_of
from zweiblick_core.regions import Region
from zweiblick_core.showing import HALF, SIDE, Shown, show

from .models import Finding

_MARGIN = SIDE // 2 + HALF


def evidence_picture(finding: Finding, original: Image, result: Image) -> Shown:
    """The core's picture of a finding, its coordinates moved into a window around region, finding
    and source.
    """
    region = finding.checked.region_version.core
    boxes = [
        finding.bbox,
        region.bbox,
        *([finding.evidence["source"]] if len(finding.evidence.get("source") or []) == 4 else []),
    ]
    left, top = (max(0, int(min(box[i] for box in boxes)) - _MARGIN) for i in (0, 1))
    right, bottom = (
        min(limit, int(max(box[i] + box[i + 2] for box in boxes)) + _MARGIN)
        for i, limit in ((0, original.width), (1, original.height))
    )
    window = (left, top, right - left, bottom - top)
    evidence = dict(finding.evidence)
    if len(evidence.get("source") or []) == 4:
        x, y, w, h = evidence["source"]
        evidence["source"] = [x - left, y - top, w, h]
    x, y, w, h = finding.bbox
    rx, ry, rw, rh = region.bbox
    return show(
        finding.kind,
        (x - left, y - top, w, h),
        evidence,
        pixels_of(original, window),
        pixels_of(result, window),
        Region(region.id, region.mask, (rx - left, ry - top, rw, rh)),
        [[px - left, py - top] for px, py in finding.polygon],
    )
