"""Of a seam or a halo: what the boundary shows, along it and across it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from .base import Evidence, Lab, Numbers, Points


@dataclass(frozen=True)
class Strip:
    """At the points of the line: the measure, the 5th and 95th percentile of its parallels, and
    the unit vector that points outward.
    """

    value: Numbers
    low: Numbers
    high: Numbers
    outward: Points


@dataclass(frozen=True)
class Profile:
    """The mean across the stretch, CIELAB, at distances from the boundary, outside positive;
    `low`, `high`: of lightness, what the same length of rim is elsewhere.
    """

    offset_px: Numbers
    lightness: Numbers
    a: Numbers
    b: Numbers
    low: Numbers | None = None
    high: Numbers | None = None

    @property
    def lab(self) -> np.ndarray:
        """(n, 3), from inside to outside."""
        return np.stack([np.asarray(one, float) for one in (self.lightness, self.a, self.b)], -1)


@dataclass(frozen=True)
class Along:
    """The measure along the whole boundary with its natural band; the stretch is from `start` to
    `end`, indices of it.
    """

    value: Numbers
    low: Numbers
    high: Numbers
    start: int
    end: int
    unit: str


@dataclass(frozen=True)
class Ring(Lab):
    """A ring's colour against both sides of it, how wide it is, and how far outside the boundary
    its middle lies.
    """

    width_px: float
    centre_px: float


@dataclass(frozen=True)
class Fades:
    """Whether a hard step is the outer edge of a ring: the odds (natural logarithm), the `share` of
    it that is gone a little inside, what is `natural`, and where it is gone.
    """

    odds: float
    share: float
    natural: float
    centre_px: float
    width_px: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Rim(Evidence):
    """A stretch of the boundary. `what`: `step`, `cut`, `ring`, `ghost`.

    Attributes:
        line: points along it. step: from inside to outside; ring: of a halo.
        likeness_to_removed: cosine of its colour with the removed thing's.
        hard: whether the step lies between two pixels; by_bands: the score that wider bands gave.
    """

    type: ClassVar[str] = "rim"
    line: Points | None = None
    strip: Strip | None = None
    profile: Profile | None = None
    along: Along | None = None
    step: Lab | None = None
    ring: Ring | None = None
    likeness_to_removed: float | None = None
    fades: Fades | None = None
    hard: bool | None = None
    by_bands: float | None = None

    @property
    def likeness(self) -> float:
        """`likeness_to_removed`, 0 where it is not known."""
        return self.likeness_to_removed or 0.0
