"""What missing or added detail is called, by what it lacks and what grew with it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..report import Reading
from .places import detail_of, overlap


def is_other_way(winner: Reading, loser: Reading) -> bool:
    """Soft and too little grain go together, sharp and too much of it; and where sharpening cleared
    what lies between edges, it looks denoised.
    """
    together = {("soft", "less grain"), ("sharp", "more grain")}
    if detail_of(loser).texture_over_grain is None:
        together.add(("sharp", "less grain"))
    return (winner.evidence.what, loser.evidence.what) not in together


def is_no_grain_alone(winner: Reading, loser: Reading) -> bool:
    """Whether what reads as another grain is not so alone that it says what sharpness does."""
    if detail_of(winner).seen_in == "brightness alone":
        # Sharpening would have raised the grain of each colour with it.
        return loser.evidence.what != "sharp"
    return (winner.evidence.what, loser.evidence.what) != (
        "more grain",
        "sharp",
    ) or not _in_flat_places(winner)


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
    missing = detail_of(reading).missing_by_size
    return (0.0, 0.0) if missing is None else (float(missing[0]), float(missing[1]))


def _sparser(reading: Reading) -> float:
    return detail_of(reading).sparser or 0.0


#: Below it the texture of places that count as flat is less than their grain.
_FLAT = 0.9


def _in_flat_places(grain: Reading) -> bool:
    """Whether grain was seen where hardly anything else lies."""
    texture = detail_of(grain).texture_over_grain
    return texture is not None and texture < _FLAT


def _is_denoised(reading: Reading) -> bool:
    """Whether grain is gone, but edges stand: no blur leaves both. Or fine texture went with it,
    which denoising takes for grain, but not as in a blur.
    """
    grain, fine = _lacks(reading)
    how, shown = _sparser(reading), detail_of(reading)
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
    shown = detail_of(reading)
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
    lacks = detail_of(reading).missing_by_size
    if lacks is None:
        return reading.kind
    grain, fine, _, coarse = (float(value) for value in lacks)
    if _is_denoised(reading):
        return "grain"
    if reading.kind == "soft" and reading.measure.value < -_WASHED_OUT:
        return "smear"
    known = detail_of(reading).grain_gone
    gone = _GRAIN_GONE if known is None else known
    if (fine - coarse > 1.1 and fine > 1.2) or (
        grain > gone and (fine > 0.5 or reading.kind != "grain")
    ):
        return "smear"
    return "grain" if reading.kind == "grain" else "soft"


def _is_coarse_too(smear: Reading) -> bool:
    """Whether a smear took what is coarser than grain."""
    missing = detail_of(smear).missing_by_scale
    return missing is None or float(missing[-1]) > 0.45 * float(missing[0])


def _is_washed_in_part(smear: Reading) -> bool:
    """Whether grain went, and the finest detail with it, in a part of the fill only: what denoises,
    enlarges or lays on grain does so all over.
    """
    grain, fine = _lacks(smear)
    return (
        detail_of(smear).expected_from == "least grain"
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
    share = detail_of(reading).share_of_fill
    return share is not None and share < 0.5


def _in_colour(grain: Reading) -> bool:
    return detail_of(grain).seen_in == "colour"


def _lacks_detail(reading: Reading) -> bool:
    return reading.kind == "smear" or (reading.kind, reading.evidence.what) in (
        ("soft", "soft"),
        ("grain", "less grain"),
    )


def one_lack(kept: list[Reading]) -> None:
    """Smear, soft and too little grain at one place are one flaw: it is called what its signature
    says, and the strongest reading stands for it.
    """
    lacking = sorted((r for r in kept if _lacks_detail(r)), key=lambda r: -r.score)
    while lacking:
        first = lacking.pop(0)
        same = [r for r in lacking if overlap(first, r) >= 0.3]
        lacking = [r for r in lacking if r not in same]
        together = [first, *same]
        # Grain is measured in flat places only and softness in textured ones: with both it is the
        # textured that are looked at.
        # Of two that miss grain, the one that saw flat places says more of it.
        by_kind = {
            r.kind: r
            for r in sorted(
                together, key=lambda r: (detail_of(r).texture_over_grain is not None, r.score)
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
    shown = detail_of(grain)
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


def sharpness_after_all(kept: list[Reading], unreported: Sequence[Reading]) -> None:
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


def is_not_in_colour(winner: Reading, loser: Reading) -> bool:
    """Whether grain was seen in brightness too."""
    return not _in_colour(loser)
