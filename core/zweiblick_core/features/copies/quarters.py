"""Copies turned by quarters: whole pixels come from whole pixels."""

from __future__ import annotations

import cv2
import numpy as np

from ...scene.window import REACH
from .grain import variance
from .searched import Searched

#: Tiles that are sought turned by quarters; the least likeness of structure that proposes a place;
#: how far apart proposals of one copy may lie, pixels.
_QUARTERED, _ALIKE, _APART = 6, 0.35, 6.0


def quartered(quarters: int, at: tuple[int, int], there: tuple[int, int], last: int) -> np.ndarray:
    """(2, 3) matrix from an area to where a square of it, `last` + 1 px wide, lies turned by
    quarters; corners (x, y) at `at` and `there`.
    """
    (x, y), (sx, sy) = at, there
    turn, shift = {
        1: (((0, 1), (-1, 0)), (sx - y, sy + last + x)),
        2: (((-1, 0), (0, -1)), (sx + last + x, sy + last + y)),
        3: (((0, -1), (1, 0)), (sx + last + y, sy - x)),
    }[quarters]
    return np.column_stack([np.array(turn, float), np.array(shift, float)])


def by_quarters(
    band: Searched, tiles: list[tuple[int, int]], side: int
) -> list[tuple[np.ndarray, np.ndarray]]:
    """Copies turned by one, two or three quarters, as proposals: ((2, 3) matrix from area to
    source, (n, 2) points that said so), those of most tiles first.

    A quarter turn moves whole pixels to whole pixels, so a turned tile is found as a plain one is;
    fine texture has too few corners for `turned`.
    """
    step = band.step
    half, last, reach = side // step, side - 1, REACH // step
    proposed: list[tuple[int, np.ndarray, tuple[int, int], float]] = []
    some = tiles[:: -(-len(tiles) // _QUARTERED)]
    for x, y in some:
        hx, hy = x // step, y // step
        if min(hx, hy) < 0:
            continue
        template = band.plane[hy : hy + half, hx : hx + half]
        if template.shape != (half, half) or variance(template) < 1e-6:
            continue
        template = template - template.mean()
        top, left = max(0, hy - reach), max(0, hx - reach)
        bottom, right = (
            min(band.plane.shape[0], hy + half + reach),
            min(band.plane.shape[1], hx + half + reach),
        )
        if bottom - top <= half or right - left <= half:
            continue
        for quarters in (1, 2, 3):
            match = band.correlated(
                np.ascontiguousarray(np.rot90(template, quarters)), top, left, bottom, right
            )
            match[
                max(0, hy - top - half // 2) : hy - top + half // 2 + 1,
                max(0, hx - left - half // 2) : hx - left + half // 2 + 1,
            ] = -1
            for _ in range(2):
                _, alike, _, (px, py) = cv2.minMaxLoc(match)
                if alike < _ALIKE:
                    break
                near = 8 // step
                match[max(0, py - near) : py + near + 1, max(0, px - near) : px + near + 1] = -1
                sx, sy = (left + px) * step, (top + py) * step
                proposed.append(
                    (
                        quarters,
                        quartered(quarters, (x, y), (sx, sy), last)[:, 2],
                        (x, y),
                        float(alike),
                    )
                )
    clusters: list[tuple[float, np.ndarray, np.ndarray]] = []
    for quarters, moved, _, _ in proposed:
        same = [
            one for one in proposed if one[0] == quarters and np.hypot(*(one[1] - moved)) <= _APART
        ]
        # A turned copy fills what it was pasted into: a third of its tiles must say the same.
        if len({at for _, _, at, _ in same}) < max(min(2, len(some)), -(-len(some) // 3)):
            continue
        turn = quartered(quarters, (0, 0), (0, 0), last)[:, :2]
        seen = np.array(
            [(x + dx, y + dy) for _, _, (x, y), _ in same for dx in (0, last) for dy in (0, last)],
            float,
        )
        clusters.append(
            (
                sum(alike for *_, alike in same),
                np.column_stack([turn, np.median([one[1] for one in same], axis=0)]),
                seen,
            )
        )
    best: list[tuple[np.ndarray, np.ndarray]] = []
    for _, matrix, seen in sorted(clusters, key=lambda cluster: -cluster[0]):
        if all(np.abs(matrix - other).max() > _APART for other, _ in best):
            best.append((matrix, seen))
    return best[:2]
