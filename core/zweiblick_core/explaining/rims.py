"""What a rim is: a step, a ring, the thing's own edge, or where a patch of other light ends."""

from __future__ import annotations

import numpy as np

from ..evidence import (
    Rim,
    Tone,
)
from ..report import Reading
from .places import overlap, rim_of


def profile_of(rim: Rim) -> np.ndarray:
    """The mean profile across a stretch, CIELAB, from inside to outside; (n, 3)."""
    assert rim.profile is not None
    return rim.profile.lab


def _sides(profile: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """What lies well inside the boundary and well outside."""
    middle = len(profile) // 2
    return profile[middle - 20 : middle - 9].mean(0), profile[middle + 10 : middle + 21].mean(0)


def _step_and_ring(rim: Rim) -> tuple[float, float]:
    """From the mean profile across a stretch: the step that persists far from the boundary, and the
    bulge near it.
    """
    profile = profile_of(rim)
    middle = len(profile) // 2
    inside, outside = _sides(profile)
    step = float(np.linalg.norm(inside - outside))
    base = np.where(np.arange(len(profile))[:, None] < middle, inside, outside)
    near = profile[middle - 8 : middle + 9] - base[middle - 8 : middle + 9]
    ring = float(np.sort(np.linalg.norm(near, axis=1))[-4:].mean())
    return step, ring


def is_ring(halo: Reading, seam: Reading) -> bool:
    """Whether a halo and a seam on one stretch are a halo: its ring outweighs the step that
    persists behind it, or it has the removed thing's colour, and two different grounds
    meet there. Rings are read blind to steps, so a step alone makes none; a ghost of the thing
    makes one of the opposite colour.
    """
    step, ring = _step_and_ring(rim_of(halo))
    if ring > 1.15 * step:
        return halo.score > 0.6 * seam.score or ring > 3 * step
    return rim_of(halo).likeness > 0.45 and ring > 0.4 * step and halo.score > 0.75 * seam.score


#: By what odds (natural logarithm) a hard step must be a ring's edge, or not be one, to be called
#: so whatever else is said.
_SURELY = 1.0


def fades_inside(seam: Reading) -> bool:
    """Whether a hard step is the outer edge of a ring: a little inside, it is gone."""
    return _fading_odds(seam) > _SURELY


def stays_inside(seam: Reading) -> bool:
    """Whether a hard step is one for certain: what differs across it still differs farther in."""
    return _fading_odds(seam) < -_SURELY


def _fading_odds(seam: Reading) -> float:
    fades = rim_of(seam).fades
    return 0.0 if fades is None else fades.odds


def is_trace(halo: Reading, seam: Reading) -> bool:
    """Whether both are the edge of the thing itself, showing through: inside, it steps towards the
    thing's colour, but only where the thing's own edge was, a little inside the
    boundary; so between them lies a ring of the opposite colour."""
    inner, outer = rim_of(seam), rim_of(halo)
    if inner.step is None or outer.ring is None or outer.likeness > -0.7:
        return False
    step, ring = inner.step.vector, outer.ring.vector
    across, beside = _step_and_ring(outer)
    return beside > 0.33 * across and float(-step @ ring) > 0.5 * float(
        np.linalg.norm(step) * np.linalg.norm(ring)
    )


def is_traced(halo: Reading) -> bool:
    """The same where only the ring stands out: it is opposite to the thing in colour, and what lies
    behind it is the thing's by at least as much. In a colour that is not
    chance (a glow is light or dark, and so may a thing be), the ring alone says so."""
    shown = rim_of(halo)
    if shown.ring is None or shown.likeness > -0.9:
        return False
    size = shown.ring.size
    inside, outside = _sides(profile_of(shown))
    behind = float((outside - inside) @ shown.ring.vector) / max(size * size, 1e-6)
    return behind > 0.7 or (behind > -0.5 and shown.ring.chroma > 0.5 * size)


def departs_as_the_thing(tone: Reading) -> bool:
    """Whether a tone is a trace of the thing: in a colour (what is lighter or darker, and so may a
    thing be, says little), of the thing's colour cell by cell, and of its pattern
    or very like."""
    shown = tone.evidence
    if not isinstance(shown, Tone):
        return False
    chroma, size = shown.difference.chroma, shown.delta_e
    likeness, pattern = shown.likeness_to_removed, shown.pattern_of_removed
    return (
        chroma > 0.35 * size
        and likeness > 0.72
        and (pattern > 0.28 or (likeness > 0.93 and chroma > 0.6 * size))
    )


def is_pasted_in(rim: Reading, others: list[Reading]) -> bool:
    """Whether what a rim encloses is known to be a copy or foreign, so that its colour says nothing
    of the thing.
    """
    return any(
        r.kind in ("repeat", "invented") and r.score >= 0.8 * rim.score and overlap(r, rim) >= 0.3
        for r in others
    )


def step_share(seam: Reading, tone: Reading) -> float:
    """How much of a patch's departure stands at its rim as a step."""
    step = rim_of(seam).step
    return 0.0 if step is None else step.size / max(_departs_by(tone), 1e-6)


def _departs_by(tone: Reading) -> float:
    """CIE76; 0 where it is not known."""
    return tone.evidence.delta_e if isinstance(tone.evidence, Tone) else 0.0


def is_soft_patch(winner: Reading, loser: Reading) -> bool:
    """Whether a step is too little of a patch's departure to be why it departs."""
    return winner.evidence.what == "step" and step_share(winner, loser) < 0.6


def is_more_than_the_ring(winner: Reading, loser: Reading) -> bool:
    """No ring shifts what it encloses by more than it departs by itself."""
    ring = rim_of(winner).ring
    return ring is not None and 0 < ring.size < _departs_by(loser)


def is_hard_step(winner: Reading, loser: Reading) -> bool:
    """Whether a seam is no step, or most of what a patch departs by."""
    return loser.evidence.what != "step" or step_share(loser, winner) >= 0.6
