"""What was found of lines, as readings with their evidence."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ...evidence import Course as CourseEvidence
from ...evidence import Line, Lines
from ...null import Natural, natural_range, score_of
from ...report import Measure, Reading, Signal
from ...scene.window import Window
from .breaks import CERTAIN, Break
from .displaced import Displaced
from .gone import FAINT
from .standing import HALVES
from .vanishing import Course
from .waves import Waves

NULL = "outline"

NAMES = {
    "missing": "part of the line that is missing",
    "offset": "how far the line jumps",
    "kink": "how far the line turns",
    "tilt": "how far the line is tilted between its ends",
    "wave": "how far the line swings",
}

#: How far displaced ground must stand out for a half, and the width (of 150 clean readings of
#: photographs, PNG and JPEG, the most is 0.69); how many of its crossings are shown,
#: and how far to either side, pixels.
_DISPLACED_HALF, _DISPLACED_WIDTH = 0.95, 0.13

_SHOWN, _SHOWN_PX = 12, 14.0

#: How far what bends to and fro must stand out for a half, and the width (training photographs:
#: clean ones up to 0.65, nine in ten waved by 4 px from 1.0 on).
_WAVES_HALF, _WAVES_WIDTH = 1.0, 0.11


def enlarged(reading: Reading, window: Window, part: int) -> Reading:
    """A reading of a reduced window as one of the window."""
    signal, shown = reading.signal, reading.shown(Lines)
    placed = lambda points: window.from_reduced(points, part) if len(points) else []
    in_pixels = part if shown.what in ("offset", "wave") else 1
    # Of a fill that lies off as a whole, how far what crosses its boundary jumps.
    jumps = part if shown.whole else in_pixels
    evidence = replace(
        shown,
        lines=tuple(
            Line(
                placed(line.ends),
                placed(line.trace),
                placed(line.straight),
                line.amount * jumps,
                line.angle,
            )
            for line in shown.lines
        ),
        shift_px=None if shown.shift_px is None else [value * part for value in shown.shift_px],
        amount=None if shown.amount is None else shown.amount * in_pixels,
    )
    if isinstance(evidence, CourseEvidence) and evidence.vanishing_point is not None:
        evidence = replace(evidence, vanishing_point=placed([evidence.vanishing_point])[0])
    x, y, width, height = (value * part for value in reading.bbox)
    times = part if reading.measure.unit == "px" else 1
    natural = replace(
        reading.measure.natural,
        low=reading.measure.natural.low * times,
        high=reading.measure.natural.high * times,
    )
    return replace(
        reading,
        bbox=window.box_to_frame(x, y, width, height),
        polygon=placed(reading.polygon),
        evidence=evidence,
        signal=Signal(
            tuple((f / part, light, chroma) for f, light, chroma in signal.bands),
            signal.extent * part,
            signal.area * part**2,
            signal.offset * part,
        ),
        measure=replace(reading.measure, value=reading.measure.value * times, natural=natural),
    )


def _changed(found: Displaced) -> tuple[str, bool, float, str]:
    """What it is, whether its amount is in degrees, the amount (else pixels, or per cent, signed,
    if a scale), and in words what would mend it.
    """
    if found.how == "moved":
        return "offset", False, float(np.hypot(*found.shift)), "moved"
    if found.how == "scaled":
        # It lies so many parts farther out than it would go on.
        return "scale", False, 100 * found.much, "smaller" if found.much > 0 else "larger"
    return (
        ("kink" if found.how == "turned" else "shear"),
        True,
        abs(float(np.degrees(np.arctan(found.much) if found.how != "turned" else found.much))),
        "turned" if found.how == "turned" else "sheared",
    )


def displaced_reading(window: Window, found: Displaced, doubt: float) -> Reading:
    """A fill that is displaced, turned or otherwise changed as a whole; `doubt`: how many times as
    far it must.
    """
    score = float(score_of(np.array(found.far), _DISPLACED_HALF * doubt, _DISPLACED_WIDTH))
    rim, ways = found.crossing.rim, found.crossing.ways
    chosen: list[int] = []
    for at in np.argsort(-np.where(rim.usable, found.gains, -1e3)):
        if all(
            min(abs(at - other), len(rim) - abs(at - other)) * rim.step > 16 for other in chosen
        ):
            chosen.append(int(at))
            if len(chosen) == _SHOWN:
                break
    contrast = 2.0 * float(np.median(np.abs(found.crossing.outer[chosen])))
    score *= 0.35 + 0.65 * float(score_of(np.array(2.55 * contrast), 6.0, 1.2))
    tangents = rim.tangents
    jump = float(np.median(np.abs(found.jumps[chosen])))
    what, in_degrees, amount, words = _changed(found)
    lines = []
    for at in chosen:
        outward, inward = (rim.normals[at] + ways[at, side] * tangents[at] for side in (0, 1))
        there = rim.points[at] + found.jumps[at] * tangents[at]
        deep = np.linspace(0, _SHOWN_PX, 4)[:, None]
        lines.append(
            Line(
                window.to_frame(
                    np.array([rim.points[at] + _SHOWN_PX * outward, rim.points[at]]) + 0.5
                ),
                window.to_frame(there - deep * inward + 0.5),
                window.to_frame(
                    np.array([rim.points[at], rim.points[at] - _SHOWN_PX * outward]) + 0.5
                ),
                abs(float(found.jumps[at])),
                float(np.degrees(np.arctan2(outward[1], outward[0])) % 180),
            )
        )
    cloud = np.clip(rim.points, 0, np.array(window.mask.shape[::-1]) - 1.0)
    (x0, y0), (x1, y1) = cloud.min(axis=0), cloud.max(axis=0)
    bands = tuple(
        (2.0**-octave, contrast / 2 * min(1.0, jump / 4) * part, 0.0)
        for octave, part in ((2, 0.35), (3, 0.6), (4, 0.6))
    )
    length = float(_SHOWN_PX * len(chosen))
    return Reading(
        "line",
        score,
        window.box_to_frame(x0, y0, x1 - x0, y1 - y0),
        window.to_frame(cloud[:: max(1, len(cloud) // 80)] + 0.5),
        Signal(bands, length, length * 8, jump),
        Measure(
            f"how much better it would go on if the fill were {words}",
            found.gained,
            "times natural differences",
            natural_range(found.nature, NULL),
        ),
        Lines(
            what=what,
            whole=True,
            lines=tuple(lines),
            count=len(lines),
            contrast=2.55 * contrast,
            from_both_sides=True,
            horizon=False,
            shift_px=found.shift.tolist(),
            degrees=amount if in_degrees else None,
            amount=None if in_degrees else amount,
            at_least=not found.within,
        ),
    )


def waved_reading(window: Window, found: Waves, doubt: float) -> Reading:
    """A fill in which what is straight or evenly round about it bends to and fro; `doubt`: how many
    times as much it must.
    """
    score = float(score_of(np.array(found.far), _WAVES_HALF * doubt, _WAVES_WIDTH))
    swing = float(found.swings.max())
    luma, lines = window.luma_result, []
    for amount, trace in sorted(
        zip(found.swings.tolist(), found.traces, strict=True), key=lambda pair: -pair[0]
    ):
        way = trace[-1] - trace[0]
        chord = window.to_frame(np.array([trace[0], trace[-1]]) + 0.5)
        lines.append(
            Line(
                chord,
                window.to_frame(trace[::3] + 0.5),
                chord,
                amount,
                float(np.degrees(np.arctan2(way[1], way[0])) % 180),
            )
        )
    cloud = np.clip(np.concatenate(found.traces), 0, np.array(luma.shape[::-1]) - 1.0)
    (x0, y0), (x1, y1) = cloud.min(axis=0), cloud.max(axis=0)
    contrast = 2 * float(np.std(luma[int(y0) : int(y1) + 1, int(x0) : int(x1) + 1]))
    bands = tuple(
        (2.0**-octave, min(contrast, 60) / 2.55 / 2 * min(1.0, swing / 4) * part, 0.0)
        for octave, part in ((2, 0.35), (3, 0.6), (4, 0.6))
    )
    length = float(max(len(trace) for trace in found.traces))
    return Reading(
        "line",
        score,
        window.box_to_frame(x0, y0, x1 - x0, y1 - y0),
        window.to_frame(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])),
        Signal(bands, length, length * 8 * len(lines), swing),
        Measure(
            "by how much edges turn one way and back again",
            found.turning,
            "degrees",
            natural_range(found.nature, found.null),
        ),
        Lines(
            what="wave",
            whole=True,
            lines=tuple(lines),
            count=len(lines),
            contrast=contrast,
            from_both_sides=False,
            horizon=False,
            amount=swing,
            degrees=found.turning,
        ),
    )


def course_reading(window: Window, course: Course, score: float, natural: np.ndarray) -> Reading:
    """What a fill's edges say that leave their vanishing point together, as one reading."""
    ends = course.lines.reshape(-1, 2)
    # What ends at the frame's edge may be reported a little beyond it.
    ends = np.clip(ends, 0, np.array(window.luma_result.shape[::-1]) - 1.0)
    (x0, y0), (x1, y1) = ends.min(axis=0), ends.max(axis=0)
    length = float(
        np.hypot(
            course.lines[:, 2] - course.lines[:, 0], course.lines[:, 3] - course.lines[:, 1]
        ).max()
    )
    offset = length * abs(float(np.sin(np.radians(course.degrees)))) / 2
    lines = []
    for line, toward in zip(course.lines[:12], course.toward[:12], strict=True):
        middle, half = (line[:2] + line[2:]) / 2, float(np.hypot(*(line[2:] - line[:2]))) * 0.8
        path = window.to_frame(np.array([line[:2], line[2:]]) + 0.5)
        lines.append(
            Line(
                path,
                path,
                window.to_frame(np.array([middle - half * toward, middle + half * toward]) + 0.5),
                abs(course.degrees),
                float(np.degrees(np.arctan2(toward[1], toward[0])) % 180),
            )
        )
    luma = window.luma_result
    contrast = float(np.std(luma[int(y0) : int(y1) + 1, int(x0) : int(x1) + 1])) * 2
    bands = tuple(
        (2.0**-octave, min(contrast, 60) / 2.55 / 2 * min(1.0, offset / 3) * part, 0.0)
        for octave, part in ((2, 0.35), (3, 0.6), (4, 0.6))
    )
    return Reading(
        "line",
        score,
        window.box_to_frame(x0, y0, x1 - x0, y1 - y0),
        window.to_frame(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])),
        Signal(bands, max(float(x1 - x0), float(y1 - y0)), length * 8 * len(course.lines), offset),
        Measure(
            "how far courses leave their vanishing point",
            abs(course.degrees),
            "degrees",
            natural_range(natural, NULL),
        ),
        CourseEvidence(
            what="course",
            lines=tuple(lines),
            count=len(course.lines),
            contrast=contrast,
            from_both_sides=False,
            horizon=False,
            degrees=abs(course.degrees),
            spread_degrees=course.spread,
            vanishing_point=None
            if course.point is None
            else window.to_frame(course.point[None])[0],
        ),
    )


