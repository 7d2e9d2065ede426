"""Seam: a line or step where fill and surroundings meet, and textures that are cut off hard.

Two measures on the unrolled rim. *Step*: colour inside minus outside, as a signed CIELAB difference
read from narrow and wide bands on either side, each
weighted by how little it wanders by nature (Aitken 1935), averaged along
40 px, 110 px and the whole of the boundary, in units of what such differences come to on untouched
parts (Mahalanobis 1936). *Cut*: the
gradient across the boundary over that across its parallels 9 to 24 px away, as a logarithm. A hard
step is also read from pixel to pixel (`edges`). Each is
compared with the largest value that the same outline yields when placed over untouched parts of the
original.
"""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np

from ..evidence import Fades, Lab
from ..evidence import Rim as RimEvidence
from ..features.rim.alike import explained
from ..features.rim.edges import SEEN, UNSEEN, Edge, edge_of
from ..features.rim.nulls import (
    LENGTHS,
    Controls,
    beyond,
    controls_of,
    null_of,
    pieces_of,
    reported_at,
    rim_evidence,
)
from ..features.rim.removed import removed_direction
from ..features.rim.steps import Lines, course_of, lines, spread_of
from ..null import natural_range, score_of
from ..report import Abstention, Measure, Reading, Signal
from ..scene.boundary import Rim, ribbon
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "outline"
_HALF, _WIDTH = 5.0, 0.9
#: From so far on a step is reported as one, however far an edge stands out there.
_SURELY = 8.0
#: The same for hard steps (`edges`).
_EDGE_HALF = 3.5


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """Readings along the rims of the fill. See the module's docstring for the method.

    Returns:
        One reading for each stretch over the threshold, or the strongest one below it.
    """
    controls = controls_of(window)
    if not controls.rims:
        return Abstention("the region has no boundary inside the picture")
    step, temper, spread, placed = spread_of(controls)
    on_controls = {id(course.rim): lines(course, spread, judged=False) for course in placed}
    nulls = (
        null_of(controls, lambda rim: on_controls[id(rim)].step, (2.2, 2.8, 3.6)),
        null_of(controls, lambda rim: on_controls[id(rim)].cut, (1.4, 2.0, 2.8)),
    )
    readings: list[Reading] = []
    strongest: Reading | None = None
    for rim in controls.rims:
        if not rim.usable.any():
            continue
        found = lines(course_of(controls, rim, step).tempered(temper), spread)
        both = [
            beyond(amounts, null, rim.usable, 0.45)
            for amounts, (null, _) in zip((found.step, found.cut), nulls, strict=True)
        ]
        # An edge so faint that nobody sees it is no finding, however even the ground: two encodings
        # that meet leave one.
        far, level = both[1]
        both[1] = (far * found.seen[level, np.arange(len(rim))], level)
        edge = edge_of(controls, rim, window.judged)
        scores = score_of(np.maximum(both[0][0], both[1][0]), _HALF, _WIDTH)
        by_bands = scores
        if edge is not None:
            scores = np.maximum(scores, score_of(edge.far, _EDGE_HALF, _WIDTH))
        peak = int(np.argmax(scores))
        length = (
            LENGTHS[both[int(both[1][0][peak] > both[0][0][peak])][1][peak]] or len(rim) * rim.step
        )
        reach = max(4, int(length / rim.step / 2))
        if edge is not None and scores[peak] > by_bands[peak]:
            reach = max(
                4,
                int(
                    (LENGTHS[int(edge.level[peak]) % len(LENGTHS)] or len(rim) * rim.step)
                    / rim.step
                    / 2
                ),
            )
        read = partial(_reading, window, rim, controls, found, scores, both, nulls, edge, by_bands)
        best = read(peak - reach, min(peak + reach, peak - reach + len(rim)))
        if strongest is None or best.score > strongest.score:
            strongest = best
        readings += [
            explained(window, rim, read(start, end), controls.strip(rim))
            for start, end in pieces_of(scores >= 0.5, int(8 / rim.step))
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
    both: list[tuple[np.ndarray, np.ndarray]],
    nulls: tuple[tuple[np.ndarray, str], ...],
    edge: Edge | None,
    by_bands: np.ndarray,
    start: int,
    end: int,
) -> Reading:
    indices = rim.stretch(start, end)
    peak = indices[int(np.argmax(scores[indices]))]
    hard = edge.step(indices, len(rim)) if edge is not None else np.zeros(3)
    # A step of colour is an edge as well: where it is sure, it says more.
    by_cut = bool(both[0][0][peak] < min(both[1][0][peak], _SURELY))
    # Where both say so, the hard step is reported, which grows as it does; unless it is the texture's
    # end that is seen.
    if edge is not None and (
        scores[peak] > by_bands[peak] + 1e-3
        or (
            not by_cut
            and float(score_of(edge.far[peak], _EDGE_HALF, _WIDTH)) > by_bands[peak] - 0.02
        )
    ):
        return _hard_reading(
            window,
            rim,
            controls,
            scores,
            edge,
            hard,
            indices,
            start,
            end,
            float(by_bands[indices].max()),
        )
    level = int(both[by_cut][1][peak])
    signed = found.signed[int(both[0][1][peak])][indices].mean(axis=0)
    lightness, chroma = float(abs(signed[0])), float(np.hypot(signed[1], signed[2]))
    if by_cut:
        lightness = max(
            lightness,
            float(found.cut_plain[indices].mean() - np.median(found.cut_beside[indices])) / 2,
        )
    length = len(indices) * rim.step
    bands = _bands_of_step(lightness, chroma, length)
    polygon = window.to_frame(ribbon(rim, indices, 3, 3))
    (x, y), (x1, y1) = np.min(polygon, axis=0), np.max(polygon, axis=0)
    plain, beside = (
        (found.cut_plain, found.cut_beside) if by_cut else (found.step_plain, found.step_beside)
    )
    value = reported_at(
        (found.reported_cut if by_cut else found.reported_step)[level], scores, indices
    )
    natural = natural_range(nulls[by_cut][0][:, level], nulls[by_cut][1])
    shown = replace(
        rim_evidence(controls, rim, indices, plain, beside, start, 0.0),
        what="cut" if by_cut else "step",
        step=Lab(float(signed[0]), float(signed[1]), float(signed[2])),
    )
    return Reading(
        "seam",
        float(scores[indices].max()),
        [float(x), float(y), float(x1 - x), float(y1 - y)],
        polygon,
        Signal(bands, length, length * 8),
        Measure(
            "edge across the boundary" if by_cut else "colour step across the boundary",
            value,
            "natural spreads",
            natural,
        ),
        _fading(shown, window, edge, hard, indices, len(rim))
        if edge is not None and edge.far[peak] > _EDGE_HALF and scores[peak] >= 0.5
        else shown,
        stretch=(start, end),
    )


