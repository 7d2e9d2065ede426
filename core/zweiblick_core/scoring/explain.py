"""One flaw, one finding: readings that lie together are one, called by what says most of where it comes
from.

Eight constraints say what a reading is, whatever its strength: a ring or a step; a step that fades; a
shadow's edge; a trace of the thing (`rims`); one lack of detail; sharpness after all; more grain or
sharpness (`lacks`); light that is nothing foreign (here). Then at each place one reading stands: by
how much it says (`_rank`), and of those that say as much the stronger. On flaws and photographs that
nothing was tuned on, this order names as many rightly as sixty rules with their exceptions did
(`training/README.md`).
"""

from __future__ import annotations

from collections.abc import Sequence
from enum import IntEnum

from ..evidence import Foreign, Island, Lines
from ..report import Reading
from .lacks import one_gain, one_lack, sharpness_after_all
from .places import TELLS_WHY, TOGETHER, covered, rim_of, shared
from .rims import ring_or_step, shadows_edges, steps_that_fade, traces

#: What ends over more of the picture than this part says is no thing, but a patch of other light.
_HARD = 0.45

#: From this likeness of its colour to the removed thing's on is a rim the thing's own.
_THE_THINGS = 0.9
#: From this share on something is foreign in one respect alone.
_ALONE = 0.8
#: From this agreement of its grain on a place is the copy of another.
_SAME_GRAIN = 0.5
#: Two readings of one kind that share so much are one.
_SAME = 0.6


def _in_one_respect(invented: Reading, other: Reading) -> bool:
    """Whether it is foreign in what the other kind is about alone: in its colour beside light, in its
    detail and structure beside texture. A thing is foreign in both.
    """
    shown = invented.evidence
    if not isinstance(shown, Foreign) or shown.shares is None:
        return False
    shares = shown.shares
    share = shares.colour if other.kind in _OF_LIGHT else shares.detail + shares.structure
    return share >= _ALONE


def _hardness(invented: Reading) -> float:
    """How much of its edge is hard, 0..1; 1 where that is not known."""
    shown = invented.evidence
    known = shown.hardness if isinstance(shown, (Foreign, Island)) else None
    return 1.0 if known is None else known


def _light_is_nothing_foreign(kept: list[Reading]) -> None:
    """A place that stands off from its surroundings, and ends softly, is a tone."""
    for patch in [r for r in kept if r.kind == "invented" and _hardness(r) < _HARD]:
        known = [r for r in kept if r.kind == "tone" and shared(r, patch) > 0.3]
        if known:
            kept.remove(patch)
            known[0].runner_up = known[0].runner_up or "invented"
            known[0].stands_for(patch)
        else:
            patch.kind, patch.runner_up = "tone", "invented"


class Says(IntEnum):
    """How much a reading says of where a flaw comes from."""

    EVERYTHING = 0  # the thing still stands
    SOURCE = 1  # these pixels lie there too; this is a piece of it
    WHOLE = 2  # it stands off from all about it; it lies off, turned or too large as a whole
    ITSELF = 3  # what is wrong, and no more
    ANYTHING = 4  # what is true of any gross flaw


#: What differs in light; all else differs in texture.
_OF_LIGHT = ("seam", "halo", "tone", "shadow")
#: What differs in both.
_OF_BOTH = ("untouched", "residue", "invented")


def _things(kept: list[Reading]) -> set[int]:
    """The readings (their `id`) of what is foreign and of another light too, and has no rim of the
    removed thing's colour: something stands there.
    """
    found = set()
    for one in (one for one in kept if one.kind == "invented"):
        light = [r for r in kept if r.kind in _OF_LIGHT and shared(r, one) >= TOGETHER]
        fringe = any(rim_of(r).likeness >= _THE_THINGS for r in light)
        if isinstance(one.evidence, Island) or (light and not fringe):
            found.add(id(one))
    return found


def _says(reading: Reading, other: Reading, things: set[int]) -> Says:
    """How much a reading says beside another."""
    if reading.kind == "untouched":
        return Says.EVERYTHING
    if reading.kind == "residue":
        return Says.SOURCE
    if reading.kind == "repeat":
        # What a blur left is alike in many places, but not in its grain.
        return Says.SOURCE if reading.measure.value > _SAME_GRAIN else Says.ITSELF
    if reading.kind == "invented":
        if _in_one_respect(reading, other):
            return Says.ANYTHING
        return Says.WHOLE if id(reading) in things else Says.ITSELF
    lines = reading.evidence
    if isinstance(lines, Lines) and lines.whole:
        # What is left of texture runs to and fro.
        return Says.ANYTHING if lines.what == "wave" else Says.WHOLE
    # Whatever texture was put there ends at the rim.
    ends = reading.kind == "seam" and lines.what == "cut" and other.kind not in _OF_LIGHT
    return Says.ANYTHING if ends else Says.ITSELF


def _may_be_one(first: Reading, second: Reading, things: set[int]) -> bool:
    """Whether two readings at one place may be of one flaw. Light may be right where texture is
    wrong, and the other way round.
    """
    return (
        (first.kind in _OF_LIGHT) == (second.kind in _OF_LIGHT)
        or first.kind in _OF_BOTH
        or second.kind in _OF_BOTH
        or Says.ANYTHING in (_says(first, second, things), _says(second, first, things))
    )


def _goes_before(winner: Reading, loser: Reading, things: set[int]) -> bool:
    first, second = _says(winner, loser, things), _says(loser, winner, things)
    if first == Says.EVERYTHING:
        return True
    if first < second:
        return winner.score >= TELLS_WHY * loser.score
    if first > second:
        return TELLS_WHY * winner.score > loser.score
    return winner.score >= loser.score


def _stand(kept: list[Reading]) -> None:
    """Of readings at one place one stands, and the next is what it was chosen over."""
    things = _things(kept)
    most = {id(one): min(_says(one, other, things) for other in kept) for one in kept}
    for winner in sorted(kept, key=lambda one: (most[id(one)], -one.score)):
        for loser in sorted(kept, key=lambda one: -one.score):
            if winner not in kept or winner.kind == loser.kind:
                continue
            same = winner.kind == "untouched" or covered(winner, loser) >= TOGETHER
            if same and _may_be_one(winner, loser, things) and _goes_before(winner, loser, things):
                winner.runner_up = winner.runner_up or loser.kind
                kept.remove(loser)


def _once(kept: list[Reading]) -> list[Reading]:
    """The same kind twice at one place is one finding; copies may have several sources."""
    final: list[Reading] = []
    for reading in sorted(kept, key=lambda r: -r.score):
        if reading.kind == "repeat" or not any(
            other.kind == reading.kind and shared(other, reading) > _SAME for other in final
        ):
            final.append(reading)
    return final


def explained(readings: list[Reading], unreported: Sequence[Reading] = ()) -> list[Reading]:
    """What stands of a region's readings; each names as its runner-up what it was chosen over.

    Args:
        readings: of one region, those that are reported. Their names and scores may be changed.
        unreported: all others, which may still say what one is.
    """
    kept = list(readings)
    ring_or_step(kept)
    steps_that_fade(kept)
    shadows_edges(kept, unreported)
    traces(kept)
    one_lack(kept)
    sharpness_after_all(kept, unreported)
    one_gain(kept)
    _light_is_nothing_foreign(kept)
    _stand(kept)
    return _once(kept)
