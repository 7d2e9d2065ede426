"""One flaw, one finding: where two kinds light up on the same stretch of rim, the better
explanation keeps it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from .evidence import (
    Copy,
    Detail,
    Evidence,
    Foreign,
    Island,
    Lines,
    Rim,
    Ring,
    Shadow,
    Shares,
    Tone,
)
from .report import Reading


def _rim(reading: Reading) -> Rim:
    """What a seam or a halo shows; of what was recognised otherwise, nothing."""
    return reading.evidence if isinstance(reading.evidence, Rim) else Rim()


def _detail(reading: Reading) -> Detail:
    """What missing or added detail shows; of what was recognised otherwise, nothing."""
    return reading.evidence if isinstance(reading.evidence, Detail) else Detail()


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
    step, ring = _step_and_ring(_rim(halo))
    if ring > 1.15 * step:
        return halo.score > 0.6 * seam.score or ring > 3 * step
    return _rim(halo).likeness > 0.45 and ring > 0.4 * step and halo.score > 0.75 * seam.score


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
    fades = _rim(seam).fades
    return 0.0 if fades is None else fades.odds


def _is_trace(halo: Reading, seam: Reading) -> bool:
    """Whether both are the edge of the thing itself, showing through: inside, it steps towards the
    thing's colour, but only where the thing's own edge was, a little inside the
    boundary; so between them lies a ring of the opposite colour."""
    inner, outer = _rim(seam), _rim(halo)
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
    shown = _rim(halo)
    if shown.ring is None or shown.likeness > -0.9:
        return False
    size = shown.ring.size
    inside, outside = _sides(_profile(shown))
    behind = float((outside - inside) @ shown.ring.vector) / max(size * size, 1e-6)
    return behind > 0.7 or (behind > -0.5 and shown.ring.chroma > 0.5 * size)


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


def _is_pasted_in(rim: Reading, others: list[Reading]) -> bool:
    """Whether what a rim encloses is known to be a copy or foreign, so that its colour says nothing
    of the thing.
    """
    return any(
        r.kind in ("repeat", "invented") and r.score >= 0.8 * rim.score and _overlap(r, rim) >= 0.3
        for r in others
    )


def _is_left_in_shade(rim: Reading, least: float = 0.3) -> bool:
    """Whether a rim is where a shadow that was left begins: the fill is lit, what lies outside is
    darker, and the one passes into the other over some pixels. A step ends at
    once, and a fringe lies in the fill.

    Args:
        least: what part of the way to the dark must be gone some pixels inside.
    """
    if _rim(rim).profile is None:
        return False
    lightness = _profile(_rim(rim))[:, 0]
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
        and not _rim(rim).hard
        else 0.3
    )


def _shadows(kept: list[Reading], unreported: Sequence[Reading]) -> None:
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
                or _rim(r).likeness <= 0.6
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


def _overlap(first: Reading, second: Reading) -> float:
    ax, ay, aw, ah = first.bbox
    bx, by, bw, bh = second.bbox
    w, h = min(ax + aw, bx + bw) - max(ax, bx), min(ay + ah, by + bh) - max(ay, by)
    return max(0.0, w) * max(0.0, h) / max(1.0, min(aw * ah, bw * bh))


def _covered(winner: Reading, loser: Reading) -> float:
    """Share of the loser's box that the winner's covers."""
    _, _, w, h = loser.bbox
    small = min(w * h, winner.bbox[2] * winner.bbox[3])
    return _overlap(winner, loser) * max(1.0, small) / max(1.0, w * h)


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


def _is_other_way(winner: Reading, loser: Reading) -> bool:
    """Soft and too little grain go together, sharp and too much of it; and where sharpening cleared
    what lies between edges, it looks denoised.
    """
    together = {("soft", "less grain"), ("sharp", "more grain")}
    if _detail(loser).texture_over_grain is None:
        together.add(("sharp", "less grain"))
    return (winner.evidence.what, loser.evidence.what) not in together


def _is_no_grain_alone(winner: Reading, loser: Reading) -> bool:
    if _detail(winner).seen_in == "brightness alone":
        # Sharpening would have raised the grain of each colour with it.
        return loser.evidence.what != "sharp"
    return (winner.evidence.what, loser.evidence.what) != (
        "more grain",
        "sharp",
    ) or not _in_flat_places(winner)


def _is_no_trace(winner: Reading, loser: Reading) -> bool:
    return not isinstance(winner.evidence, Rim)


def _is_ghost(winner: Reading, loser: Reading) -> bool:
    return winner.evidence.what == "ghost"


#: As much of the grain's energy is missing where something was blurred and has got none again,
#: natural logarithm; where it is not known of the picture itself.
_GRAIN_GONE = 1.25
#: What lacks as much as a blur of this many pixels takes is called washed out, not soft.
_WASHED_OUT = 0.95
#: What `detail.sparser` comes to where noise was blurred; denoising leaves it above that.
_BLURRED = -0.19
#: So much of the grain in colour and less is left where it was taken on purpose.
_GONE_IN_COLOUR = 0.45
#: Where grain was taken by half, it is above this.
_HALF_DENOISED = -0.165


def _lacks(reading: Reading) -> tuple[float, float]:
    """What is missing of grain, and of the finest detail."""
    missing = _detail(reading).missing_by_size
    return (0.0, 0.0) if missing is None else (float(missing[0]), float(missing[1]))


def _sparser(reading: Reading) -> float:
    return _detail(reading).sparser or 0.0


#: Below it the texture of places that count as flat is less than their grain.
_FLAT = 0.9


def _in_flat_places(grain: Reading) -> bool:
    """Whether grain was seen where hardly anything else lies."""
    texture = _detail(grain).texture_over_grain
    return texture is not None and texture < _FLAT


def _is_denoised(reading: Reading) -> bool:
    """Whether grain is gone, but edges stand: no blur leaves both. Or fine texture went with it,
    which denoising takes for grain, but not as in a blur.
    """
    grain, fine = _lacks(reading)
    how, shown = _sparser(reading), _detail(reading)
    if (
        _in_colour(reading)
        and (shown.ratio or 0.0) < _GONE_IN_COLOUR
        and (shown.share_of_fill or 0.0) > 0.5
        and grain < 1.0
        and how > -0.2
    ):
        # Colour says that hardly any grain is left, all over. Where brightness lacks less of it, it
        # has detail that was kept.
        return True
    return (grain > 1.0 and how > 0.5) or (
        how != 0.0
        and how > _BLURRED
        and 0.4 < grain < 1.0
        and grain + 0.6 < fine < 2.2
        and _edges_stand(reading)
    )


def _edges_stand(reading: Reading) -> bool:
    """Whether the finest contrast is kept about as well as the coarse: most of it lies in edges,
    which a blur takes.
    """
    shown = _detail(reading)
    if shown.inside is None or shown.around is None:
        return True
    kept = np.asarray(shown.inside, float) / np.maximum(np.asarray(shown.around, float), 1e-6)
    return bool(len(kept) < 4 or kept[0] > 0.6 * kept[3])


def _is_blurred(reading: Reading) -> bool:
    """Whether grain is gone, and edges with it."""
    return _lacks(reading)[0] > _GRAIN_GONE and _sparser(reading) < _BLURRED


def _is_softened(reading: Reading) -> bool:
    """Whether some of the grain is gone, and edges with it."""
    return _lacks(reading)[0] <= _GRAIN_GONE and _sparser(reading) < _BLURRED


def _is_half_denoised(soft: Reading) -> bool:
    """Whether what reads as soft, while grain is missing too, keeps its edges: any blur leaves less
    of the finest detail in a few places.
    """
    how = _sparser(soft)
    return how != 0.0 and how > _HALF_DENOISED


def named(reading: Reading) -> str:
    """What is missing detail called, by what it lacks (`detail.missing_by_size`; limits from the
    training photographs): *smear* where grain went with the detail, or much more of
    the fine than of the coarse; *grain* where grain alone went; else *soft*."""
    lacks = _detail(reading).missing_by_size
    if lacks is None:
        return reading.kind
    grain, fine, _, coarse = (float(value) for value in lacks)
    if _is_denoised(reading):
        return "grain"
    if reading.kind == "soft" and reading.measure.value < -_WASHED_OUT:
        return "smear"
    known = _detail(reading).grain_gone
    gone = _GRAIN_GONE if known is None else known
    if (fine - coarse > 1.1 and fine > 1.2) or (
        grain > gone and (fine > 0.5 or reading.kind != "grain")
    ):
        return "smear"
    return "grain" if reading.kind == "grain" else "soft"


def _is_coarse_too(smear: Reading) -> bool:
    """Whether a smear took what is coarser than grain."""
    missing = _detail(smear).missing_by_scale
    return missing is None or float(missing[-1]) > 0.45 * float(missing[0])


def _is_washed_in_part(smear: Reading) -> bool:
    """Whether grain went, and the finest detail with it, in a part of the fill only: what denoises,
    enlarges or lays on grain does so all over.
    """
    grain, fine = _lacks(smear)
    return (
        _detail(smear).expected_from == "least grain"
        and _is_of_a_part(smear)
        and grain > 0.8
        and fine > 0.4
    )


#: As much grain is missing at least where a part of a fill was washed out, natural logarithm of
#: energy: what denoises does so all over, and leaves more.
_WASHED_GRAIN = 1.2


def _is_washed_in_colour(grain: Reading) -> bool:
    """Whether a part of the fill lacks nearly all of its grain, in colour and in brightness."""
    return _in_colour(grain) and _is_of_a_part(grain) and _lacks(grain)[0] > _WASHED_GRAIN


def _is_of_a_part(reading: Reading) -> bool:
    """Whether it is known to be less than half of the fill."""
    share = _detail(reading).share_of_fill
    return share is not None and share < 0.5


def _in_colour(grain: Reading) -> bool:
    return _detail(grain).seen_in == "colour"


def _lacks_detail(reading: Reading) -> bool:
    return reading.kind == "smear" or (reading.kind, reading.evidence.what) in (
        ("soft", "soft"),
        ("grain", "less grain"),
    )


def _one_lack(kept: list[Reading]) -> None:
    """Smear, soft and too little grain at one place are one flaw: it is called what its signature
    says, and the strongest reading stands for it.
    """
    lacking = sorted((r for r in kept if _lacks_detail(r)), key=lambda r: -r.score)
    while lacking:
        first = lacking.pop(0)
        same = [r for r in lacking if _overlap(first, r) >= 0.3]
        lacking = [r for r in lacking if r not in same]
        together = [first, *same]
        # Grain is measured in flat places only and softness in textured ones: with both it is the
        # textured that are looked at.
        # Of two that miss grain, the one that saw flat places says more of it.
        by_kind = {
            r.kind: r
            for r in sorted(
                together, key=lambda r: (_detail(r).texture_over_grain is not None, r.score)
            )
        }
        kind = named(by_kind.get("soft") or by_kind.get("smear") or first)
        if any(_is_denoised(r) for r in together):
            kind = "grain"
        elif ("smear" in by_kind and _is_washed_in_part(by_kind["smear"])) or any(
            _is_washed_in_colour(r) for r in together
        ):
            kind = "smear"
        elif "grain" in by_kind:
            flat = _in_flat_places(by_kind["grain"])
            if "soft" not in by_kind:
                coarse = "smear" in by_kind and not flat and _is_coarse_too(by_kind["smear"])
                kind = (
                    "smear"
                    if coarse or any(_is_blurred(r) for r in together)
                    else "soft"
                    if _is_softened(by_kind["grain"])
                    else "grain"
                )
            elif flat or (kind == "soft" and _is_half_denoised(by_kind["soft"])):
                kind = "grain"
        stands = next((r for r in together if r.kind == kind), first)
        for other in together:
            if other is not stands:
                kept.remove(other)
                stands.runner_up = stands.runner_up or (other.kind if other.kind != kind else None)
        if stands.kind != kind:
            stands.runner_up, stands.kind = stands.kind, kind
        for other in together:
            stands.stands_for(other)


#: Strength of the finest octave against around, over that of the third, of the second over the
#: third, and of the finest alone, from which all that is fine was sharpened.
_SHARPENED = (1.25, 1.08, 1.25)
#: That of the finest octave over the second, and alone, below which what has more grain had been
#: softened (training photographs: enlarged .53 to .90, more grain .91 and up).
_SOFTENED = (0.89, 0.95)


def _grew_with(grain: Reading) -> str:
    """What else happened where there is more grain: "sharp" where detail well above the grain grew
    with it, "soft" where the finest detail is less for all the grain that was
    added to it, or nothing."""
    shown = _detail(grain)
    if (
        shown.what != "more grain"
        or shown.inside is None
        or shown.around is None
        or shown.seen_in == "brightness alone"
    ):
        return ""
    first, second, third = (
        float(into) / max(float(out), 1e-3)
        for into, out in zip(shown.inside[:3], shown.around[:3], strict=True)
    )
    if first > _SHARPENED[0] * third and second > _SHARPENED[1] * third and first > _SHARPENED[2]:
        return "sharp"
    return "soft" if 0 < first < min(_SOFTENED[0] * second, _SOFTENED[1]) else ""


def _sharpness_after_all(kept: list[Reading], unreported: Sequence[Reading]) -> None:
    """Grain that was sharpened with all else, or added to what had been enlarged, is called by
    that, though the sharpness of its structure could not be measured by itself.
    """
    if any(r.kind == "soft" for r in kept):
        return
    for grain in [r for r in kept if r.kind == "grain"][:1]:
        what = _grew_with(grain)
        for other in [
            r for r in unreported if r.kind == "soft" and what and r.evidence.what == what
        ][:1]:
            kept.remove(grain)
            kept.append(
                replace(
                    other,
                    score=grain.score,
                    likely=grain.likely,
                    runner_up="grain",
                    bbox=grain.bbox,
                    polygon=grain.polygon,
                    signal=grain.signal,
                )
            )


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


def _light_is_nothing_foreign(kept: list[Reading]) -> None:
    """A place that stands off from its surroundings, and ends softly, is a tone."""
    for patch in [r for r in kept if r.kind == "invented" and _hardness(r) < _HARD]:
        known = [r for r in kept if r.kind == "tone" and _overlap(r, patch) > 0.3]
        if known:
            kept.remove(patch)
            known[0].runner_up = known[0].runner_up or "invented"
            known[0].stands_for(patch)
        else:
            patch.kind, patch.runner_up = "tone", "invented"


#: An island that covers less than this of another's box says nothing of all the rest of it.
_SPOT = 0.25


def _is_a_spot_in_it(winner: Reading, loser: Reading) -> bool:
    return isinstance(winner.evidence, Island) and _covered(winner, loser) < _SPOT


#: Of what makes a washed-out place foreign, its detail is at least this part (training photographs:
#: .17 and more; of what was cut in less than .1 for two in five).
_DETAIL_GONE = 0.1


def _is_a_smooth_place(winner: Reading, loser: Reading) -> bool:
    """Whether something that reads as foreign may be what lay there, washed out: its colour is
    about right, and its structure not all that differs.
    """
    shares = _shares(winner)
    if _is_island(winner) or shares is None or shares.detail < _DETAIL_GONE:
        return False
    return float(np.sqrt(shares.colour)) * winner.measure.value < 8.0 and shares.structure < 0.6


def _is_more_than_colour(winner: Reading, loser: Reading) -> bool:
    shares = _shares(loser)
    return (
        _is_island(loser)
        or loser.measure.value > 3.5
        or (shares is not None and shares.detail > 0.45)
    )


def _agrees_poorly(winner: Reading, loser: Reading) -> bool:
    return winner.measure.value < 0.45


def _agrees_well(winner: Reading, loser: Reading) -> bool:
    """Washed-out places are alike in what is left, but not in their grain."""
    return loser.measure.value > 0.6


def _is_one_copy(winner: Reading, loser: Reading) -> bool:
    patches = loser.shown(Copy).patches
    return patches is None or patches > 2


def _step_share(seam: Reading, tone: Reading) -> float:
    """How much of a patch's departure stands at its rim as a step."""
    step = _rim(seam).step
    return 0.0 if step is None else step.size / max(_departs_by(tone), 1e-6)


