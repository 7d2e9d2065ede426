"""What explains what: one table, asked in its order."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..evidence import (
    Copy,
    Lines,
    Rim,
)
from ..report import Reading
from .foreign import (
    has_colour,
    is_a_smooth_place,
    is_a_spot_in_it,
    is_more_than_colour,
    is_no_fringe,
)
from .lacking import is_no_grain_alone, is_not_in_colour, is_other_way
from .places import covered_share, overlap
from .rims import is_hard_step, is_more_than_the_ring, is_soft_patch
from .shadows import is_shadow_yet


@dataclass(frozen=True)
class Explains:
    """A rule: `winner` explains `loser` at one place.

    Attributes:
        share: least part that they share: of the smaller box, or of the loser's (`of_loser`).
        ratio: the winner's score must be at least this many times the loser's.
        unless: readings of the loser for which it does not hold.
    """

    winner: str
    loser: str
    share: float
    ratio: float = 0.8
    of_loser: bool = False
    unless: Callable[[Reading, Reading], bool] | None = None


def _is_step(winner: Reading, loser: Reading) -> bool:
    return loser.evidence.what == "step"


def _is_no_gap(winner: Reading, loser: Reading) -> bool:
    return loser.evidence.what != "missing"


def _is_of_lines(winner: Reading, loser: Reading) -> bool:
    return not loser.shown(Lines).whole


def _is_no_undulation(winner: Reading, loser: Reading) -> bool:
    return not (loser.shown(Lines).whole and loser.evidence.what == "wave")


def _is_no_trace(winner: Reading, loser: Reading) -> bool:
    return not isinstance(winner.evidence, Rim)


def _is_ghost(winner: Reading, loser: Reading) -> bool:
    return winner.evidence.what == "ghost"


def _agrees_poorly(winner: Reading, loser: Reading) -> bool:
    return winner.measure.value < 0.45


def _agrees_well(winner: Reading, loser: Reading) -> bool:
    """Washed-out places are alike in what is left, but not in their grain."""
    return loser.measure.value > 0.6


def _is_one_copy(winner: Reading, loser: Reading) -> bool:
    patches = loser.shown(Copy).patches
    return patches is None or patches > 2


EXPLAINS: tuple[Explains, ...] = (
    # Too much grain makes nothing foreign.
    Explains("grain", "invented", 0.4, unless=has_colour),
    *(
        Explains("untouched", loser, 0.0)
        for loser in (
            "repeat",
            "seam",
            "halo",
            "smear",
            "line",
            "residue",
            "tone",
            "grain",
            "soft",
            "invented",
        )
    ),
    # A piece of the thing stands off from all about it; before it could explain anything itself.
    Explains("residue", "invented", 0.3),
    Explains("residue", "invented", 0.3, of_loser=True, unless=_is_ghost),
    # Something foreign may be smooth by itself; a wash-out has the colours of what it washed out.
    Explains("invented", "smear", 0.4, unless=is_a_smooth_place),
    # Another light makes colours foreign that are not far from what they should be.
    Explains("tone", "invented", 0.4, unless=is_more_than_colour),
    # Where texture is washed out, its end at the rim reads as a cut-out edge, smooth patches match
    # each other, and detail, grain and lines are gone with it.
    Explains("smear", "seam", 0.5, unless=_is_step),
    Explains("smear", "repeat", 0.5, unless=_agrees_well),
    Explains("smear", "soft", 0.3),
    Explains("smear", "grain", 0.3, ratio=0.6),
    Explains("smear", "invented", 0.4),
    Explains("smear", "tone", 0.4),
    Explains("smear", "line", 0.6, unless=_is_no_gap),
    # What is left of washed-out texture runs to and fro, and so does a ring along an outline.
    Explains("smear", "line", 0.3, unless=_is_no_undulation),
    Explains("halo", "line", 0.3, unless=_is_no_undulation),
    # A piece of the thing has edges, a colour and a texture of its own.
    *(Explains("residue", loser, 0.3) for loser in ("seam", "halo", "tone", "grain")),
    Explains("residue", "tone", 0.3, of_loser=True),
    Explains("residue", "line", 0.3, of_loser=True),
    # Where the thing shows through, all it covered has some of its colour.
    Explains("residue", "tone", 0.0, ratio=0.6, unless=_is_no_trace),
    # That a copy's texture ends at its rim belongs to it. A step in tone there is seen whether or
    # not it is known for a copy: it was not blended in.
    Explains("repeat", "seam", 0.3, unless=_is_step),
    Explains("repeat", "halo", 0.3, unless=_agrees_poorly),
    # A step or ring all round shifts the tone of what it encloses.
    Explains("seam", "tone", 0.3, unless=is_soft_patch),
    Explains("halo", "tone", 0.3, ratio=1.0, unless=is_more_than_the_ring),
    # Enlarging lays the same lattice over everything, and lattices match, each somewhere else; a
    # copy has one offset for all of it.
    Explains("soft", "repeat", 0.3, unless=_is_one_copy),
    # What was copied is as sharp as its source, and nothing foreign.
    # Courses copied from elsewhere may lie off their own.
    Explains("repeat", "line", 0.3, unless=_is_of_lines),
    Explains("repeat", "smear", 0.3, unless=_agrees_poorly),
    Explains("repeat", "invented", 0.3),
    Explains("repeat", "soft", 0.3),
    Explains("repeat", "grain", 0.3),
    # Light that falls off across a rim that is none of a shadow's falls off there for the rim's own
    # reason.
    *(
        Explains(winner, "shadow", 0.2, unless=is_shadow_yet)
        for winner in ("seam", "halo", "repeat", "residue", "invented")
    ),
    # What belongs to nothing around has its own edges, tone, grain and sharpness.
    Explains("halo", "invented", 0.5, unless=is_no_fringe),
    *(
        Explains("invented", loser, 0.5, ratio=0.9, unless=is_a_spot_in_it)
        for loser in ("seam", "halo")
    ),
    *(
        Explains("invented", loser, 0.4, unless=is_a_spot_in_it)
        for loser in ("tone", "grain", "soft")
    ),
    Explains("invented", "line", 0.4, ratio=1.0, unless=is_a_spot_in_it),
    # Where hardly anything but grain lies around, more of it is no sharpness.
    Explains("grain", "soft", 0.3, unless=is_no_grain_alone),
    # A fill enlarged from less has lost its grain too, a sharpened one has more of it.
    Explains("soft", "grain", 0.3, unless=is_other_way),
    # Colour shows grain that nobody sees. What is sharpened has more of it, and what was softened
    # or enlarged was given some again, of a strength of its own.
    Explains("soft", "grain", 0.3, ratio=0.5, unless=is_not_in_colour),
    # Another light makes a step where it ends softly; too little of one to be a seam.
    Explains("tone", "seam", 0.5, unless=is_hard_step),
    Explains("tone", "halo", 0.5, ratio=1.3),
)


def explained(kept: list[Reading]) -> None:
    """Take out what a stronger reading of another kind explains."""
    for rule in EXPLAINS:
        for winner in [r for r in kept if r.kind == rule.winner]:
            for loser in [r for r in kept if r.kind == rule.loser]:
                if winner not in kept or (rule.unless is not None and rule.unless(winner, loser)):
                    continue
                share = covered_share(winner, loser) if rule.of_loser else overlap(winner, loser)
                if share >= rule.share and winner.score >= rule.ratio * loser.score:
                    winner.runner_up = winner.runner_up or loser.kind
                    kept.remove(loser)
