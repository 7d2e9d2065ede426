"""Of a smear, too soft or sharp, too little or much grain: contrast by octave."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from .base import Evidence, Numbers


@dataclass(frozen=True)
class Streaks:
    """How far detail runs one way, 0..1, and which way, degrees."""

    coherence: float
    angle: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Detail(Evidence):
    """Detail in a place of the fill against what is around. `what`: `soft`, `sharp`, `less grain`,
    `more grain`; None for a smear.

    Attributes:
        inside, around: contrast of each octave, L*, at wavelengths_px.
        missing_by_scale, missing_by_size: what is missing, natural logarithm of energy; by size:
            of grain, and of detail at three scales.
        sparser: how much more the finest detail stands in a few places than around.
        streaks: of a smear. patch_px: the side of what was compared.
        expected_from: what the surroundings' detail was expected from.
        share_of_fill: how much of the fill it is, 0..1.
        ratio: of grain. texture_over_grain, flat_share: where flat places showed it;
            textured_share: where textured ones did, 0..1.
        seen_in: `colour`, `brightness alone`; None for brightness.
        sigma_around: of grain, the standard deviation of luma that what is around has, levels of
            255.
        grain_gone: from what loss of grain on a blurred place was not given grain again.
    """

    type: ClassVar[str] = "detail"
    inside: Numbers | None = None
    around: Numbers | None = None
    wavelengths_px: Numbers | None = None
    missing_by_scale: Numbers | None = None
    missing_by_size: Numbers | None = None
    sparser: float | None = None
    streaks: Streaks | None = None
    patch_px: int | None = None
    expected_from: str | None = None
    share_of_fill: float | None = None
    ratio: float | None = None
    texture_over_grain: float | None = None
    flat_share: float | None = None
    textured_share: float | None = None
    seen_in: str | None = None
    grain_gone: float | None = None
    sigma_around: float | None = None