def line_reading(
    window: Window, bundle: list[tuple[float, Break]], nature: dict[str, np.ndarray]
) -> Reading:
    """Lines that are broken alike, the surest first, as one reading."""
    score, known = bundle[0]
    # Several lines broken alike are less likely chance than one.
    score = 1 - (1 - score) * 0.75 ** (len(bundle) - 1)
    half, _, unit = HALVES[known.what]
    values = nature[FAINT if known.faint and known.what == "missing" else known.what]
    natural = natural_range(values, NULL) if len(values) else Natural(0.0, half, 0, "none")
    points, lines = [], []
    for _, one in bundle[:12]:
        ends = [end.tolist() for end in one.ends]
        trace = one.trace.tolist()
        points += ends + trace
        if len(ends) > 1:
            beyond = ends[1]
        else:
            # From one side only: as far on as it was followed, the way it came in.
            way = np.array([np.cos(np.radians(one.angle)), np.sin(np.radians(one.angle))])
            beyond = (
                one.ends[0] + ((one.trace[-1] if trace else one.ends[0]) - one.ends[0]) @ way * way
            )
        lines.append(
            Line(
                window.to_frame(np.array(ends) + 0.5),
                window.to_frame(np.array(trace).reshape(-1, 2) + 0.5) if trace else [],
                window.to_frame(np.array([ends[0], beyond]) + 0.5),
                one.amount,
                one.angle,
            )
        )
    cloud = np.array(points, float)
    (x0, y0), (x1, y1) = cloud.min(axis=0) - 4, cloud.max(axis=0) + 4
    x0, y0, x1, y1 = (
        max(x0, 0.0),
        max(y0, 0.0),
        min(x1, window.mask.shape[1] - 1.0),
        min(y1, window.mask.shape[0] - 1.0),
    )
    length = float(sum(one.length for _, one in bundle))
    # An edge of so much contrast, seen as a step: half of it in every octave would be a line; the
    # eye takes the coarse ones.
    lightness = known.contrast / 2.55 / 2
    # A small jump shows only as much of the edge as it moved.
    shown = min(1.0, known.amount / 4) if known.what in ("offset", "wave") else 1.0
    bands = tuple(
        (2.0**-octave, lightness * shown * part, 0.0)
        for octave, part in ((2, 0.35), (3, 0.6), (4, 0.6))
    )
    offset = (
        known.amount
        if known.what in ("offset", "wave")
        else known.length * float(np.sin(np.radians(known.amount))) / 2
        if known.what in ("kink", "tilt")
        else 0.0
    )
    return Reading(
        "line",
        float(score),
        window.box_to_frame(x0, y0, x1 - x0, y1 - y0),
        window.to_frame(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])),
        Signal(bands, length, length * 8, offset),
        Measure(NAMES[known.what], known.amount, unit, natural),
        Lines(
            what=known.what,
            lines=tuple(lines),
            count=len(bundle),
            contrast=known.contrast,
            from_both_sides=known.paired,
            faint=known.faint,
            horizon=known.what == "tilt"
            and min(known.angle, 180 - known.angle) < 6
            and known.length > 0.2 * window.frame[1],
            degrees=known.amount if unit == "degrees" else None,
            amount=None if unit == "degrees" else known.amount,
            entries=[one.ends[0] for _, one in bundle] if known.what == "offset" else (),
            certain=known.what == "wave" and known.sure > CERTAIN,
        ),
    )