def _departs_by(tone: Reading) -> float:
    """CIE76; 0 where it is not known."""
    return tone.evidence.delta_e if isinstance(tone.evidence, Tone) else 0.0


def _is_soft_patch(winner: Reading, loser: Reading) -> bool:
    return winner.evidence.what == "step" and _step_share(winner, loser) < 0.6


def _is_more_than_the_ring(winner: Reading, loser: Reading) -> bool:
    """No ring shifts what it encloses by more than it departs by itself."""
    ring = _rim(winner).ring
    return ring is not None and 0 < ring.size < _departs_by(loser)


def _is_hard_step(winner: Reading, loser: Reading) -> bool:
    return loser.evidence.what != "step" or _step_share(loser, winner) >= 0.6


def _is_no_fringe(winner: Reading, loser: Reading) -> bool:
    """A strong fringe in the thing's colour makes cells along it foreign; something foreign makes
    an edge that is weak beside itself.
    """
    return (
        _is_island(loser)
        or _rim(winner).likeness < 0.9
        or winner.measure.value < 8 * loser.measure.value
    )


def _has_colour(winner: Reading, loser: Reading) -> bool:
    shares = _shares(loser)
    return _is_island(loser) or shares is None or shares.colour > 0.25


def _is_shadow_yet(winner: Reading, loser: Reading) -> bool:
    """Whether a dark place was seen, or the rim that stands out is no more than where the light
    falls off: a shadow that ends at the outline is an edge there too.
    """
    (_, _, w, h), (_, _, width, height) = winner.bbox, loser.bbox
    return not loser.shown(Shadow).across_rim or (
        winner.kind in ("seam", "halo") and w * h < 1.6 * width * height
    )


