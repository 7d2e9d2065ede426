"""What was found over time in one region."""

from __future__ import annotations

import numpy as np

from ..report import Measure
from ..report.contents import Abstention
from ..visibility import Size, word
from .courses import courses
from .deciding import reported, score
from .kinds.brightness import flicker, light
from .kinds.drift import drift
from .kinds.occlusion import occlusion
from .kinds.structure import boiling, pop, softening
from .kinds.trailing import shadow
from .part import Part
from .passing import find_passing
from .placing import placements
from .reading import Seen
from .repairs import repairs_first
from .report import OVER_TIME, InFrames, ShotFinding, ShotRegion
from .seeing import severity


def judged(part: Part, size: Size, frame: tuple[int, int]) -> ShotRegion:
    """What was found over time; the region's files stay.

    Args:
        frame: (width, height) of the original.
    """
    locked = part.locked
    find_passing(locked)
    covered = [
        number
        for number in range(len(locked))
        if (locked.covered[number] & locked.mask[number]).any()
    ]
    region = ShotRegion(
        part.name,
        part.bbox,
        part.moves,
        covered,
        1.0,
        dict.fromkeys(OVER_TIME, 0.0),
        {},
        [],
        part.carried(),
        repairs_first(locked),
    )
    known = courses(locked, placements(locked))
    outcomes: dict[str, Seen | Abstention] = {
        "drift": drift(known, locked),
        "flicker": flicker(known, locked),
        "pop": pop(known, locked),
        "boiling": boiling(known, locked),
        "softening": softening(known, locked),
        "light": light(known, locked),
        "occlusion": occlusion(locked),
        "shadow": shadow(locked),
    }
    seen = [one for one in outcomes.values() if isinstance(one, Seen)]
    for kind, outcome in outcomes.items():
        if isinstance(outcome, Abstention):
            region.abstained[kind] = outcome.reason
        else:
            region.scores[kind] = score(outcome)
    region.findings = [_finding(part, one, size, frame) for one in reported(seen)]
    return region


def _finding(part: Part, seen: Seen, size: Size, frame: tuple[int, int]) -> ShotFinding:
    first, worst, last = seen.frames()
    bad = severity(seen.change, size, frame)
    top = float(np.nanmax(seen.course))
    course = [
        None if not np.isfinite(one) else round(max(0.0, float(one) / max(top, 1e-9)), 3)
        for one in seen.course
    ]
    return ShotFinding(
        seen.kind,
        score(seen),
        bad,
        word(bad),
        InFrames(first, worst, last),
        part.bbox_in(worst),
        Measure(seen.name, seen.value, seen.unit, seen.natural),
        course,
    )
