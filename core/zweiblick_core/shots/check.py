"""The check of a shot: brought into register in time and space, followed, held still, measured."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import cv2
import numpy as np

from .. import __version__
from ..align import Alignment, register
from ..visibility import NATIVE, Size
from .carrying import Outlines
from .drawn import Drawn, proposed_drawn
from .following import Small, in_small
from .frames import Shot
from .judging import judged
from .key_frames import add_stills
from .pairs import pairs, picture_of, some_pairs
from .part import Part
from .report import OVER_TIME, ShotReport
from .timing import Sampler, Timing, timed

Progress = Callable[[float, str], None]
#: Regions are proposed from so many frames.
_PROPOSED_FROM = 5


def check_shot(
    original: Shot,
    result: Shot,
    drawn: Drawn,
    size: Size = NATIVE,
    stills: bool = True,
    progress: Progress = lambda part, words: None,
) -> ShotReport:
    """Judge an attempt at a shot.

    Args:
        original, result: read two or three times each, one frame after another.
        drawn: what was to be removed, by region and frame of the original; nothing: it is proposed
            from what changed.
        size: what it must hold up for.
        stills: whether key frames are checked as pictures too.

    Returns:
        The report; without regions where the shots cannot be brought into register, with the reason.

    Raises:
        Refused: a frame cannot be read.
    """
    sampler = Sampler((original.height, original.width))
    union = _union(drawn)
    progress(0.0, "reading the original")
    first = in_small(original, original.count, sampler, union)
    second: Small | None = None
    parts: list[Part] = []
    try:
        progress(0.2, "reading the result")
        second = in_small(result, result.count, sampler, union)
        timing = timed(first.signatures, second.signatures)
        progress(0.35, "register")
        alignment = _alignment(original, result, timing, union)
        report = ShotReport(
            __version__,
            {"original": original.described(), "result": result.described()},
            list(OVER_TIME) + (["stills"] if stills else []),
            {"text": size.text},
            alignment.to_dict(),
            {
                "frames": original.count,
                "rate": float(original.rate),
                "timing": {
                    "offset": timing.offset,
                    "dropped": list(timing.dropped),
                    "doubled": list(timing.doubled),
                    "words": timing.words(),
                    "shows": [int(one) for one in timing.shows],
                },
            },
            1.0,
        )
        report.facts = [{"fact": "timing", "words": words} for words in timing.words()]
        if alignment.kind == "unmatched":
            report.overall = 0.0
            return report
        if not drawn:
            drawn = proposed_drawn(some_pairs(original, result, timing, _PROPOSED_FROM))
        if not drawn:
            report.facts.append({"fact": "untouched", "words": "nothing was changed in this shot"})
            report.overall = 0.0
            return report
        shown = {int(number): at for at, number in enumerate(timing.shows)}
        smalls = (first, second if alignment.kind == "same" else None)
        parts = [Part.of(name, masks, original, smalls, shown) for name, masks in drawn.items()]
        progress(0.45, "holding the ground still")
        _fill(parts, original, result, timing, alignment)
        frame = (original.width, original.height)
        for number, part in enumerate(parts):
            progress(0.6 + 0.2 * number / max(1, len(parts)), f"region {part.name}")
            report.regions.append(judged(part, size, frame))
        if stills:
            progress(0.8, "key frames")
            add_stills(report, parts, (original, result), timing, size)
        for region in report.regions:
            region.findings.sort(key=lambda one: (-one.severity, -one.score))
            worst = [one.score * (0.3 + 0.7 * one.severity) for one in region.findings]
            region.overall = float(np.prod([1 - 0.9 * one for one in worst])) if worst else 1.0
        report.overall = min((region.overall for region in report.regions), default=1.0)
        progress(1.0, "done")
        return report
    finally:
        first.close()
        if second is not None:
            second.close()
        for part in parts:
            part.locked.close()


def proposed_in_shot(original: Shot, result: Shot) -> dict[str, Outlines]:
    """Regions from what an attempt changed: bool masks (height, width) by region and frame; none if
    nothing was changed or the shots cannot be brought into register.

    Raises:
        Refused: a frame cannot be read.
    """
    sampler = Sampler((original.height, original.width))
    first = in_small(original, original.count, sampler, Outlines())
    try:
        second = in_small(result, result.count, sampler, Outlines())
        try:
            timing = timed(first.signatures, second.signatures)
        finally:
            second.close()
    finally:
        first.close()
    if _alignment(original, result, timing, {}).kind != "same":
        return {}
    return proposed_drawn(some_pairs(original, result, timing, _PROPOSED_FROM))


def _union(drawn: Drawn) -> Outlines:
    """All regions together, by frame."""
    whole = Outlines()
    for masks in drawn.values():
        for number, mask in masks.items():
            whole[number] = whole[number] | mask if number in whole else mask
    return whole


def _alignment(
    original: Shot, result: Shot, timing: Timing, union: Mapping[int, np.ndarray]
) -> Alignment:
    """How the result lies in the original's frame, by one pair of frames from its middle."""
    number = len(timing.shows) // 2
    pair = [
        picture_of(shot.at(at), shot)
        for shot, at in ((original, int(timing.shows[number])), (result, number))
    ]
    removed = (
        union[min(union, key=lambda one: abs(one - int(timing.shows[number])))] if union else None
    )
    outside = None if removed is None else ~removed
    return register(pair[0], pair[1], outside)


def _fill(
    parts: list[Part], original: Shot, result: Shot, timing: Timing, alignment: Alignment
) -> None:
    """Write each region's ground-locked frames."""
    back = None
    if alignment.kind != "same":
        back = np.linalg.inv(np.vstack([alignment.matrix, [0, 0, 1]]))
    shape = (original.height, original.width)
    filled = np.zeros(original.count, bool)
    for number, before, after in pairs(original, result, timing):
        if back is not None:
            after = cv2.warpPerspective(after, back, shape[::-1], flags=cv2.INTER_CUBIC)
        for part in parts:
            part.put(number, before, after)
        filled[number] = True
    known = np.flatnonzero(filled)
    for part in parts:
        for unknown in np.flatnonzero(~filled):
            part.locked.mask[unknown] = part.locked.mask[known[0]]
