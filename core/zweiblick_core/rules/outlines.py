"""What a new outline of a region means for what was said of it."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from ..regions import Region
from ..regions.framing import Window
from .verdicts import FAILING, PASSING

#: What an outline may gain at its edge without anything new being judged: soft edges of a mask.
EDGE_PX = 1
#: A failing verdict whose flaws nobody placed stays while so much of the outline is the same.
_SAME_PLACE = 0.5


def ruling_stands(
    ruling: str,
    old: Region,
    new: Region,
    flaws: Sequence[Sequence[Sequence[float]]],
    frame: tuple[int, int],
) -> bool:
    """Whether a ruling on a region still says something once its outline is another one.

    A pass was given to all that the old outline held, so it stands for less of it, and not for
    anything that nobody judged. A failing verdict stands while the flaws it rests on are mostly
    still inside; if none was placed, while half of the outline is the same.

    Args:
        ruling: the standing one.
        flaws: polygons ([x, y] each) of what was confirmed or outlined by a person there.
        frame: (height, width) of the original.
    """
    window = Window([old, new], frame, EDGE_PX + 1)
    before, after = window.mask(old), window.mask(new)
    if ruling in PASSING:
        reach = np.ones((2 * EDGE_PX + 1, 2 * EDGE_PX + 1), np.uint8)
        judged = cv2.dilate(before.view(np.uint8), reach).view(bool)
        return not (after & ~judged).any()
    if ruling not in FAILING:
        return False
    if flaws:
        kept = [new.covered([flaw]) * new.mask.sum() for flaw in flaws]
        had = [old.covered([flaw]) * old.mask.sum() for flaw in flaws]
        return any(now >= 0.5 * then and now > 0 for now, then in zip(kept, had, strict=True))
    return bool((before & after).sum() >= _SAME_PLACE * (before | after).sum())