def _bands_of_step(
    lightness: float, chroma: float, length: float
) -> tuple[tuple[float, float, float], ...]:
    """A step of height h carries about 0.32 h in every octave (the Fourier series of a square
    wave).
    """
    return tuple(
        (2.0**-k, 0.32 * lightness, 0.32 * chroma) for k in range(1, 7) if 2.0**k < 4 * length
    )


def _hard_reading(
    window: Window,
    rim: Rim,
    controls: Controls,
    scores: np.ndarray,
    edge: Edge,
    hard: np.ndarray,
    indices: np.ndarray,
    start: int,
    end: int,
    by_bands: float,
) -> Reading:
    """A step between two pixels, which wider bands do not show."""
    peak = indices[int(np.argmax(scores[indices]))]
    level, length = int(edge.level[peak]), len(indices) * rim.step
    polygon = window.to_frame(ribbon(rim, indices, 3, 3))
    (x, y), (x1, y1) = np.min(polygon, axis=0), np.max(polygon, axis=0)
    size = float(np.linalg.norm(hard))
    # Along the boundary the shortest length shows best where the step lies.
    plain, natural = edge.shown(rim, level // len(LENGTHS))
    beside = np.broadcast_to(natural, (len(rim), len(natural)))
    # However even the ground, a step that nobody sees is none.
    score = float(scores[indices].max()) * float(np.clip((size - UNSEEN) / (SEEN - UNSEEN), 0, 1))
    shown = replace(
        rim_evidence(controls, rim, indices, plain, beside, start, 0.0),
        what="step",
        step=Lab(float(hard[0]), float(hard[1]), float(hard[2])),
        hard=True,
        by_bands=by_bands,
    )
    return Reading(
        "seam",
        score,
        [float(x), float(y), float(x1 - x), float(y1 - y)],
        polygon,
        Signal(
            _bands_of_step(abs(float(hard[0])), float(np.hypot(hard[1], hard[2])), length),
            length,
            length * 8,
        ),
        # What single pairs count for ends early, and what is reported must not.
        Measure(
            "colour step from pixel to pixel across the boundary",
            reported_at(edge.amounts[level], scores, indices)
            * max(1.0, size / float(edge.tempered[level, peak] + 0.05)),
            "natural spreads",
            natural_range(edge.null[:, level], NULL),
        ),
        # What is not reported has no name to be settled.
        _fading(shown, window, edge, hard, indices, len(rim)) if score >= 0.5 else shown,
        stretch=(start, end),
    )


def _fading(
    shown: RimEvidence,
    window: Window,
    edge: Edge,
    hard: np.ndarray,
    indices: np.ndarray,
    size: int,
) -> RimEvidence:
    """Whether a hard step is a ring's outer edge, and how far it has the removed thing's colour."""
    amount = max(float(np.linalg.norm(hard)), 1e-6)
    toward, ring = removed_direction(window), edge.ring(indices, size, hard)
    return replace(
        shown,
        fades=None
        if ring is None
        else Fades(ring.odds, ring.share, ring.natural, ring.centre, ring.width),
        likeness_to_removed=float(hard / amount @ toward) if toward is not None else 0.0,
    )
