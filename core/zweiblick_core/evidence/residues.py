"""Of a residue: bits of the thing that were kept, or its ghost."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from .base import Evidence, Numbers


@dataclass(frozen=True, eq=False, kw_only=True)
class Kept(Evidence):
    """Pixels of the thing that are still there. `what`: `dot`, `sliver`, `sliver at the frame's
    edge`. `times_natural`: how much more they are than what is alike by chance.
    """

    type: ClassVar[str] = "kept"
    pixels: int
    times_natural: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Ghost(Evidence):
    """The thing's detail in the fill.

    Attributes:
        correlation: of the fill's detail with the thing's at its own place; elsewhere: the same at
            other places. spreads: how far beyond those, by way of looking.
        seen_in: `brightness`, `brightness and colour`.
    """

    type: ClassVar[str] = "ghost"
    correlation: float
    spreads: float
    elsewhere: Numbers
    seen_in: str
