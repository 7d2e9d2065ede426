"""What a fill's departure from what it adjoins adds to what was found in it.

Where a finding says why the fill departs, it is as visible as that: a person sees the place, not the
statistic that fired. Where none does, the departure is a finding itself.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..evidence import Departs
from ..report import Reading, Signal
from .places import covered_share

#: What a fill may depart by, and the least share of it that must be covered. What is seen at the rim
#: says why a colour differs most, and lines why a direction does; of either alone it stays open why
#: the detail does.
SAYS_WHY = ("repeat", "smear", "residue", "tone", "grain", "soft", "invented", "untouched")
SAYS_OF = {
    **dict.fromkeys(("brightness", "green to red", "blue to yellow"), ("seam", "halo")),
    **dict.fromkeys(("direction", "direction, slanted"), ("line",)),
}
LEAST = 0.3
#: Detail of which so much is missing, natural logarithm, at each of the three finest scales, was
#: washed out; at the coarsest too, and it was not the sharpness alone.
_GONE, _COARSE_TOO = 0.5, 0.4


def with_departures(kept: list[Reading], departing: Sequence[Reading]) -> list[Reading]:
    """What is reported of a region.

    Args:
        kept: what was found in it otherwise; signals may be changed.
        departing: readings that show `Departs`, which are reported.
    """
    found = list(kept)
    for one in departing:
        kinds = (*SAYS_WHY, *SAYS_OF.get(one.shown(Departs).odd[0].what, ()))
        why = [r for r in kept if r.kind in kinds and covered_share(r, one) >= LEAST]
        if why:
            nearest = max(why, key=lambda r: (r.likely or 0.0, r.score))
            nearest.signal = as_visible_as(nearest.signal, one.signal)
            continue
        one.kind = named(one)
        others = [r for r in kept if r.kind != one.kind]
        one.runner_up = max(others, key=lambda r: r.score).kind if others else None
        found.append(one)
    return found


def named(reading: Reading) -> str:
    """What it is called: *smear* or *soft* where all that differs is that detail is missing, else
    *invented*.
    """
    shown = reading.shown(Departs)
    missing = np.log(
        np.maximum(np.asarray(shown.around, float), 1e-3)
        / np.maximum(np.asarray(shown.inside, float), 1e-3)
    )
    if not all("detail" in odd.what for odd in shown.odd[:2]):
        return "invented"
    if missing[:3].min() < _GONE:
        return "invented"
    return "smear" if missing[3] >= _COARSE_TOO else "soft"


def as_visible_as(own: Signal, whole: Signal) -> Signal:
    """A signal that is seen where either is."""
    return Signal(
        own.bands + whole.bands,
        max(own.extent, whole.extent),
        max(own.area, whole.area),
        own.offset,
    )
