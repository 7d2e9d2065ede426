"""What belongs to nothing around, and what only looks so."""

from __future__ import annotations

import numpy as np

from ..evidence import (
    Foreign,
    Island,
    Shares,
)
from ..report import Reading
from .places import covered_share, overlap, rim_of


def _is_island(invented: Reading) -> bool:
    """Whether it stands off from its surroundings as nothing else does: light, a fringe or a blur
    make none.
    """
    shown = invented.evidence
    return isinstance(shown, Island) or (
        isinstance(shown, Foreign) and shown.stands_off is not None
    )


#: What ends over more of the picture than this part says is no thing, but a patch of other light.
_HARD = 0.45


def _hardness(invented: Reading) -> float:
    """How much of its edge is hard, 0..1; 1 where that is not known."""
    shown = invented.evidence
    known = shown.hardness if isinstance(shown, (Foreign, Island)) else None
    return 1.0 if known is None else known


def _shares(invented: Reading) -> Shares | None:
    shown = invented.evidence
    return shown.shares if isinstance(shown, Foreign) else None


def light_is_nothing_foreign(kept: list[Reading]) -> None:
    """A place that stands off from its surroundings, and ends softly, is a tone."""
    for patch in [r for r in kept if r.kind == "invented" and _hardness(r) < _HARD]:
        known = [r for r in kept if r.kind == "tone" and overlap(r, patch) > 0.3]
        if known:
            kept.remove(patch)
            known[0].runner_up = known[0].runner_up or "invented"
            known[0].stands_for(patch)
        else:
            patch.kind, patch.runner_up = "tone", "invented"


#: An island that covers less than this of another's box says nothing of all the rest of it.
_SPOT = 0.25


def is_a_spot_in_it(winner: Reading, loser: Reading) -> bool:
    """Whether something foreign is an island that covers hardly any of the other."""
    return isinstance(winner.evidence, Island) and covered_share(winner, loser) < _SPOT


#: Of what makes a washed-out place foreign, its detail is at least this part (training photographs:
#: .17 and more; of what was cut in less than .1 for two in five).
_DETAIL_GONE = 0.1


def is_a_smooth_place(winner: Reading, loser: Reading) -> bool:
    """Whether something that reads as foreign may be what lay there, washed out: its colour is
    about right, and its structure not all that differs.
    """
    shares = _shares(winner)
    if _is_island(winner) or shares is None or shares.detail < _DETAIL_GONE:
        return False
    return float(np.sqrt(shares.colour)) * winner.measure.value < 8.0 and shares.structure < 0.6


def is_more_than_colour(winner: Reading, loser: Reading) -> bool:
    """Whether what is foreign differs in more than its colour."""
    shares = _shares(loser)
    return (
        _is_island(loser)
        or loser.measure.value > 3.5
        or (shares is not None and shares.detail > 0.45)
    )


def is_no_fringe(winner: Reading, loser: Reading) -> bool:
    """A strong fringe in the thing's colour makes cells along it foreign; something foreign makes
    an edge that is weak beside itself.
    """
    return (
        _is_island(loser)
        or rim_of(winner).likeness < 0.9
        or winner.measure.value < 8 * loser.measure.value
    )


def has_colour(winner: Reading, loser: Reading) -> bool:
    """Whether what is foreign differs in colour too, or stands off."""
    shares = _shares(loser)
    return _is_island(loser) or shares is None or shares.colour > 0.25
