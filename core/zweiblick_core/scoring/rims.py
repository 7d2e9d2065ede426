"""Constraints on rims: what is a step, a ring, a shadow's edge, or the removed thing showing through."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..evidence import Rim, Ring, Shadow, Tone
from ..report import Reading
from .places import call, rim_of, shared


def _profile(rim: Rim) -> np.ndarray:
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
    profile = _profile(rim)
    middle = len(profile) // 2
    inside, outside = _sides(profile)
    step = float(np.linalg.norm(inside - outside))
    base = np.where(np.arange(len(profile))[:, None] < middle, inside, outside)
    near = profile[middle - 8 : middle + 9] - base[middle - 8 : middle + 9]
    ring = float(np.sort(np.linalg.norm(near, axis=1))[-4:].mean())
    return step, ring


def _is_ring(halo: Reading, seam: Reading) -> bool:
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


def _fades(seam: Reading) -> bool:
    """Whether a hard step is the outer edge of a ring: a little inside, it is gone."""
    return _fading_odds(seam) > _SURELY


def _stays(seam: Reading) -> bool:
    """Whether a hard step is one for certain: what differs across it still differs farther in."""
    return _fading_odds(seam) < -_SURELY


def _fading_odds(seam: Reading) -> float:
    fades = rim_of(seam).fades
    return 0.0 if fades is None else fades.odds


def _is_trace(halo: Reading, seam: Reading) -> bool:
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


def _traces(halo: Reading) -> bool:
    """The same where only the ring stands out: it is opposite to the thing in colour, and what lies
    behind it is the thing's by at least as much. In a colour that is not
    chance (a glow is light or dark, and so may a thing be), the ring alone says so."""
    shown = rim_of(halo)
    if shown.ring is None or shown.likeness > -0.9:
        return False
    size = shown.ring.size
    inside, outside = _sides(_profile(shown))
    behind = float((outside - inside) @ shown.ring.vector) / max(size * size, 1e-6)
    return behind > 0.7 or (behind > -0.5 and shown.ring.chroma > 0.5 * size)


def _is_pasted_in(rim: Reading, others: list[Reading]) -> bool:
    """Whether what a rim encloses is known to be a copy or foreign, so that its colour says nothing
    of the thing.
    """
    return any(
        r.kind in ("repeat", "invented") and r.score >= 0.8 * rim.score and shared(r, rim) >= 0.3
        for r in others
    )


def _is_left_in_shade(rim: Reading, least: float = 0.3) -> bool:
    """Whether a rim is where a shadow that was left begins: the fill is lit, what lies outside is
    darker, and the one passes into the other over some pixels. A step ends at
    once, and a fringe lies in the fill.

    Args:
        least: what part of the way to the dark must be gone some pixels inside.
    """
    if rim_of(rim).profile is None:
        return False
    lightness = _profile(rim_of(rim))[:, 0]
    middle = len(lightness) // 2
    lit, passing, dark = (
        lightness[middle - 12 : middle - 4].mean(),
        lightness[middle - 5 : middle - 2].mean(),
        lightness[middle + 1 : middle + 5].mean(),
    )
    return bool(lit - dark > 2.0 and least < (lit - passing) / (lit - dark) < 0.95)


#: A shadow that is not reported is still likely enough to say what a rim is: from this score on, or
#: where light falls off so clearly across the rim.
_SHADOWS, _CROSSES = 0.1, 1.0


def _may_be_shadow(reading: Reading) -> bool:
    return reading.shown(Shadow).neutral > 0.45 and (reading.score >= _SHADOWS or _crosses(reading))


def _crosses(shadow: Reading) -> bool:
    return shadow.shown(Shadow).crossing >= _CROSSES


def _surely_crosses(shadow: Reading, rim: Reading) -> float:
    """How far a rim must pass into the dark: hardly, where light falls off so clearly across a part
    of it that it would be a hint by itself, and it is no hard step.
    """
    return (
        -0.1
        if shadow.shown(Shadow).crossing >= 2 * _CROSSES
        and shadow.shown(Shadow).neutral > 0.75
        and not rim_of(rim).hard
        else 0.3
    )


def shadows_edges(kept: list[Reading], unreported: Sequence[Reading]) -> None:
    """A rim that passes into a shadow is that shadow's edge."""
    for shadow in [r for r in (*kept, *unreported) if r.kind == "shadow" and _may_be_shadow(r)][:1]:
        # Where it is dark only because the thing was, it is the thing's own fringe; unless the
        # light falls off along a part of the rim alone.
        edges = [
            r
            for r in kept
            if r.kind in ("halo", "seam")
            and _is_left_in_shade(r, _surely_crosses(shadow, r))
            and (
                (_crosses(shadow) and shadow.shown(Shadow).neutral > 0.75)
                or rim_of(r).likeness <= 0.6
            )
            and not _is_pasted_in(r, kept)
        ]
        if not edges:
            continue
        strongest = max(edges, key=lambda r: r.score)
        shadow.stands_for(strongest)
        shadow.runner_up = strongest.kind
        # Beside a shadow a fill that is as it should be looks light.
        lit = [r for r in kept if r.kind == "tone" and r.shown(Tone).difference.lightness > 0]
        for other in edges + lit:
            kept.remove(other)
        if shadow not in kept:
            kept.append(shadow)


