"""Lines, bars and thin lines seen over their length only, and whether they are missing inside."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...null import score_of
from .breaks import Break
from .faint import FaintLine, faint_lines

#: What is natural for faint lines stands under this name, for lines that end, seen from one side,
#: under that; and which way each goes and how much of it is gone, degrees and
#: share, under the last.
FAINT, ENDS, WAYS = "faint", "ends", "ways"

#: Of faint lines: the part missing from which one is looked at again, and how much more of it must
#: be to count in full; what is there the other way round is another thing: from
#: how much on it counts less, and over how much; at which the score is a half (and where little is
#: known of how others go on), and the spreads at which it is.
_FAINT_FROM, _FAINT_WIDE, _OTHER_WAY, _FAINT_HALVES, _FAINT_SURE = (
    0.4,
    0.3,
    (1.4, 0.5),
    (0.55, 0.65),
    2.8,
)

#: Up to how uneven a line counts for what it is, how many spreads more it must be sure of for each
#: such part more, and from where on a single one is none however sure.
_EVEN, _UNEVEN, _TOO_UNEVEN = 0.35, 20.0, 0.6

#: How sure a faint edge must be that has no second beside it, as a bar, a track or a kerb has; what
#: it may score else.
_FAINT_ALONE, FAINT_MOST = 3.0, 0.45

#: How much surer than the surest that ends by nature.
_ONCE = 1.2

#: Bars that run within so many degrees are alike; less of one is missing where it goes on; and so
#: many must be known to say how often such bars end by nature.
ALIKE_BARS, _GOES_ON, _BARS_KNOWN = 9.0, 0.35, 4

#: Thin lines: what one must stand out by at least and how uneven it may be at most to be known, how
#: many of its course (within so many degrees) must be known to say how they go on
#: here; the part missing at which the score is a half then, at least, how much above what is
#: missing of nineteen in twenty of them; the same where too few are known; the width;
#: and by how many spreads less must be there.
_THIN_CLEAR, _THIN_EVEN, _THIN_KNOWN, _COURSE_OF = 4.5, 0.45, 4, 20.0

_THIN_HALF, _THIN_ABOVE, _THIN_ALONE, _THIN_WIDTH, _THIN_SURE = 0.25, 0.15, 0.75, 0.05, 2.5

#: How far from a bar's middle its own edges lie beside half its width, pixels.
_OF_A_BAR = 6.0


def spreads_gone(line: FaintLine) -> float:
    """By how many spreads less of an edge is there than should be, if it is mostly missing: what
    nature lays across one leaves some of it.
    """
    other = float(np.clip(1 - (line.missing - _OTHER_WAY[0]) / _OTHER_WAY[1], 0, 1))
    return line.sure * float(np.clip((line.missing - _FAINT_FROM) / _FAINT_WIDE, 0, 1)) * other


def _asked(line: FaintLine, sure: float) -> float:
    """How sure an uneven line must be where an even one must be so sure."""
    return sure + _UNEVEN * max(0.0, line.uneven - _EVEN)


def faint_breaks(
    luma: np.ndarray, area: np.ndarray, places: list[tuple[int, int]], known: list[Break]
) -> tuple[list[tuple[float, Break]], np.ndarray]:
    """Edges and bars seen over their length only that are not there inside, with scores, none that
    were followed already; and how much of others is missing at untouched
    places."""

    def new(line: FaintLine) -> bool:
        middle = line.ends.mean(axis=0)
        for one in known:
            turn = abs(one.angle - line.angle) % 180
            across = np.array([-np.sin(np.radians(one.angle)), np.cos(np.radians(one.angle))])
            if (
                min(turn, 180 - turn) < 6
                and abs(float((middle - one.ends[0]) @ across)) < 10 + line.width / 2
            ):
                return False
        return True

    lines = faint_lines(luma, area, [(0, 0)])[0]
    broken = [
        line
        for line in lines
        if line.missing > (_THIN_HALF / 2 if line.thin else _FAINT_FROM) and new(line)
    ]
    if not broken:
        return [], np.empty(0)
    # Where things that lie in one line by chance, or lines that nature interrupts, are seen so at
    # untouched places, more is asked for.
    others = [line for some in (faint_lines(luma, area, places) if places else []) for line in some]
    natural = np.array([spreads_gone(line) for line in others if not line.width])
    most = _ONCE * max((spreads_gone(line) for line in others if not line.thin), default=0.0)
    known_well = len(natural) >= 5
    sure = max(_FAINT_SURE, 1.2 * float(np.quantile(natural, 0.95))) if known_well else _FAINT_SURE
    half = _FAINT_HALVES[not known_well]
    edges, bars = (
        [line for line in broken if bool(line.width) == wide and not line.thin]
        for wide in (False, True)
    )
    whole = [(bar_gone(bar, lines, others, half), bar) for bar in bars]
    scored = [
        (score, line)
        for line in broken
        if line.thin and (score := thin_gone(line, others if places else [])) > 0
    ]
    thin = [line for score, line in scored if score >= 0.5]
    for line in edges:
        if any(_edge_of(line, other) for other in thin):
            continue
        score = float(score_of(np.array(line.missing), half, 0.07)) * float(
            score_of(np.array(spreads_gone(line)), _asked(line, sure), 0.35)
        )
        paired = any(
            other.sure > _FAINT_SURE and other.turned(line) < 8
            for other in edges
            if other is not line
        )
        if not paired and (
            line.uneven > _TOO_UNEVEN
            or line.sure < max(_asked(line, _FAINT_ALONE), most)
            or not places
        ):
            # What lies beside its line may well be another, a single one that ends by nature
            # elsewhere is enough to ask for more, and where no other place says how edges go on
            # here, two that end in one line need not be one.
            score = min(score, 0.45 if line.offset else FAINT_MOST)
        scored.append(
            (max([score, *(sure_of for sure_of, bar in whole if _edge_of(line, bar))]), line)
        )
    # A bar is judged by its edges where they are known.
    scored += [
        (score, bar) for score, bar in whole if not any(_edge_of(line, bar) for line in edges)
    ]
    found = []
    for score, line in scored:
        facts: dict[str, Any] = dict(
            sure=line.sure,
            ends=tuple(line.ends),
            contrast=line.contrast,
            length=line.length,
            angle=line.angle,
            paired=True,
            faint=True,
        )
        across = np.array([-np.sin(np.radians(line.angle)), np.cos(np.radians(line.angle))])
        if line.trace is not None:
            found.append(
                (
                    score,
                    Break(
                        "wave",
                        line.swing,
                        trace=line.trace,
                        deviation=(0.0, line.swing, 0.0),
                        **facts,
                    ),
                )
            )
            continue
        trace = line.ends + line.offset * across if line.offset else np.empty((0, 2))
        found.append(
            (
                score,
                Break(
                    "offset" if line.offset else "missing",
                    abs(line.offset) if line.offset else float(np.clip(line.missing, 0, 1)),
                    trace=trace,
                    **facts,
                ),
            )
        )
    return found, np.array([float(np.clip(line.missing, 0, 1)) for line in others])


def thin_gone(line: FaintLine, others: list[FaintLine]) -> float:
    """How surely a thin line that is not there inside, or not straight, should be, 0..1: others of
    its course, at untouched places, say how such lines go on here.
    """
    known = lambda one: one.thin and one.clear >= _THIN_CLEAR and one.uneven <= _THIN_EVEN
    if not known(line):
        return 0.0
    course = [other.missing for other in others if known(other) and other.turned(line) < _COURSE_OF]
    half = (
        max(_THIN_HALF, float(np.quantile(course, 0.95)) + _THIN_ABOVE)
        if len(course) >= _THIN_KNOWN
        else _THIN_ALONE
    )
    return float(score_of(np.array(line.missing), half, _THIN_WIDTH)) * float(
        score_of(np.array(line.sure), _THIN_SURE, 0.35)
    )


def _edge_of(line: FaintLine, bar: FaintLine) -> bool:
    return line.beside(bar, 8.0) < bar.width / 2 + _OF_A_BAR


def bar_gone(bar: FaintLine, lines: list[FaintLine], others: list[FaintLine], half: float) -> float:
    """How surely a bar that ends in a fill should go on, 0..1."""
    if any(
        other.width
        and not other.thin
        and other.missing < _GOES_ON
        and other.turned(bar) < ALIKE_BARS
        for other in lines
    ):
        # Bars that run alike go on: what ends may be two of them that end in one line.
        return 0.0
    alike = [
        spreads_gone(other)
        for other in others
        if other.width and not other.thin and other.turned(bar) < ALIKE_BARS
    ]
    nature = float(np.quantile(alike, 0.95)) if len(alike) >= _BARS_KNOWN else 0.0
    return float(score_of(np.array(bar.missing), half, 0.07)) * float(
        score_of(np.array(spreads_gone(bar) - nature), _asked(bar, _FAINT_SURE), 0.35)
    )
