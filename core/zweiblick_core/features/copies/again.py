"""Where the grain of a large part of a fill lies again, sought blindly."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ...scene.window import REACH

#: The largest part of the fill whose grain is sought at once, pixels; by how many spreads a place
#: must stand out, and how many are looked at.
_AT_ONCE, STANDS_OUT, _FEW = 96, 5.5, 3
#: By how many one where it is turned: what is proposed so must be brought into register, and chance
#: stands out by 7.
TURNED_OUT = 8.0


@dataclass(frozen=True)
class Again:
    """A square of the fill, and where its grain lies again: `at`, `there`: top left corners (x, y),
    of `there` in the picture as it is; `side`: pixels; `mirrored`: flipped left
    to right; `quarters`: turned by so many, as `np.rot90` turns; `sure`: natural spreads."""

    at: tuple[int, int]
    there: tuple[int, int]
    side: int
    mirrored: bool
    quarters: int
    sure: float


def grain_again(
    fine: np.ndarray, filled: np.ndarray, quarters: tuple[int, ...], least: float
) -> list[Again]:
    """Where a large part of the fill's grain lies again, the surest first. One tile has too little
    of it to be sought blindly.

    Args:
        quarters: turns that are tried; unturned it is sought mirrored too.
        least: by how many spreads a place must stand out.
    """
    inside = filled[:, : fine.shape[1]].astype(np.float32)
    x, y, w, h = cv2.boundingRect(inside.astype(np.uint8))
    side = min(w, h, _AT_ONCE)
    if side < 12:
        return []
    if max(w, h) > side:
        # The square that has most of the fill in it, and most of what is not the fill around it.
        coarse = cv2.resize(inside, None, fx=0.125, fy=0.125, interpolation=cv2.INTER_AREA)
        own, far = (2 * (some // 16) + 1 for some in (side, 2 * REACH))
        worth = cv2.boxFilter(
            coarse, -1, (own, own), borderType=cv2.BORDER_CONSTANT
        ) * cv2.boxFilter(1 - coarse, -1, (far, far), borderType=cv2.BORDER_CONSTANT)
        _, _, _, (cx, cy) = cv2.minMaxLoc(worth)
        x, y = (
            int(np.clip(8 * at + 4 - side // 2, low, low + long - side))
            for at, low, long in ((cx, x, w), (cy, y, h))
        )
    top, left = max(0, y - REACH), max(0, x - REACH)
    around = (slice(top, y + side + REACH), slice(left, x + side + REACH))
    template, elsewhere = (
        fine[y : y + side, x : x + side] * inside[y : y + side, x : x + side],
        fine[around] * (1 - inside[around]),
    )
    found = []
    for turns, mirrored in [
        *((some, False) for some in quarters),
        *([(0, True)] if 0 in quarters else []),
    ]:
        wanted = np.ascontiguousarray(np.rot90(template[:, ::-1] if mirrored else template, turns))
        match = cv2.matchTemplate(elsewhere, wanted, cv2.TM_CCORR)
        spread = float(match.std()) + 1e-6
        for _ in range(_FEW):
            _, peak, _, (px, py) = cv2.minMaxLoc(match)
            if peak < least * spread:
                break
            match[max(0, py - 2) : py + 3, max(0, px - 2) : px + 3] = 0
            found.append(
                Again((x, y), (left + px, top + py), side, mirrored, turns, float(peak / spread))
            )
    return sorted(found, key=lambda one: -one.sure)[:_FEW]
