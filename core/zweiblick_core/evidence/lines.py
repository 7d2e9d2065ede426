"""Of a line that is broken, or of a fill that lies off as a whole."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar

import numpy as np

from .base import INTERNAL, NULL, Evidence, Numbers, Points


@dataclass(frozen=True)
class Line:
    """One line: its ends outside, where it should run and where it was found, each a list of
    [x, y]; `amount`: px, degrees or share; `angle` in degrees.
    """

    ends: Points
    trace: Points
    straight: Points
    amount: float
    angle: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Lines(Evidence):
    """What is wrong with lines. `what`: `offset`, `kink`, `missing`, `tilt`, `wave`, `scale`,
    `shear`, `course`.

    Attributes:
        lines: the clearest first. count: how many there are. contrast: theirs, levels.
        from_both_sides: whether they were followed from both. faint: seen over their length only.
        horizon: whether a tilted one is level and long.
        whole: the fill as a whole; shift_px: (dx, dy) from where it would go on; at_least: whether
            it may be farther off than was looked.
        degrees, amount: how much, degrees or else px or per cent.
        entries: where they enter the fill, window's pixels; certain: whether there is no doubt that
            it is the same line. Neither is in reports.
    """

    type: ClassVar[str] = "line"
    lines: tuple[Line, ...]
    count: int
    contrast: float
    from_both_sides: bool
    horizon: bool
    faint: bool | None = None
    whole: bool | None = None
    shift_px: Numbers | None = None
    at_least: bool | None = None
    degrees: float | None = None
    amount: float | None = None
    entries: Sequence[np.ndarray] = field(default=(), metadata=INTERNAL)
    certain: bool = field(default=False, metadata=INTERNAL)


@dataclass(frozen=True, eq=False, kw_only=True)
class Course(Lines):
    """Edges that leave their vanishing point together; the point is None at infinity.
    `spread_degrees`: how far they do not agree among themselves.
    """

    type: ClassVar[str] = "line"
    spread_degrees: float
    vanishing_point: Numbers | None = field(metadata=NULL)

    @classmethod
    def reads(cls, plain: dict[str, Any]) -> bool:
        """Only of courses a vanishing point is written, if it be null."""
        return "vanishing_point" in plain
