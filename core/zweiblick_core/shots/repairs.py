"""Which frames to repair first: those whose repair, carried by the ground's motion, mends most others."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .locked import Locked

#: A frame is mended by another that shows so much of what was removed from it.
_MENDED = 0.98
#: So many frames are tried; so many are named at most.
_TRIED, _NAMED = 32, 6
#: Every so many-th pixel is looked at.
_STEP = 3


@dataclass(frozen=True)
class Repair:
    """A frame to repair. `mends`: frames that are mended with it and those named before it, itself included."""

    frame: int
    mends: int


def repairs_first(locked: Locked) -> list[Repair]:
    """Frames to repair, the one that mends most first, until every frame in which the region is seen is
    mended or no further one helps.

    What is to be filled in a frame is known from a repaired one where that shows it: as ground, or repaired,
    and not behind what passes in front.
    """
    wanted = [
        (one & valid & ~over)[::_STEP, ::_STEP]
        for one, valid, over in zip(locked.mask, locked.valid, locked.covered, strict=True)
    ]
    shown = [number for number, one in enumerate(wanted) if one.any()]
    if not shown:
        return []
    tried = sorted(
        {shown[int(at)] for at in np.linspace(0, len(shown) - 1, min(_TRIED, len(shown)))}
    )
    mended: dict[int, set[int]] = {}
    for frame in tried:
        seen = (locked.valid[frame] & ~locked.covered[frame])[::_STEP, ::_STEP]
        mended[frame] = {
            number
            for number in shown
            if (wanted[number] & seen).sum() >= _MENDED * wanted[number].sum()
        } | {frame}
    middle = shown[len(shown) // 2]
    found: list[Repair] = []
    done: set[int] = set()
    while len(found) < _NAMED and len(done) < len(shown):
        # Of several the one nearest to the middle: it is carried least far.
        frame = max(tried, key=lambda one: (len(mended[one] - done), -abs(one - middle)))
        if not mended[frame] - done:
            break
        done |= mended[frame]
        found.append(Repair(frame, len(done)))
    return found