def _is_not_in_colour(winner: Reading, loser: Reading) -> bool:
    return not _in_colour(loser)


EXPLAINS: tuple[Explains, ...] = (
    # Too much grain makes nothing foreign.
    Explains("grain", "invented", 0.4, unless=_has_colour),
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
    Explains("invented", "smear", 0.4, unless=_is_a_smooth_place),
    # Another light makes colours foreign that are not far from what they should be.
    Explains("tone", "invented", 0.4, unless=_is_more_than_colour),
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
    Explains("seam", "tone", 0.3, unless=_is_soft_patch),
    Explains("halo", "tone", 0.3, ratio=1.0, unless=_is_more_than_the_ring),
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
        Explains(winner, "shadow", 0.2, unless=_is_shadow_yet)
        for winner in ("seam", "halo", "repeat", "residue", "invented")
    ),
    # What belongs to nothing around has its own edges, tone, grain and sharpness.
    Explains("halo", "invented", 0.5, unless=_is_no_fringe),
    *(
        Explains("invented", loser, 0.5, ratio=0.9, unless=_is_a_spot_in_it)
        for loser in ("seam", "halo")
    ),
    *(
        Explains("invented", loser, 0.4, unless=_is_a_spot_in_it)
        for loser in ("tone", "grain", "soft")
    ),
    Explains("invented", "line", 0.4, ratio=1.0, unless=_is_a_spot_in_it),
    # Where hardly anything but grain lies around, more of it is no sharpness.
    Explains("grain", "soft", 0.3, unless=_is_no_grain_alone),
    # A fill enlarged from less has lost its grain too, a sharpened one has more of it.
    Explains("soft", "grain", 0.3, unless=_is_other_way),
    # Colour shows grain that nobody sees. What is sharpened has more of it, and what was softened
    # or enlarged was given some again, of a strength of its own.
    Explains("soft", "grain", 0.3, ratio=0.5, unless=_is_not_in_colour),
    # Another light makes a step where it ends softly; too little of one to be a seam.
    Explains("tone", "seam", 0.5, unless=_is_hard_step),
    Explains("tone", "halo", 0.5, ratio=1.3),
)


