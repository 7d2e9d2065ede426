"""Copies of pieces smaller than a tile, of parts of a fill, and of what was turned upside down,
recognised by their grain alone.

Squares of the fill are moved over everything near, and over the fill itself, by the correlation of
their grain (as for whole fills in `repeat`): grain is found again where it was
copied and nowhere else, so even a small piece stands out of chance by several times. What is
proposed so is looked at closely: how far the grain agrees over a patch of
`PATCH` px (the correlation test of Lukas, Fridrich and Goljan 2006), against how far it agrees a
few pixels beside that place, which is all that straight edges and even
textures can show.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from .turned import MOVED, Similar

#: Squares of the fill that are looked for, pixels, how many at most, and how far around they are
#: sought.
SIDE, MOST, NEAR = 64, 8, 260
#: Fills of so many times as many squares are not looked through: what is pasted into them is larger
#: than a tile.
TOO_MANY = 4
#: By how many spreads a place must stand out to be looked at (chance: 5), how many each square
#: proposes, and how many are looked at in all.
STANDS_OUT, EACH, LOOKED_AT = 5.0, 4, 8
#: Where grain is compared, pixels across; how near itself a place is no copy.
PATCH, LEAST_MOVED = 25, 20
#: From where on a pixel's neighbourhood agrees, and how many must; by how much more all of them
#: must than with what lies beside.
AGREES, LEAST_AREA, MORE = 0.4, 250, 0.3
#: What part of a patch must lie in the fill.
_HELD = 0.15
#: How much of one piece may lie in another before both are one.
_SAME = 0.5


@dataclass(frozen=True)
class Way:
    """Whether a square is flipped left to right and upside down before it is sought."""

    sideways: bool
    upright: bool

    def applied(self, plane: np.ndarray) -> np.ndarray:
        """A plane (height, width) flipped so."""
        return np.ascontiguousarray(
            plane[:: -1 if self.upright else 1, :: -1 if self.sideways else 1]
        )


WAYS = (Way(False, False), Way(True, False), Way(False, True))


@dataclass(frozen=True)
class Proposal:
    """A rectangle of the fill (x, y, width, height), the corner (x, y) where its grain lies again,
    and by how many spreads it stands out.
    """

    box: tuple[int, int, int, int]
    there: tuple[int, int]
    way: Way
    sure: float


def squares_of(filled: np.ndarray) -> list[tuple[int, int, int, int]]:
    """Rectangles (x, y, width, height) of at most `SIDE` px that cover a fill, `MOST` of those that
    hold the most of it.
    """
    x, y, w, h = cv2.boundingRect(filled.view(np.uint8))
    across, down = -(-w // SIDE), -(-h // SIDE)
    wide, high = -(-w // across), -(-h // down)
    if min(wide, high) < 8:
        return []
    boxes = [
        (x + i * wide, y + j * high, min(wide, w - i * wide), min(high, h - j * high))
        for j in range(down)
        for i in range(across)
    ]
    held = [
        (float(filled[top : top + tall, left : left + long].sum()), (left, top, long, tall))
        for left, top, long, tall in boxes
        if min(long, tall) >= 8
    ]
    held = [one for one in held if one[0] >= LEAST_AREA]
    held.sort(key=lambda one: -one[0])
    # Of many that are full, some from everywhere; of very many a few would say nothing of all the
    # others.
    full = [box for much, box in held if much > 0.7 * held[0][0]]
    if len(full) > TOO_MANY * MOST:
        return []
    return full[:: -(-len(full) // MOST)] if len(full) > MOST else [box for _, box in held[:MOST]]


def _proposals(
    fine: np.ndarray, filled: np.ndarray, box: tuple[int, int, int, int], way: Way
) -> list[Proposal]:
    x, y, w, h = box
    top, left = max(0, y - NEAR), max(0, x - NEAR)
    around = fine[top : y + h + NEAR, left : x + w + NEAR]
    square = fine[y : y + h, x : x + w] * filled[y : y + h, x : x + w]
    if around.shape[0] <= h or around.shape[1] <= w:
        return []
    match = cv2.matchTemplate(around, way.applied(square), cv2.TM_CCORR)
    spread = 1.4826 * float(np.median(np.abs(match[::3, ::3]))) + 1e-6
    # The place itself, and what is its own mirror image.
    oy, ox = y - top, x - left
    own = (
        slice(max(0, oy - LEAST_MOVED), oy + LEAST_MOVED + 1),
        slice(max(0, ox - LEAST_MOVED), ox + LEAST_MOVED + 1),
    )
    left_over = match.copy()
    left_over[own] = 0
    found = []
    for _ in range(EACH):
        _, peak, _, (px, py) = cv2.minMaxLoc(left_over)
        if peak < STANDS_OUT * spread:
            break
        left_over[max(0, py - 2) : py + 3, max(0, px - 2) : px + 3] = 0
        # What stands out as much a few pixels beside runs straight on.
        there = lambda dx, dy: float(
            match[
                min(max(0, py + dy), match.shape[0] - 1), min(max(0, px + dx), match.shape[1] - 1)
            ]
        )
        beside = max(max(0.0, (there(dx, dy) + there(-dx, -dy)) / 2) for dx, dy in MOVED)
        if peak - beside >= STANDS_OUT * spread:
            found.append(Proposal(box, (left + px, top + py), way, float((peak - beside) / spread)))
    return found


def _looked_at(
    fine: np.ndarray, steep: np.ndarray, filled: np.ndarray, proposal: Proposal
) -> Similar | None:
    """What of a square and of what lies around it agrees with where a proposal lays it; None where
    nothing does, or no more than with what lies beside.
    """
    (x, y, w, h), (sx, sy), way = proposal.box, proposal.there, proposal.way
    height, width = fine.shape
    left, top = max(0, x - SIDE // 2), max(0, y - SIDE // 2)
    right, bottom = min(width, x + w + SIDE // 2), min(height, y + h + SIDE // 2)
    matrix = np.array(
        [
            [-1.0, 0, sx + x + w - 1] if way.sideways else [1.0, 0, sx - x],
            [0, -1.0, sy + y + h - 1] if way.upright else [0, 1.0, sy - y],
        ]
    )
    columns = (matrix[0, 0] * np.arange(left, right) + matrix[0, 2]).astype(int)
    rows = (matrix[1, 1] * np.arange(top, bottom) + matrix[1, 2]).astype(int)
    inside = filled[top:bottom, left:right] & np.logical_and.outer(
        (rows >= 0) & (rows < height), (columns >= 0) & (columns < width)
    )
    # What lies beside a narrow fill is as it was, and no copy's.
    here = fine[top:bottom, left:right] * inside
    there = fine[np.ix_(np.clip(rows, 0, height - 1), np.clip(columns, 0, width - 1))] * inside
    size = (PATCH, PATCH)
    held = inside & (cv2.blur(inside.astype(np.float32), size) > _HELD)
    local = np.where(
        held,
        cv2.blur(here * there, size)
        / np.sqrt(cv2.blur(here * here, size) * cv2.blur(there * there, size) + 1e-4),
        -1.0,
    )
    _, most, _, (px, py) = cv2.minMaxLoc(local)
    if most < AGREES:
        return None
    labels = cv2.connectedComponents((local > AGREES).astype(np.uint8), connectivity=4)[1]
    ys, xs = np.nonzero(labels == labels[py, px])
    if len(ys) < LEAST_AREA:
        return None
    own, at = here[ys, xs], (rows[ys], columns[xs])
    apart = float(np.hypot(np.mean(at[0] - ys) - top, np.mean(at[1] - xs) - left))
    if apart < max(LEAST_MOVED, 0.5 * min(np.ptp(ys), np.ptp(xs))):
        return None  # a letter, a post: its own mirror image

    def agrees(dx: int, dy: int) -> float:
        return _agreement(
            own, fine[np.clip(at[0] + dy, 0, height - 1), np.clip(at[1] + dx, 0, width - 1)]
        )

    if agrees(0, 0) - max((agrees(dx, dy) + agrees(-dx, -dy)) / 2 for dx, dy in MOVED) < MORE:
        return None
    # Things that are made alike agree along their edges; what has none agrees in a copy only.
    slope = np.maximum(steep[top + ys, left + xs], steep[at])
    flat = slope <= np.quantile(slope, 0.4)
    area = np.zeros(filled.shape, bool)
    area[top + ys, left + xs] = True
    return Similar(
        matrix,
        _agreement(own[flat], fine[at][flat]),
        1.0,
        180.0 if way.upright else 0.0,
        way.sideways != way.upright,
        area,
        1,
        int(flat.sum()),
    )


def _agreement(first: np.ndarray, second: np.ndarray) -> float:
    """-1..1 of two rows of grain."""
    return float(first @ second / np.sqrt((first @ first) * (second @ second) + 1e-3))


def pieces(fine: np.ndarray, steep: np.ndarray, filled: np.ndarray) -> list[Similar]:
    """Pieces of a fill whose grain lies in another place too, the surest first.

    Args:
        fine: float32 (height, width), what is finer than about 3 px, evened out. steep: likewise,
            how much structure a pixel lies in. filled: bool, likewise, or a column wider.

    Returns:
        `Similar`s, their `agreement` -1..1 over what has the least structure; `matches`: squares
        that said so. What is flipped upside down is mirrored, and turned by half.
    """
    within = np.ascontiguousarray(filled[:, : fine.shape[1]])
    proposed = [
        one
        for box in squares_of(within)
        for way in WAYS
        for one in _proposals(fine, within, box, way)
    ]
    proposed.sort(key=lambda one: -one.sure)
    found: list[Similar] = []
    for proposal in proposed[:LOOKED_AT]:
        one = _looked_at(fine, steep, filled, proposal)
        if one is None:
            continue
        for number, other in enumerate(found):
            if np.abs(other.matrix - one.matrix).max() <= 2:
                best, area = max(one, other, key=lambda some: some.agreement), one.area | other.area
                found[number] = replace(
                    best, area=area, matches=other.matches + 1, judged=max(one.judged, other.judged)
                )
                break
        else:
            found.append(one)
    found.sort(key=lambda one: -one.agreement * float(np.sqrt(one.judged)))
    kept: list[Similar] = []
    for one in found:
        # A piece that was pasted twice is found from either place: reported is one of them.
        back = cv2.invertAffineTransform(one.matrix)
        if not any(
            np.abs(back - other.matrix).max() <= 2
            or (one.area & other.area).sum() > _SAME * min(one.area.sum(), other.area.sum())
            for other in kept
        ):
            kept.append(one)
    return kept
