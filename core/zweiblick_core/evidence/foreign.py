"""Of something invented: what belongs to nothing around."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from .base import Evidence, Lab, Numbers


@dataclass(frozen=True)
class Shares:
    """What part of the distance each group of descriptors makes, 0..1."""

    detail: float
    colour: float
    structure: float


@dataclass(frozen=True)
class Odd:
    """One descriptor and by how many spreads of the surroundings it departs."""

    what: str
    spreads: float


@dataclass(frozen=True)
class StandsOff:
    """The difference that a place keeps against all that lies `surroundings_px` about it, and its
    size, CIE76.
    """

    difference: Lab
    delta_e: float
    surroundings_px: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Foreign(Evidence):
    """A place unlike any around.

    Attributes:
        shares, odd: what makes it so. inside, around: contrast of each octave, L*, at
            wavelengths_px. patch_px: the side of what was compared.
        stands_off: where it does from its surroundings too; hardness: how much of its edge is
            hard, 0..1.
    """

    type: ClassVar[str] = "foreign"
    shares: Shares
    odd: tuple[Odd, ...]
    inside: Numbers
    around: Numbers
    wavelengths_px: Numbers
    patch_px: int
    stands_off: StandsOff | None = None
    hardness: float | None = None


@dataclass(frozen=True, eq=False, kw_only=True)
class Island(Evidence):
    """A place that stands off from its surroundings as nothing else does."""

    type: ClassVar[str] = "island"
    stands_off: StandsOff
    hardness: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Departs(Evidence):
    """A fill that does not continue what it adjoins.

    Attributes:
        across, together, novel: differences across the outline, their mean, and distance to what
            lies around, spreads of the same outline over untouched ground.
        odd: the channels that differ most across the outline, inside less outside.
        inside, around: contrast of detail at wavelengths_px, L*.
    """

    type: ClassVar[str] = "departs"
    across: float
    together: float
    novel: float
    odd: tuple[Odd, ...]
    inside: Numbers
    around: Numbers
    wavelengths_px: Numbers
