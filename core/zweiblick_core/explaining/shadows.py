"""A rim that passes into the dark is a shadow's edge."""

from __future__ import annotations

from collections.abc import Sequence

from ..evidence import (
    Shadow,
    Tone,
)
from ..report import Reading
from .places import rim_of
from .rims import is_pasted_in, profile_of


def _is_left_in_shade(rim: Reading, least: float = 0.3) -> bool:
    """Whether a rim is where a shadow that was left begins: the fill is lit, what lies outside is
    darker, and the one passes into the other over some pixels. A step ends at
    once, and a fringe lies in the fill.

    Args:
        least: what part of the way to the dark must be gone some pixels inside.
    """
    if rim_of(rim).profile is None:
        return False
    lightness = profile_of(rim_of(rim))[:, 0]
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


def shadows(kept: list[Reading], unreported: Sequence[Reading]) -> None:
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
            and not is_pasted_in(r, kept)
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


def is_shadow_yet(winner: Reading, loser: Reading) -> bool:
    """Whether a dark place was seen, or the rim that stands out is no more than where the light
    falls off: a shadow that ends at the outline is an edge there too.
    """
    (_, _, w, h), (_, _, width, height) = winner.bbox, loser.bbox
    return not loser.shown(Shadow).across_rim or (
        winner.kind in ("seam", "halo") and w * h < 1.6 * width * height
    )
