"""Line: an edge, board, rail or horizon that breaks off, is displaced or kinks where it enters the
fill.

Segments (Grompone von Gioi and others 2010, as in OpenCV) that run up to the fill from outside and
are steady there are followed
inward. Their cross profile is the template: at steps along the way it is sought to both sides by
normalised correlation.
A *pair* are two segments from opposite sides that lie on one line with the same profile (the second
is looked for behind the fill where none was found):
then the edge must be there along the chord, and may be *missing*, *offset*, run at an angle to it
(*tilt*, of a horizon above all) or swing about it (*wave*: a board
that undulates). From *one side* an edge is called that goes on beside its line (*offset*) or turns
away (*kink*); that it ends proves nothing, unless others like it are missing
between both sides. *Courses* (boards, bricks, tiles) that leave their vanishing point are
`vanishing.departures`; a fill that is displaced or
turned as a whole is `displaced`; edges that stand out of busy ground only over their length are
`faint_lines`; what bends to and fro, followed or not, is `waves`. The null is the
same walk at the same outline placed over untouched parts of the result. A wide region in which
nothing stands is looked at once more, reduced.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..evidence import Course as CourseEvidence
from ..evidence import Lines
from ..features.lines.agreeing import ASKEW, BENT, MISTAKEN, doubted, said_once
from ..features.lines.breaks import Break, breaks_of
from ..features.lines.displaced import Displaced, displaced
from ..features.lines.gone import ENDS, FAINT, FAINT_MOST, WAYS, faint_breaks
from ..features.lines.rays import LARGE, segments_of
from ..features.lines.readings import (
    course_reading,
    displaced_reading,
    enlarged,
    line_reading,
    waved_reading,
)
from ..features.lines.standing import HALVES, score_of_break, seen_wide, stands
from ..features.lines.vanishing import departures, vanishing_points
from ..features.lines.waves import LEAST_PLACES, Waves, waves, waves_across
from ..features.rim.nulls import Controls, controls_of
from ..null import score_of
from ..report import Abstention, Reading
from ..scene.carriers import Carriers
from ..scene.window import Window

CONTROLS = 12
#: How many lines that run true from end to end, within so many pixels, speak against one that
#: swings.
_RUN_TRUE, _TRULY = 4, 0.75
_SEED = 20263
#: Boundaries shorter than this, pixels, match by chance sooner: there both must stand out by more
#: (of 88 clean fills of 26 and 36 px on photographs one in eight was reported).
_SHORT = 160.0
#: What is left of the score of lines that do not stand, seen from one side and from both: how near
#: they came says next to nothing from one (in clean results as near as in broken
#: ones) and little from both, and must not hide what all that crosses the boundary says together.
_HINTED = {False: 0.002, True: 0.3}
#: Wider and higher regions than this, pixels, are looked at reduced too: how far a
#: line jumps, bends or turns is seen against its length, and across a wide region
#: even a small turn throws it far off.
WIDEST = 420


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """Readings for broken lines; parallel lines that break alike are one, and so is all that breaks
    because the fill is displaced as a whole or undulates. See the module's
    docstring."""
    part = -(-min(cv2.boundingRect(window.filled.view(np.uint8))[2:]) // WIDEST)
    if part < 2:
        return _measure(window)
    small = window.reduced(part)
    straight = segments_of(small.luma_result, small.filled)
    # What is straight over a long way in a large window is so in a reduced one, and its place
    # is refined by `rays_of`.
    near = _measure(
        window,
        straight * part + (part - 1) / 2 if min(window.mask.shape) > LARGE else None,
        wide=True,
    )
    for reading in [] if isinstance(near, Abstention) else near:
        if not _several(reading):
            reading.score = min(reading.score, FAINT_MOST)
    stands = lambda found: (
        not isinstance(found, Abstention) and any(reading.score >= 0.5 for reading in found)
    )
    if stands(near):
        return near
    far = _measure(small, straight, wide=True, faint=True, bends=window.shared.get("bending"))
    if isinstance(far, Abstention):
        return near
    found = [enlarged(reading, window, part) for reading in far]
    return (
        found
        if stands(found) or isinstance(near, Abstention)
        else sorted([*near, *found], key=lambda reading: -reading.score)
    )


def _several(reading: Reading) -> bool:
    """Whether a reading of a wide region, seen so closely that a line's other end is out of sight,
    is more than one line by itself or some that turn at one end.
    """
    shown = reading.shown(Lines)
    return bool(shown.whole) or (
        shown.count > 1 and (shown.from_both_sides or shown.what == "offset")
    )


def _whole(window: Window, controls: Controls) -> tuple[Displaced | None, list[Reading]]:
    """How a fill is displaced or is changed as a whole, and at most one reading of it."""
    displacement = displaced(controls) if controls.rims else None
    return displacement, [] if displacement is None else [
        displaced_reading(window, displacement, max(1.0, _shorter(controls)))
    ]


def _shorter(controls: Controls) -> float:
    """How many times shorter than `_SHORT` the longest boundary is."""
    return _SHORT / max(16.0, max((len(rim) * rim.step for rim in controls.rims), default=_SHORT))


def _bending(window: Window, area: np.ndarray, places: list[tuple[int, int]]) -> Waves | None:
    """How far all that lies in an area bends to and fro; `places`: where it lies over untouched
    ground. Kept with the window.
    """
    known = (
        waves_across(window.luma_result, area, window.apart)
        if len(places) < LEAST_PLACES
        else waves(window.luma_result, area, window.apart, places)
    )
    window.shared["bending"] = known
    return known


def _measure(
    window: Window,
    segments: np.ndarray | None = None,
    wide: bool = False,
    faint: bool = False,
    bends: Waves | None = None,
) -> list[Reading] | Abstention:
    """`segments`: as of `segments_of`, where they are known; `wide`: of a wide region; no place
    about it is large enough to say how things go on across so much, so more must be
    seen, and what is seen over its length only is looked for only where `faint`, which is by a part
    of its size; `bends`: as of `_bending` at its full size, then.
    """
    area = cv2.morphologyEx(
        window.filled.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8)
    ).astype(bool)
    if not area.any():
        return Abstention("the region has no boundary inside the picture")
    places = window.room.places(area, CONTROLS, _SEED)
    lines, steady = by_lines(
        window,
        segments_of(window.luma_result, area) if segments is None else segments,
        area,
        places,
        wide,
        faint or not wide,
    )
    controls = controls_of(window)
    displacement, wholes = _whole(window, controls)
    found = bends if wide and faint else _bending(window, area, places)
    # Reduced, no more would be seen than was.
    waved = (
        waved_reading(window, found, max(1.0, _shorter(controls)) ** 0.5)
        if found is not None and found.traces and not (wide and faint)
        else None
    )
    if waved is not None and steady:
        # Straight lines that cross bend nowhere, though which way edges run turns where they do.
        waved.score = min(waved.score, MISTAKEN)
    if not isinstance(lines, Abstention):
        if waved is not None and found is not None and found.far >= BENT and not steady:
            # Edges that swing away and back are taken for ones that jump, turn or end: together
            # both say more than each.
            waved.score = max(
                waved.score,
                *(
                    0.95 * reading.score
                    for reading in lines
                    if reading.score >= 0.5 and reading.evidence.what in ASKEW
                ),
                0.0,
            )
        doubted(lines, displacement, found, wide)
    standing = said_once(
        [
            reading
            for reading in ([] if isinstance(lines, Abstention) else lines)
            if reading.score >= 0.5
        ]
    )
    if not standing:
        hints = [] if isinstance(lines, Abstention) else lines[:1]
        for hint in hints:
            hint.score *= _HINTED[bool(hint.shown(Lines).from_both_sides)]
        standing = [reading for reading in wholes if reading.score >= 0.5]
        if not standing:
            options = [*wholes, *([waved] if waved is not None else []), *hints]
            return [max(options, key=lambda reading: reading.score)] if options else lines
    elif wholes and wholes[0].score >= 0.5:
        # One flaw: straight edges show it best, and what crosses the boundary elsewhere confirms
        # it.
        standing[0].score = max(standing[0].score, wholes[0].score)
    if waved is None or waved.score < 0.5:
        return standing
    # One flaw: a line that was followed shows it best, and edges that swing away and back were
    # taken for ones that jump, turn or end.
    shown = next((reading for reading in standing if reading.evidence.what == "wave"), waved)
    shown.score = max(waved.score, *(reading.score for reading in standing))
    return [shown]


def by_lines(
    window: Window,
    segments: np.ndarray,
    area: np.ndarray,
    places: list[tuple[int, int]],
    wide: bool = False,
    with_faint: bool = True,
) -> tuple[list[Reading] | Abstention, bool]:
    """What lines show, and whether so many run true from end to end that nothing in the fill
    undulates.
    """
    luma = cv2.GaussianBlur(window.luma_result, (0, 0), 0.7)
    courses = (
        _courses(window, segments, area, places)
        if len(segments) and len(places) >= _KNOWN_COURSES
        else []
    )
    found = breaks_of(segments, area, luma)
    nature: dict[str, list[float]] = {what: [] for what in HALVES}
    ends: list[float] = []
    ways: list[tuple[float, float]] = []
    alone = 0
    for dx, dy in places if found else ():
        moved = cv2.warpAffine(
            area.astype(np.uint8), np.array([[1, 0, dx], [0, 1, dy]], np.float32), area.shape[::-1]
        ).astype(bool)
        for known in breaks_of(segments, moved, luma):
            alone += not known.paired
            ways.append((known.angle, known.amount if known.what == "missing" else 0.0))
            # A line that was found to go on is a case of nothing missing and of no turn.
            if known.what in ("offset", "tilt", "wave"):
                for what, amount in zip(
                    ("offset", "wave", "tilt"),
                    known.deviation if known.paired else (known.amount, 0.0, 0.0),
                    strict=True,
                ):
                    nature[what].append(amount)
                nature["missing"].append(0.0)
                nature["kink"].append(0.0)
            elif known.what == "missing" and not known.paired:
                ends.append(known.amount)
            else:
                nature[known.what].append(known.amount)
    # That a line ends somewhere is common; that it is there again behind, in one line, is not.
    values = {
        what: np.array(amounts)
        for what, amounts in [*nature.items(), (ENDS, [*nature["missing"], *ends])]
    }
    values[WAYS] = np.array(ways).reshape(-1, 2)
    scored = [(score_of_break(known, values, window.lossy), known) for known in found]
    # What was followed from one end to the other and goes on needs no second look. What lies or
    # swings beside its line may be another, and its own be gone.
    followed = [
        known for known in found if known.paired and known.amount < HALVES[known.what][0] / 2
    ]
    faint, values[FAINT] = (
        faint_breaks(window.luma_result, area, places, followed)
        if with_faint
        else ([], np.empty(0))
    )
    scored = [*scored, *faint]
    scored = sorted(seen_wide(scored) if wide else scored, key=lambda pair: -pair[0])
    if not scored:
        return courses or Abstention(
            f"no straight edge runs up to the region{' that is steady outside' if len(segments) else ''}"
        ), False
    bundles: list[list[tuple[float, Break]]] = []
    for score, known in scored:
        if score < 0.5:
            break
        for bundle in bundles:
            turn = abs(bundle[0][1].angle - known.angle) % 180
            if bundle[0][1].what == known.what and min(turn, 180 - turn) < 8:
                bundle.append((score, known))
                break
        else:
            bundles.append([(score, known)])
    # A single line seen from one side is not enough to call a kink, nor anything where little is
    # known of how lines go on here. And that lines end, seen from one side, is no
    # flaw however many they are: a curb may end where the thing stood.
    bundles = [
        bundle
        for bundle in bundles
        if any(one.paired for _, one in bundle) or stands(bundle, alone)
    ]
    # Of a line whose other end is hidden, what lies beside it may be another: one alone says
    # nothing.
    chance = [
        bundle
        for bundle in bundles
        if len(bundle) == 1 and bundle[0][1].hidden and bundle[0][1].what not in ("missing", "wave")
    ]
    if chance:
        bundles = [bundle for bundle in bundles if bundle not in chance]
        scored = [
            pair for pair in scored if all(pair[1] is not bundle[0][1] for bundle in chance)
        ] or [(0.0, scored[0][1])]
    # Where a fill undulates, all in it does: a line that swings among several that run true is one
    # that was mistaken on its way.
    true = sum(
        known.what == "offset" and known.paired and max(known.amount, *known.deviation[:2]) < _TRULY
        for known in found
    )
    if true >= _RUN_TRUE:
        bundles = [
            bundle
            for bundle in bundles
            if bundle[0][1].what != "wave"
            or bundle[0][1].faint
            or (len(bundle) > 1 and 3 * len(bundle) > true)
        ]
    turned = (
        courses[0].shown(CourseEvidence).degrees or 0.0
        if courses and courses[0].score >= 0.5
        else 0.0
    )
    if turned and any(
        bundle[0][1].what in ("tilt", "kink") and abs(bundle[0][1].amount - turned) < 2.0
        for bundle in bundles
    ):
        # The lines that tilt or kink are the courses that left their point: one flaw.
        bundles = [
            bundle
            for bundle in bundles
            if bundle[0][1].what not in ("tilt", "kink") or abs(bundle[0][1].amount - turned) >= 2.0
        ]
        if not bundles:
            return courses, False
    if not bundles and scored[0][0] >= 0.5:
        scored[0] = (MISTAKEN, scored[0][1])
    steady = true >= _RUN_TRUE and all(bundle[0][1].what != "wave" for bundle in bundles)
    return [
        *(
            [line_reading(window, bundle, values) for bundle in bundles[:4]]
            or [line_reading(window, scored[:1], values)]
        ),
        *courses,
    ], steady


#: Degrees at which courses that leave their vanishing point score a half, and the width.
_COURSE_HALF, _COURSE_WIDTH = 1.5, 0.2
#: At how many places elsewhere it must be known how far the surroundings' own courses lie off.
_KNOWN_COURSES = 4


def _courses(
    window: Window, segments: np.ndarray, area: np.ndarray, places: list[tuple[int, int]]
) -> list[Reading]:
    """At most one reading: the fill's straight edges, all off by one angle from the vanishing point
    that the surroundings' share.
    """
    outside = vanishing_points(segments, ~window.apart)
    if outside is None:
        return []
    found = departures(segments, area, outside)
    if not found:
        return []
    # The surroundings' own courses in the same outline, and how far they lie off.
    natural = []
    for dx, dy in places:
        moved = cv2.warpAffine(
            area.astype(np.uint8), np.array([[1, 0, dx], [0, 1, dy]], np.float32), area.shape[::-1]
        ).astype(bool)
        natural += [abs(one.degrees) for one in departures(segments, moved, outside)][:1]
    if len(natural) < _KNOWN_COURSES:
        return []
    half = max(_COURSE_HALF, 1.25 * float(np.quantile(natural, 0.95)))
    course = found[0]
    score = float(score_of(np.array(abs(course.degrees)), half, _COURSE_WIDTH))
    # Fewer than five edges, or edges that do not agree among themselves, may be chance.
    score *= float(np.clip(len(course.lines) / 5, 0.5, 1.0)) * float(
        np.clip(1.6 - course.spread / 1.5, 0.3, 1.0)
    )
    return [course_reading(window, course, score, np.array(natural))]
