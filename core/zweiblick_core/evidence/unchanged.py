"""Of a region where nothing was removed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from .base import Evidence


@dataclass(frozen=True, eq=False, kw_only=True)
class Unchanged(Evidence):
    """Shares of pixels that changed, 0..1: in the region, and outside every region."""

    type: ClassVar[str] = "unchanged"
    share: float
    outside: float
