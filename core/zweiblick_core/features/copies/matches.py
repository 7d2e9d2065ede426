"""The best counterpart of a tile: proposed by structure, or where the grain of more than a tile lies
again, and verified by its grain at full resolution.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ...scene.window import REACH
from .again import Again
from .grain import EMPTY, agreement, plain_agreement, variance
from .searched import Searched


@dataclass(frozen=True)
class Match:
    """A tile and its best counterpart. Positions are full resolution window pixels (x, y) of top
    left corners.

    `mirrored`: the source must be flipped left-right to give the copy. `likeness`: of all detail,
    -1..1; `agreement`: of the grain, taken where neither has structure, -1..1;
    `grain`: its deviation there, levels of 255; `coarse`: likeness of structure, 0 where it was
    found by its grain alone.
    """

    at: tuple[int, int]
    source: tuple[int, int]
    side: int
    mirrored: bool
    likeness: float
    agreement: float
    grain: float
    coarse: float


def best_match(
    fine: np.ndarray,
    steep: np.ndarray,
    band: Searched,
    mirrored_band: Searched | None,
    at: tuple[int, int],
    side: int,
    filled: np.ndarray | None = None,
) -> Match | None:
    """The best verified counterpart of the tile at `at`; None if the tile is too near empty.
    `filled`: of a tile of the fill only what lies in it is compared.
    """
    x, y = at
    tile = fine[y : y + side, x : x + side]
    if tile.shape != (side, side) or variance(tile) < EMPTY**2:
        return None
    step = band.step
    half = side // step
    hx, hy = x // step, y // step
    template = band.plane[hy : hy + half, hx : hx + half]
    if template.shape != (half, half) or variance(template) < 1e-6:
        return None
    template = template - template.mean()
    best: Match | None = None
    inside = part_of(filled, at, side)
    reach = REACH // step
    for mirrored, plane in ((False, band), (True, mirrored_band)):
        if plane is None:
            continue
        # In the mirrored plane the tile's own place is at width - x - side.
        rows, columns = plane.plane.shape
        left, top = 0 if mirrored else max(0, hx - reach), max(0, hy - reach)
        bottom, right = (
            min(rows, hy + half + reach),
            columns if mirrored else min(columns, hx + half + reach),
        )
        if mirrored and columns > 2 * reach + half:
            # As near as anything else is sought: the tile's own place lies at columns - hx - half
            # there.
            own_x = columns - hx - half
            left, right = max(0, own_x - reach), min(columns, own_x + half + reach)
        if bottom - top <= half or right - left <= half:
            continue
        match = plane.correlated(template, top, left, bottom, right)
        # What lies over the tile itself is no source of it: every post is its own mirror image.
        cy, cx = hy - top, (columns - hx - half if mirrored else hx) - left
        match[
            max(0, cy - half // 2) : max(0, cy + half // 2 + 1),
            max(0, cx - half // 2) : max(0, cx + half // 2 + 1),
        ] = -1
        for _ in range(3):
            _, coarse, _, (px, py) = cv2.minMaxLoc(match)
            if coarse < 0.25:
                break
            near = 8 // step
            match[max(0, py - near) : py + near + 1, max(0, px - near) : px + near + 1] = -1
            sx, sy = (left + px) * step, (top + py) * step
            if mirrored:
                sx = fine.shape[1] - sx - side
            found = refined(fine, tile, (sx, sy), mirrored, step + 1)
            if found and (inside is not None or best is None or found[0] > best.likeness):
                best = _likelier(
                    best,
                    candidate(
                        fine, steep, at, found[1], side, mirrored, (found[0], float(coarse)), inside
                    ),
                )
    return best


def proposed(
    fine: np.ndarray,
    steep: np.ndarray,
    at: tuple[int, int],
    side: int,
    again: list[Again],
    best: Match | None,
    filled: np.ndarray,
) -> Match | None:
    """The likest of a tile's best counterpart so far and of those that lie with it where grain lies
    again.
    """
    tile, inside = fine[at[1] : at[1] + side, at[0] : at[0] + side], part_of(filled, at, side)
    if tile.shape != (side, side) or variance(tile) < EMPTY**2:
        return best
    for one in again:
        right = one.at[0] + one.side - at[0] - side if one.mirrored else at[0] - one.at[0]
        near = (one.there[0] + right, one.there[1] + at[1] - one.at[1])
        found = refined(fine, tile, near, one.mirrored) if min(near) >= 0 else None
        if found and (inside is not None or best is None or found[0] > best.likeness):
            here = candidate(fine, steep, at, found[1], side, one.mirrored, (found[0], 0.0), inside)
            # Of a narrow fill there is too little to be alike by: what was proposed by its grain is
            # taken by that.
            best = (
                here if best is None or inside is None or here.agreement > best.agreement else best
            )
    return best


#: Of a tile that lies in the fill by less than this only what does is compared.
_MOSTLY = 0.9


def part_of(filled: np.ndarray | None, at: tuple[int, int], side: int) -> np.ndarray | None:
    """Which of a tile's pixels lie in the fill (bool), where not nearly all do; None to compare all
    of them.
    """
    part = None if filled is None else filled[at[1] : at[1] + side, at[0] : at[0] + side]
    return part if part is not None and 0 < part.mean() < _MOSTLY else None


def _likelier(best: Match | None, one: Match) -> Match:
    return one if best is None or one.likeness > best.likeness else best


def candidate(
    fine: np.ndarray,
    steep: np.ndarray,
    at: tuple[int, int],
    source: tuple[int, int],
    side: int,
    mirrored: bool,
    alike: tuple[float, float],
    inside: np.ndarray | None,
) -> Match:
    """A tile with a source that was found for it.

    Args:
        alike: likeness of all detail, and of structure. inside: bool, the pixels that are compared,
            where not all are.
    """
    here, there = ((slice(y, y + side), slice(x, x + side)) for x, y in (at, source))
    other, slope = (plane[there][:, ::-1] if mirrored else plane[there] for plane in (fine, steep))
    agreed, grain = plain_agreement(fine[here], other, np.maximum(steep[here], slope), inside)
    # What lies beside the fill is as it was, and no copy's.
    return Match(
        at,
        source,
        side,
        mirrored,
        alike[0] if inside is None else agreement(fine[here][inside], other[inside]),
        agreed,
        grain,
        alike[1],
    )


def refined(
    fine: np.ndarray, tile: np.ndarray, near: tuple[int, int], mirrored: bool, within: int = 3
) -> tuple[float, tuple[int, int]] | None:
    """Best full resolution position within some px: (agreement, (x, y))."""
    side = tile.shape[0]
    x0, y0 = max(0, near[0] - within), max(0, near[1] - within)
    patch = fine[y0 : near[1] + within + side, x0 : near[0] + within + side]
    if patch.shape[0] < side or patch.shape[1] < side:
        return None
    wanted = np.ascontiguousarray(tile[:, ::-1]) if mirrored else tile
    match = cv2.matchTemplate(patch, wanted, cv2.TM_CCOEFF_NORMED)
    _, _, _, (px, py) = cv2.minMaxLoc(match)
    return agreement(wanted, patch[py : py + side, px : px + side]), (x0 + px, y0 + py)


def offset_of(match: Match) -> tuple[bool, int, int]:
    """Whether it is mirrored, and where its source lies: by how much (x, y) it is moved; of a
    mirrored one twice its axis instead of x.
    """
    dx = match.source[0] + match.at[0] if match.mirrored else match.source[0] - match.at[0]
    return match.mirrored, dx, match.source[1] - match.at[1]
