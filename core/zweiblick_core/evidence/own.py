"""Of a flaw that a person marked."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from .base import Evidence


@dataclass(frozen=True, eq=False, kw_only=True)
class Own(Evidence):
    """In that person's words."""

    type: ClassVar[str] = "own"
    words: str = ""
