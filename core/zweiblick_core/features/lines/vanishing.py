"""Vanishing points of straight edges, and courses that leave them.

Edges that are parallel in the scene meet in one point of the picture, which may lie at infinity.
Points are found one after the other by random
sampling (Fischler and Bolles 1981): the meeting point of two edges is proposed, and edges agree
with it when the way from their middle to it is theirs within a degree and a
half (the measure of Rother 2002); the best is refined over those that agree, by the smallest
eigenvector of their weighted second moments, and they are
put away before the next is sought.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

#: How well an edge must point at a vanishing point to count for it, and how far off it may be and
#: still be meant to, degrees.
AGREES, MEANT = 1.5, 12.0
#: Least share of the surroundings' edges, by length, that the points must explain; fewer say that
#: there are no courses here.
EXPLAINED = 0.45
#: Fewest edges that make a course, and how long they must be together, pixels.
FEWEST, TOGETHER = 3, 90.0
#: Shortest part of an edge inside an area, pixels.
SHORTEST = 18
_HYPOTHESES, _MOST_EDGES = 300, 400


@dataclass(frozen=True)
class Points:
    """`points`: (k, 3) homogeneous, unit length, about `centre` (x, y) in units of `unit` pixels;
    `explained`: share of all edges' length.
    """

    points: np.ndarray
    centre: np.ndarray
    unit: float
    explained: float


@dataclass(frozen=True)
class Course:
    """Edges of an area that are meant for one vanishing point. `degrees`: by how much they leave it
    together, signed; `spread`: how much they differ
    among themselves; `lines`: (n, 4); `toward`: (n, 2) unit vectors to the point; `point`: (x, y)
    of it in the window, None at infinity.
    """

    degrees: float
    spread: float
    lines: np.ndarray
    toward: np.ndarray
    point: np.ndarray | None


#: How far off an edge's line another may lie to be the same edge, pixels, and by how much more
#: for each pixel beyond its end; and how far off its end.
_ON, _ON_MORE, _GAP = 1.2, 0.02, 40.0


def _toward(lines: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Unit vectors (points, n, 2) from the middles of (n, 4) lines to homogeneous points."""
    middle = (lines[:, :2] + lines[:, 2:]) / 2
    way = points[:, None, :2] - points[:, None, 2:] * middle[None]
    return way / np.maximum(np.linalg.norm(way, axis=2, keepdims=True), 1e-12)