def _explained(kept: list[Reading]) -> None:
    """Take out what a stronger reading of another kind explains."""
    for rule in EXPLAINS:
        for winner in [r for r in kept if r.kind == rule.winner]:
            for loser in [r for r in kept if r.kind == rule.loser]:
                if winner not in kept or (rule.unless is not None and rule.unless(winner, loser)):
                    continue
                share = _covered(winner, loser) if rule.of_loser else _overlap(winner, loser)
                if share >= rule.share and winner.score >= rule.ratio * loser.score:
                    winner.runner_up = winner.runner_up or loser.kind
                    kept.remove(loser)


def _called(reading: Reading, kind: str, shown: Evidence) -> None:
    """Give a reading another kind; its own is its runner-up."""
    reading.kind, reading.runner_up, reading.evidence = kind, reading.kind, shown


def arbitrate(readings: list[Reading], unreported: Sequence[Reading] = ()) -> list[Reading]:
    """Drop readings that another explains better; the winner names the loser's kind as its
    runner-up.

    Args:
        readings: of one region, those over the reporting threshold.
        unreported: those below it, which may still say what another is.

    A rim may be a shadow's (`_shadows`) or the thing's own edge. Missing detail gets one name by
    its signature (`named`). What explains what is `EXPLAINS`,
            in that order. Seam against halo: `_is_ring`; both may be the thing's own edge,
            `_is_trace`. The same kind twice at
    one place is one finding.
    """
    kept = list(readings)
    for halo in [r for r in readings if r.kind == "halo"]:
        for seam in [r for r in readings if r.kind == "seam"]:
            if halo not in kept or seam not in kept or _overlap(halo, seam) < 0.4:
                continue
            is_ring = _fades(seam) or (_is_ring(halo, seam) and not _stays(seam))
            winner, loser = (halo, seam) if is_ring else (seam, halo)
            winner.runner_up = loser.kind
            kept.remove(loser)
            if _is_trace(halo, seam) and not _is_pasted_in(seam, kept):
                _called(seam, "residue", replace(_rim(seam), what="ghost"))
    for seam in [r for r in kept if r.kind == "seam" and _fades(r)]:
        shown = _rim(seam)
        assert shown.step is not None and shown.fades is not None
        ring = Ring(
            shown.step.lightness,
            shown.step.a,
            shown.step.b,
            round(1.7 * shown.fades.width_px),
            -round(shown.fades.centre_px),
        )
        _called(seam, "halo", replace(shown, what="ring", ring=ring))
    _shadows(kept, unreported)
    for halo in [r for r in kept if r.kind == "halo" and _traces(r) and not _is_pasted_in(r, kept)]:
        _called(halo, "residue", replace(_rim(halo), what="ghost"))
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
        _called(tone, "residue", replace(tone.shown(Tone), what="ghost"))
    _one_lack(kept)
    _sharpness_after_all(kept, unreported)
    _light_is_nothing_foreign(kept)
    _explained(kept)
    final: list[Reading] = []
    for reading in sorted(kept, key=lambda r: -r.score):
        if not any(
            other.kind == reading.kind
            and reading.kind != "repeat"
            and _overlap(other, reading) > 0.6
            for other in final
        ):
            final.append(reading)
    return final
