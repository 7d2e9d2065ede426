"""Key frames, where a shot is hardest, checked as pictures are."""

from __future__ import annotations

import numpy as np

from ..check import check
from ..regions.masks import cropped
from ..report import Finding
from ..visibility import Size
from .frames import Shot
from .pairs import pairs, picture_of
from .part import Part
from .report import InFrames, ShotFinding, ShotRegion, ShotReport
from .timing import Timing


def add_stills(
    report: ShotReport,
    parts: list[Part],
    shots: tuple[Shot, Shot],
    timing: Timing,
    size: Size,
) -> None:
    """Check key frames as pictures, where the shot is hardest."""
    original, result = shots
    chosen = _key_frames(parts, timing)
    report.shot["key_frames"] = [
        {"frame": number, "why": why} for number, why in sorted(chosen.items())
    ]
    if not chosen:
        report.facts.append(
            {"fact": "no key frame", "words": "something passes in front in every frame"}
        )
        return
    for number, before, after in pairs(original, result, timing):
        if number > max(chosen):
            break
        if number not in chosen:
            continue
        shape = before.shape[:2]
        regions = []
        for part in parts:
            mask = part.mask(number, (shape[0], shape[1]))
            if mask.any():
                regions.append(cropped(mask, part.name))
        if not regions:
            continue
        found = check(picture_of(before, original), picture_of(after, result), regions, size)
        for of_frame in found.regions:
            region = next(one for one in report.regions if one.id == of_frame.id)
            _add_stills(region, number, of_frame.findings)


def _add_stills(region: ShotRegion, number: int, findings: list[Finding]) -> None:
    for finding in findings:
        known = next(
            (one for one in region.findings if one.kind == finding.kind and one.still is not None),
            None,
        )
        if known is None:
            region.findings.append(
                ShotFinding(
                    finding.kind,
                    finding.score,
                    finding.severity,
                    finding.word,
                    InFrames(number, number, number),
                    finding.bbox,
                    finding.measure,
                    [],
                    finding,
                )
            )
            continue
        worse = finding.severity > known.severity
        known.frames = InFrames(
            min(known.frames.first, number),
            number if worse else known.frames.worst,
            max(known.frames.last, number),
        )
        if worse:
            known.score, known.severity, known.word = finding.score, finding.severity, finding.word
            known.bbox, known.measure, known.still = finding.bbox, finding.measure, finding


def _key_frames(parts: list[Part], timing: Timing) -> dict[int, str]:
    """Frames where the shot is hardest, and why.

    Frames in which something passes in front are judged by what happens to that (*occlusion*): a
    picture's check takes its edge for the fill's.
    """
    shown = sorted({int(one) for one in timing.shows})
    usable = [number for number in shown if all(part.is_clear(number) for part in parts)]
    if not usable:
        return {}
    chosen: dict[int, str] = {}
    speed = np.max([part.motion.speed for part in parts], axis=0)
    chosen[max(usable, key=lambda number: speed[number])] = "fastest"
    small = parts[0].small
    bright = {number: float(small.greys[number][::4, ::4].mean()) for number in usable}
    chosen.setdefault(min(usable, key=lambda number: bright[number]), "darkest")
    chosen.setdefault(usable[len(usable) // 2], "middle")
    return chosen
