"""Soft: sharpness that does not fit, either way: less detail than around, as if enlarged; or a
sharp fill on blurred ground.

How far a fill shows a blur of 0.8 px with grain added again, or such a blur undone
(`trials`). Stated as the blur that would leave it so.
"""

from __future__ import annotations

import numpy as np

from ..evidence import Detail
from ..features.detail.ground import Ground, ground_of
from ..features.trials import BLUR, Shown, judged, reading_of, shows_of
from ..report import Abstention, Measure, Natural, Reading
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "outline"
#: Excess that scores 0.5, by size of what is looked at.
_HALF = {-1: (3.8, 3.4, 2.9), 1: (4.6, 4.4, 4.1)}
#: What counts as a departure at all, parts of the blur's effect.
_LEAST = (0.5, 0.42, 0.34)


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """One reading softer and one sharper than around. See the module's docstring for the method."""
    ground = ground_of(window)
    if isinstance(ground, str):
        return Abstention(ground)
    shows = shows_of(window, carriers, ground)
    if not (shows.softer.tells and shows.sharper.tells):
        return Abstention(
            "too little texture in the fill, or around the region, to know how sharp this place should be"
        )
    return [
        _side(window, ground, shows.softer, -1, shows.grain_gone),
        _side(window, ground, shows.sharper, 1, shows.grain_gone),
    ]


def _as_blur(amount: float) -> float:
    """An amount as the blur that does it, pixels: variances add."""
    return BLUR * float(np.sign(amount) * np.sqrt(abs(amount)))


def _side(
    window: Window, ground: Ground, shown: Shown, sign: int, grain_gone: float | None
) -> Reading:
    made = judged(window, ground, shown, _HALF[sign], _LEAST)
    low, high = sorted(_as_blur(sign * value) for value in (made.natural.low, made.natural.high))
    measure = Measure(
        "sharpness against what lies around, as a blur",
        _as_blur(sign * made.amount),
        "px",
        Natural(low, high, made.natural.n, made.natural.null),
    )
    return reading_of(
        "soft",
        window,
        ground,
        made,
        measure,
        3,
        Detail(
            what="soft" if sign < 0 else "sharp",
            textured_share=float(shown.seen[ground.inside].mean()),
            grain_gone=grain_gone,
        ),
    )
