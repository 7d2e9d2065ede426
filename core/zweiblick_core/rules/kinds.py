"""The kinds of flaw in a person's words: what one sees."""

from __future__ import annotations

from ..report import KINDS

#: Kinds that only a person marks so far.
PERSONS = ("lost", "light", "scale", "banding")
ALL_KINDS = (*KINDS, *PERSONS)
#: What a person sees, by kind.
SEEN_AS = {
    "repeat": "the same clump, stone or cloud twice",
    "seam": "a line or step where fill and surroundings meet",
    "halo": "a light, dark or coloured rim",
    "smear": "texture washed out, in streaks or blotches",
    "line": "an edge, board or horizon that breaks, kinks, waves, tilts or ends",
    "residue": "bits of the removed thing: slivers, dots, ghosts of lettering",
    "shadow": "the thing is gone, its shadow or reflection is not",
    "tone": "a bright, dark or tinted patch",
    "grain": "noise finer, coarser or missing",
    "soft": "sharpness that does not fit what is around",
    "invented": "something that was never there",
    "overreach": "something outside every region changed",
    "untouched": "not worked, or the wrong thing removed",
    "lost": "something that belonged was eaten",
    "light": "lit from the wrong side",
    "scale": "texture that does not shrink with distance",
    "banding": "steps in a gradient",
}
