"""One flaw, one finding: where two kinds light up on the same stretch of rim, the better explanation
keeps it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..evidence import (
    Ring,
    Tone,
)
from ..report import Reading
from .foreign import light_is_nothing_foreign
from .lacking import one_lack, sharpness_after_all
from .places import call, overlap, rim_of
from .rims import (
    departs_as_the_thing,
    fades_inside,
    is_pasted_in,
    is_ring,
    is_trace,
    is_traced,
    stays_inside,
    step_share,
)
from .rules import explained
from .shadows import shadows


def arbitrate(readings: list[Reading], unreported: Sequence[Reading] = ()) -> list[Reading]:
    """Drop readings that another explains better; the winner names the loser's kind as its
    runner-up.

    Args:
        readings: of one region, those over the reporting threshold.
        unreported: those below it, which may still say what another is.

    A rim may be a shadow's (`shadows`) or the thing's own edge. Missing detail gets one name by
    its signature (`named`). What explains what is `EXPLAINS`,
            in that order. Seam against halo: `is_ring`; both may be the thing's own edge,
            `is_trace`. The same kind twice at
    one place is one finding.
    """
    kept = list(readings)
    for halo in [r for r in readings if r.kind == "halo"]:
        for seam in [r for r in readings if r.kind == "seam"]:
            if halo not in kept or seam not in kept or overlap(halo, seam) < 0.4:
                continue
            of_ring = fades_inside(seam) or (is_ring(halo, seam) and not stays_inside(seam))
            winner, loser = (halo, seam) if of_ring else (seam, halo)
            winner.runner_up = loser.kind
            kept.remove(loser)
            if is_trace(halo, seam) and not is_pasted_in(seam, kept):
                call(seam, "residue", replace(rim_of(seam), what="ghost"))
    for seam in [r for r in kept if r.kind == "seam" and fades_inside(r)]:
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
    shadows(kept, unreported)
    for halo in [
        r for r in kept if r.kind == "halo" and is_traced(r) and not is_pasted_in(r, kept)
    ]:
        call(halo, "residue", replace(rim_of(halo), what="ghost"))
    # What steps at the outline that was drawn is no trace: the thing ended a little within.
    steps = lambda tone: any(r.kind == "seam" and step_share(r, tone) >= 0.6 for r in kept)
    for tone in [
        r
        for r in kept
        if r.kind == "tone"
        and departs_as_the_thing(r)
        and not is_pasted_in(r, kept)
        and not steps(r)
    ]:
        call(tone, "residue", replace(tone.shown(Tone), what="ghost"))
    one_lack(kept)
    sharpness_after_all(kept, unreported)
    light_is_nothing_foreign(kept)
    explained(kept)
    final: list[Reading] = []
    for reading in sorted(kept, key=lambda r: -r.score):
        if not any(
            other.kind == reading.kind
            and reading.kind != "repeat"
            and overlap(other, reading) > 0.6
            for other in final
        ):
            final.append(reading)
    return final
