"""Of a shadow that was left."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from .base import Evidence


@dataclass(frozen=True, eq=False, kw_only=True)
class Shadow(Evidence):
    """A dark place beside the fill, or light that falls off across its boundary.

    Attributes:
        darker: share of light taken, 0..1. neutral: 1 = alike in all colours.
        fill_is_lit: 0..1. ends_at_outline: share of its depth that is gone where it meets it.
        crossing: how far light falling off across the boundary stands out, natural spreads;
            across_rim: whether it was recognised by that.
        hint: whether it is no more than one.
    """

    type: ClassVar[str] = "shadow"
    darker: float
    neutral: float
    fill_is_lit: float
    ends_at_outline: float
    crossing: float
    across_rim: bool
    hint: bool = True
