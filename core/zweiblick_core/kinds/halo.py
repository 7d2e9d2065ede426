"""Halo: a light, dark or coloured rim; a fringe in the removed thing's colour.

A *ring* is the mean colour of a band near the boundary minus the mean of both its sides: a second
difference, which a plain
step leaves at zero. It is averaged along 40 px, 110 px and the whole of the boundary and taken in
units of what
such rings come to on untouched parts (Mahalanobis 1936); the part of it that points in the removed
thing's colour, as the original
shows it, is judged on its own by a matched filter. Both are compared with the largest value that
the same outline yields when placed over untouched
parts of the original.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..evidence import Ring
from ..features.rim.alike import explained
from ..features.rim.nulls import (
    LENGTHS,
    PARALLELS,
    Controls,
    beyond,
    controls_of,
    learn_spread,
    learn_temper,
    null_of,
    pieces_of,
    reported_at,
    rim_evidence,
)
from ..features.rim.removed import removed_direction
from ..features.rim.rings import ACROSS, MOST, RINGS, Lines, course_of, learn_rings, lines
from ..null import natural_range, score_of
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..scene.boundary import REACH, Rim, ribbon
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "outline"
#: Where what is natural is learnt: all distances at which a ring's colours lie on the strip.
_LEARNT = (0, *(c for c in PARALLELS if abs(c) <= REACH - ACROSS))
_HALF, _WIDTH, TAIL = 4.0, 0.9, 0.8


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """Readings along the rims of the fill. See the module's docstring for the method.

    Returns:
        One reading for each stretch over the threshold, or the strongest one below it.
    """
    controls = controls_of(window)
    if not controls.rims:
        return Abstention("the region has no boundary inside the picture")
    toward = removed_direction(window)
    first = controls.rims[0]
    ring = learn_rings(
        [(controls.strip(rim), _LEARNT, rim) for rim in controls.placed]
        or [(controls.strip(first), (-21, 21), first)]
    )
    placed = [course_of(controls, rim, ring) for rim in controls.placed]
    own = course_of(controls, first, ring)
    tempers = [
        learn_temper([one.read for one in placed] + [own.read[:, len(RINGS) :]], most)
        for most in MOST
    ]
    spreads = [
        learn_spread(
            [one.tempered(temper) for one in placed]
            + [[mean[:, len(RINGS) :] for mean in own.tempered(temper)]]
        )
        for temper in tempers
    ]
    on_controls = {
        id(course.rim): lines(course, ring, spreads, toward, judged=False).ring for course in placed
    }
    values, null = null_of(controls, lambda rim: on_controls[id(rim)], (2.4, 3.0, 3.8) * len(MOST))
    readings: list[Reading] = []
    strongest: Reading | None = None
    for rim in controls.rims:
        if not rim.usable.any():
            continue
        course = own if rim is own.rim else course_of(controls, rim, ring)
        for temper in tempers[len(course.means) :]:
            course.tempered(temper)
        found = lines(course, ring, spreads, toward)
        far, level = beyond(found.ring, values, rim.usable, 0.45, TAIL)
        scores = score_of(far, _HALF, _WIDTH)
        naturals = [natural_range(values[:, k], null) for k in range(values.shape[1])]
        peak = int(np.argmax(scores))
        reach = max(
            4, int((LENGTHS[level[peak] % len(LENGTHS)] or len(rim) * rim.step) / rim.step / 2)
        )
        best = _reading(
            window,
            rim,
            controls,
            found,
            scores,
            level,
            naturals,
            toward,
            peak - reach,
            min(peak + reach, peak - reach + len(rim)),
        )
        if strongest is None or best.score > strongest.score:
            strongest = best
        readings += [
            explained(
                window,
                rim,
                _reading(window, rim, controls, found, scores, level, naturals, toward, start, end),
                controls.strip(rim),
            )
            for start, end in pieces_of(scores >= 0.5, int(10 / rim.step))
        ]
    if strongest is None:
        return Abstention("the region's boundary runs along the picture's frame only")
    return readings or [strongest]


def _reading(
    window: Window,
    rim: Rim,
    controls: Controls,
    found: Lines,
    scores: np.ndarray,
    levels: np.ndarray,
    naturals: list[Natural],
    toward: np.ndarray | None,
    start: int,
    end: int,
) -> Reading:
    indices = rim.stretch(start, end)
    peak = indices[int(np.argmax(scores[indices]))]
    level = int(levels[peak])
    signed = found.signed[level][indices].mean(axis=0)
    centre, half = RINGS[int(found.which[level][peak])]
    width, length = 2 * half + 1, len(indices) * rim.step
    lightness, chroma = float(abs(signed[0])), float(np.hypot(signed[1], signed[2]))
    # A ring of width w is a band-pass pattern: most of it lies near 1/(2w), half of it an octave to
    # either side.
    bands = tuple(
        (factor / (2 * width), lightness * part, chroma * part)
        for factor, part in ((0.5, 0.5), (1.0, 1.0), (2.0, 0.5))
        if factor / (2 * width) <= 0.5
    )
    polygon = window.to_frame(ribbon(rim, indices, half + 1 - centre, half + 1 + centre))
    (x, y), (x1, y1) = np.min(polygon, axis=0), np.max(polygon, axis=0)
    likeness = (
        float(signed @ toward / (np.linalg.norm(signed) + 1e-6)) if toward is not None else 0.0
    )
    return Reading(
        "halo",
        float(scores[indices].max()),
        [float(x), float(y), float(x1 - x), float(y1 - y)],
        polygon,
        Signal(bands, length, length * width),
        Measure(
            "ring along the boundary",
            reported_at(found.reported[level], scores, indices),
            "natural spreads",
            naturals[level],
        ),
        replace(
            rim_evidence(controls, rim, indices, found.plain, found.beside, start, float(centre)),
            what="ring",
            ring=Ring(float(signed[0]), float(signed[1]), float(signed[2]), width, centre),
            likeness_to_removed=likeness,
        ),
        stretch=(start, end),
    )
