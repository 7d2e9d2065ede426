"""Whether what one line shows is seen in others, or anywhere else in the same line."""

from __future__ import annotations

import numpy as np

from ...evidence import Line, Lines
from ...report import Reading
from .displaced import Displaced
from .waves import SURE, Waves

#: What a line scores at most that was taken for another.
MISTAKEN = 0.01
#: How far ground must be displaced, or bend to and fro, to corroborate one line alone (training
#: photographs: true ones are above 0.8 and 1.0, mistaken ones below 0.2 and 0.65). In busy
#: ground of which edges turn by so many degrees anyway, less is asked of what a line that swings is
#: part of, but not where squares of it were all that could be compared.
_LIES, _BENDS, _BUSY, _BENDS_BUSY = 0.5, 0.8, 2.0, 0.3
#: How far ground must be displaced to corroborate one line that swings across a wide fill (20
#: photographs: true ones .19 to .41, ridges that are whole up to .18).
_LIES_WIDE = 0.25
#: As what a line that is part of a wave may be taken; and how far ground must bend to and fro for
#: that (of 483 clean readings of photographs none does and has such a line).
ASKEW, BENT = ("offset", "kink", "tilt"), 0.6


def _corroborated(
    reading: Reading, displacement: Displaced | None, waves: Waves | None, certain: bool = False
) -> bool:
    """Whether what one line shows is seen in all that crosses the boundary, or in all that lies
    inside: one line alone may have been taken for another beside it. That it is
    missing says nothing of the rest, nor that it swings away where it is known to be missing; nor
    does anything where the rest is not known.
    """
    what = reading.evidence.what
    if what == "wave" and (reading.shown(Lines).faint or certain):
        return True
    across = waves is not None and waves.null == "surround"
    lies = displacement is None or displacement.far >= (
        _LIES_WIDE if across and what == "wave" else _LIES
    )
    bends = waves is None or waves.far >= (
        SURE if across else _BENDS_BUSY if waves.turning >= _BUSY else _BENDS
    )
    return lies or (bends and what == "wave") if what in (*ASKEW, "wave") else True


def said_once(standing: list[Reading]) -> list[Reading]:
    """Without what is seen over its length only to be missing where the same line was followed and
    lies, turns or swings beside its own.
    """
    way = lambda line: (
        np.subtract(line.ends[1], line.ends[0])
        if len(line.ends) > 1
        else np.array([np.cos(np.radians(line.angle)), np.sin(np.radians(line.angle))])
    )

    def same(faint: Line, other: Line) -> bool:
        turn = abs(faint.angle - other.angle) % 180
        across = np.array([-way(other)[1], way(other)[0]]) / max(float(np.hypot(*way(other))), 1e-6)
        return (
            min(turn, 180 - turn) < 6
            and abs(float((np.mean(faint.ends, axis=0) - other.ends[0]) @ across)) < 10
        )

    followed = [
        line
        for reading in standing
        if not reading.shown(Lines).faint
        for line in reading.shown(Lines).lines
    ]
    kept = [
        reading
        for reading in standing
        if not reading.shown(Lines).faint
        or not all(
            any(same(line, other) for other in followed) for line in reading.shown(Lines).lines
        )
    ]
    return kept


def doubted(
    lines: list[Reading], displacement: Displaced | None, waves: Waves | None, wide: bool = False
) -> None:
    """Lines that do not stand by themselves score less than a half where the rest of the fill
    speaks against them. Across a wide region a ridge swings by nature however plain it
    is that it is the same, and no place around is as wide to say so."""
    for reading in lines:
        shown = reading.shown(Lines)
        certain = shown.certain and not wide
        doubted = shown.count == 1 and not _corroborated(reading, displacement, waves, certain)
        if (
            displacement is not None
            and shown.what == "offset"
            and not (shown.from_both_sides and shown.count > 1)
        ):
            # Farther in another line was taken for it: where it enters the fill, it goes on.
            # Several that are known from both sides bend.
            doubted = doubted or all(
                displacement.goes_on(entry, reading.measure.value) for entry in shown.entries
            )
        if doubted:
            reading.score = min(reading.score, MISTAKEN)
