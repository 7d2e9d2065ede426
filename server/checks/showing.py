"""A finding's picture: only the pixels around it are read, from the tiles."""

from __future__ import annotations

from dataclasses import replace

from images.models import Image
from images.tiles import pixels_of
from zweiblick_core.evidence import Copy, from_json
from zweiblick_core.regions import Region
from zweiblick_core.report.showing import HALF, SIDE, Shown, show

from .models import Finding

_MARGIN = SIDE // 2 + HALF


def evidence_picture(finding: Finding, original: Image, result: Image) -> Shown:
    """The core's picture of a finding, its coordinates moved into a window around region, finding
    and source.
    """
    region = finding.checked.region_version.core
    evidence = from_json(finding.evidence)
    source = evidence.source if isinstance(evidence, Copy) else None
    boxes = [finding.bbox, region.bbox, *([] if source is None else [source])]
    left, top = (max(0, int(min(box[i] for box in boxes)) - _MARGIN) for i in (0, 1))
    right, bottom = (
        min(limit, int(max(box[i] + box[i + 2] for box in boxes)) + _MARGIN)
        for i, limit in ((0, original.width), (1, original.height))
    )
    window = (left, top, right - left, bottom - top)
    if isinstance(evidence, Copy) and source is not None:
        x, y, w, h = source
        evidence = replace(evidence, source=[x - left, y - top, w, h])
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