def _step_share(seam: Reading, tone: Reading) -> float:
    """How much of a patch's departure stands at its rim as a step."""
    step = rim_of(seam).step
    return 0.0 if step is None else step.size / max(_departs_by(tone), 1e-6)


def _departs_by(tone: Reading) -> float:
    """CIE76; 0 where it is not known."""
    return tone.evidence.delta_e if isinstance(tone.evidence, Tone) else 0.0


def _departs_as_the_thing(tone: Reading) -> bool:
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


def ring_or_step(kept: list[Reading]) -> None:
    """A seam and a halo on one stretch are one: a ring, or a step. Both may be the edge of the thing
    itself.
    """
    for halo in [r for r in kept if r.kind == "halo"]:
        for seam in [r for r in kept if r.kind == "seam"]:
            if halo not in kept or seam not in kept or shared(halo, seam) < 0.4:
                continue
            is_ring = _fades(seam) or (_is_ring(halo, seam) and not _stays(seam))
            winner, loser = (halo, seam) if is_ring else (seam, halo)
            winner.runner_up = loser.kind
            kept.remove(loser)
            if _is_trace(halo, seam) and not _is_pasted_in(seam, kept):
                call(seam, "residue", replace(rim_of(seam), what="ghost"))


def steps_that_fade(kept: list[Reading]) -> None:
    """A hard step that is gone a little inside is the outer edge of a ring."""
    for seam in [r for r in kept if r.kind == "seam" and _fades(r)]:
        shown = rim_of(seam)
        assert shown.step is not None and shown.fades is not None
        ring = Ring(
            shown.step.lightness,
            shown.step.a,
            shown.step.b,
            round(1.7 * shown.fades.width_px),
            -round(shown.fades.centre_px),
        )
        call(seam, "halo", replace(shown, what="ring", ring=ring))


def traces(kept: list[Reading]) -> None:
    """A ring with the thing's colour behind it, or a tone of the thing's colour and pattern, is the
    thing showing through.
    """
    for halo in [r for r in kept if r.kind == "halo" and _traces(r) and not _is_pasted_in(r, kept)]:
        call(halo, "residue", replace(rim_of(halo), what="ghost"))
    # What steps at the outline that was drawn is no trace: the thing ended a little within.
    steps = lambda tone: any(r.kind == "seam" and _step_share(r, tone) >= 0.6 for r in kept)
    for tone in [
        r
        for r in kept
        if r.kind == "tone"
        and _departs_as_the_thing(r)
        and not _is_pasted_in(r, kept)
        and not steps(r)
    ]:
        call(tone, "residue", replace(tone.shown(Tone), what="ghost"))