def _off(lines: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Signed degrees (points, n), -90..90, from the way to a point to each line."""
    own = lines[:, 2:] - lines[:, :2]
    own = own / np.maximum(np.linalg.norm(own, axis=1, keepdims=True), 1e-12)
    way = _toward(lines, points)
    sine = way[..., 0] * own[None, :, 1] - way[..., 1] * own[None, :, 0]
    cosine = (way * own[None]).sum(axis=2)
    off = np.degrees(np.arctan2(sine, cosine))
    return (off + 90) % 180 - 90


def _sides(lines: np.ndarray, area: np.ndarray) -> np.ndarray:
    """Share of each line, sampled at nine places, that lies in an area."""
    height, width = area.shape
    part = np.linspace(0, 1, 9)[:, None]
    xs, ys = (
        lines[:, 0] + part * (lines[:, 2] - lines[:, 0]),
        lines[:, 1] + part * (lines[:, 3] - lines[:, 1]),
    )
    inside: np.ndarray = area[
        np.clip(ys.round().astype(int), 0, height - 1),
        np.clip(xs.round().astype(int), 0, width - 1),
    ].mean(axis=0)
    return inside


def _cut_to(lines: np.ndarray, area: np.ndarray) -> np.ndarray:
    """The parts of (n, 4) lines that lie in an area, where they are long enough to have a
    direction.
    """
    if not len(lines):
        return lines
    height, width = area.shape
    part = np.linspace(0, 1, 65)
    xs, ys = (
        lines[:, :1] + part * (lines[:, 2:3] - lines[:, :1]),
        lines[:, 1:2] + part * (lines[:, 3:] - lines[:, 1:2]),
    )
    inside = area[
        np.clip(ys.round().astype(int), 0, height - 1),
        np.clip(xs.round().astype(int), 0, width - 1),
    ]
    some = inside.any(axis=1)
    first, last = inside.argmax(axis=1), 64 - inside[:, ::-1].argmax(axis=1)
    rows = np.arange(len(lines))
    cut = np.stack([xs[rows, first], ys[rows, first], xs[rows, last], ys[rows, last]], -1)
    # What leaves the area and comes back is not one part of it.
    whole = inside.sum(axis=1) >= 0.9 * (last - first + 1)
    cut_lines: np.ndarray = cut[
        some & whole & (np.hypot(cut[:, 2] - cut[:, 0], cut[:, 3] - cut[:, 1]) >= SHORTEST)
    ]
    return cut_lines


def vanishing_points(segments: np.ndarray, outside: np.ndarray, most: int = 3) -> Points | None:
    """What the surroundings' edges share.

    Args:
        segments: (n, 4) x0, y0, x1, y1, pixels. outside: bool, untouched pixels; only edges that
            lie there are asked.

    Returns:
        None where there are too few edges, or they point everywhere.
    """
    lines = segments[_sides(segments, outside) > 0.95] if len(segments) else segments
    length = np.hypot(lines[:, 2] - lines[:, 0], lines[:, 3] - lines[:, 1])
    keep = np.argsort(-length)[:_MOST_EDGES]
    lines, length = lines[keep], length[keep]
    if len(lines) < 8:
        return None
    centre, unit = np.array(outside.shape[::-1]) / 2.0, float(max(outside.shape)) / 2
    lines = (lines - np.tile(centre, 2)) / unit
    start, end = (
        np.concatenate([lines[:, k : k + 2], np.ones((len(lines), 1))], axis=1) for k in (0, 2)
    )
    through = np.cross(start, end)
    through /= np.linalg.norm(through[:, :2], axis=1, keepdims=True)
    rng = np.random.default_rng(20267)
    free, found, total = np.ones(len(lines), bool), [], float(length.sum())
    explained = 0.0
    for _ in range(most):
        some = np.flatnonzero(free)
        if len(some) < 5:
            break
        chance = length[some] / length[some].sum()
        pairs = rng.choice(some, (_HYPOTHESES, 2), p=chance)
        pairs = pairs[pairs[:, 0] != pairs[:, 1]]
        proposed = np.cross(through[pairs[:, 0]], through[pairs[:, 1]])
        size = np.linalg.norm(proposed, axis=1)
        proposed = proposed[size > 1e-9] / size[size > 1e-9, None]
        if not len(proposed):
            break
        agrees = np.abs(_off(lines[some], proposed)) < AGREES
        best = int(np.argmax(agrees @ length[some]))
        point = proposed[best]
        for _ in range(2):
            mine = some[np.abs(_off(lines[some], point[None])[0]) < AGREES]
            if len(mine) < 4:
                break
            weighted = through[mine] * length[mine, None]
            point = np.linalg.eigh(weighted.T @ weighted)[1][:, 0]
        mine = some[np.abs(_off(lines[some], point[None])[0]) < AGREES]
        share = float(length[mine].sum()) / total
        if len(mine) < 5 or share < 0.1:
            break
        found.append(point)
        explained += share
        free[mine] = False
    return Points(np.array(found), centre, unit, explained) if explained >= EXPLAINED else None


def _goes_on(inside: np.ndarray, outside: np.ndarray) -> np.ndarray:
    """Which edges (n, 4) go straight on as one of those (m, 4) that lie outside: whatever they are,
    they leave nothing. Bool (n,).
    """
    if not len(outside) or not len(inside):
        return np.zeros(len(inside), bool)
    way = inside[:, 2:] - inside[:, :2]
    length = np.hypot(*way.T)
    way = way / length[:, None]
    # The nearer end lies close by: few pairs are that near.
    near = cKDTree(outside.reshape(-1, 2)).query_ball_point(
        (inside[:, :2] + inside[:, 2:]) / 2, length / 2 + _GAP + _ON + _ON_MORE * _GAP
    )
    mine = np.repeat(np.arange(len(inside)), [len(ends) for ends in near])
    theirs = np.array([end // 2 for ends in near for end in ends], int)
    if not len(mine):
        return np.zeros(len(inside), bool)
    way, half = way[mine], length[mine, None] / 2
    ends = outside[theirs].reshape(-1, 2, 2) - inside[mine, None, :2]
    beyond = np.abs((ends * way[:, None]).sum(axis=2) - half) - half
    offset = np.abs(ends[..., 0] * way[:, None, 1] - ends[..., 1] * way[:, None, 0])
    # Of each outside edge its nearer end must lie close by, and both ends on the line as exactly as
    # it is known.
    on = (beyond.min(axis=1) < _GAP) & (offset < _ON + _ON_MORE * np.maximum(0, beyond)).all(axis=1)
    found = np.zeros(len(inside), bool)
    found[mine[on]] = True
    return found


def departures(segments: np.ndarray, area: np.ndarray, known: Points) -> list[Course]:
    """Courses inside an area, the longest first, and by how much each leaves its vanishing point.

    Args:
        segments: (n, 4), window pixels. area: bool. known: what the surroundings share.
    """
    mine = _cut_to(segments, area)
    if len(mine) < FEWEST:
        return []
    lines = (mine - np.tile(known.centre, 2)) / known.unit
    off = _off(lines, known.points)
    meant = np.abs(off).min(axis=0) < MEANT
    # Of many edges few are meant for a point: only of those it is asked whether they are one with
    # an edge outside.
    meant[meant] = ~_goes_on(mine[meant], segments[_sides(segments, area) < 0.2])
    if meant.sum() < FEWEST:
        return []
    mine, lines, off = mine[meant], lines[meant], off[:, meant]
    length = np.hypot(mine[:, 2] - mine[:, 0], mine[:, 3] - mine[:, 1])
    toward = _toward(lines, known.points)
    nearest = np.abs(off).argmin(axis=0)
    courses = []
    for k, point in enumerate(known.points):
        some = np.flatnonzero((nearest == k) & (np.abs(off[k]) < MEANT))
        if len(some) < FEWEST or length[some].sum() < TOGETHER:
            continue
        degrees = _weighted_median(off[k][some], length[some])
        spread = _weighted_median(np.abs(off[k][some] - degrees), length[some])
        at = None if abs(point[2]) < 1e-3 else point[:2] / point[2] * known.unit + known.centre
        courses.append(
            (float(length[some].sum()), Course(degrees, spread, mine[some], toward[k][some], at))
        )
    return [course for _, course in sorted(courses, key=lambda one: -one[0])]


def _weighted_median(values: np.ndarray, weights: np.ndarray) -> float:
    order = np.argsort(values)
    return float(values[order][np.searchsorted(np.cumsum(weights[order]), weights.sum() / 2)])
