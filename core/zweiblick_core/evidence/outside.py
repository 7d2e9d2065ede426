"""Of overreach: what changed outside every region."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from .base import Evidence


@dataclass(frozen=True)
class Levels:
    """A difference by channel, levels of 255."""

    red: float
    green: float
    blue: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Outside(Evidence):
    """A change outside every region. `what`: `tone`, `detail`, `pixels`."""

    type: ClassVar[str] = "outside"
    difference: Levels
