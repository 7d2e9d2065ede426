"""Of a tone that is off."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from .base import Evidence, Lab, Numbers, Points


@dataclass(frozen=True)
class ToneMap:
    """By how much lightness departs, a row of cells each; `corner`: of the first, the original's
    pixels.
    """

    corner: Numbers
    cell_px: int
    lightness: Points


@dataclass(frozen=True, eq=False, kw_only=True)
class Tone(Evidence):
    """A patch whose colour departs. `what`: `ghost`, where it departs as the removed thing did.

    Attributes:
        difference: against what is around; delta_e: its size, CIE76. patch_px: the patch's side.
        expected_from: `membrane`, `plane`, `slopes`.
        likeness_to_removed: cosine with what the removed thing departed by, over cells;
            pattern_of_removed: the same about their means.
    """

    type: ClassVar[str] = "tone"
    difference: Lab
    delta_e: float
    patch_px: int | None = None
    expected_from: str | None = None
    likeness_to_removed: float = 0.0
    pattern_of_removed: float = 0.0
    map: ToneMap | None = None
