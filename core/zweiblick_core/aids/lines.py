"""Straight edges, what they share, and the horizon."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..features.lines.vanishing import vanishing_points

#: Edges are sought in a picture shrunk to so many pixels: what is shorter than a few of them is no
#: line.
_MOST_PIXELS = 1_500_000
_SHORTEST, _MOST = 24.0, 900
_AGREES = 2.0


@dataclass(frozen=True)
class Lines:
    """In pixels of the frame. `segments`: x0, y0, x1, y1 and which vanishing point it is meant for
    (-1: none); `points`: (x, y), or None where it
    lies at infinity; `horizon`: x0, y0, x1, y1 across the frame, or None if it cannot be found."""

    segments: tuple[tuple[float, float, float, float, int], ...]
    points: tuple[tuple[float, float] | None, ...]
    horizon: tuple[float, float, float, float] | None


def find_lines(pixels: np.ndarray) -> Lines:
    """The straight edges of uint8 (height, width, 3), by line segment detection (Grompone von Gioi
    and others 2010), with up to three vanishing points.

    The horizon is the line through the two vanishing points that lie most level with each other;
    where only one lies in reach it is the level line
    through it.
    """
    height, width = pixels.shape[:2]
    shrink = max(1.0, np.sqrt(height * width / _MOST_PIXELS))
    luma = cv2.cvtColor(np.ascontiguousarray(pixels), cv2.COLOR_RGB2GRAY)
    if shrink > 1:
        luma = cv2.resize(
            luma,
            (max(1, round(width / shrink)), max(1, round(height / shrink))),
            interpolation=cv2.INTER_AREA,
        )
    if min(luma.shape) < 16:
        return Lines((), (), None)
    found = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD).detect(luma)[0]
    if found is None:
        return Lines((), (), None)
    segments = found.reshape(-1, 4).astype(float)
    length = np.hypot(segments[:, 2] - segments[:, 0], segments[:, 3] - segments[:, 1])
    keep = np.argsort(-length)[:_MOST]
    segments = segments[keep[length[keep] >= _SHORTEST]]
    known = vanishing_points(segments, np.ones(luma.shape, bool)) if len(segments) else None
    owner = np.full(len(segments), -1)
    points: list[tuple[float, float] | None] = []
    if known is not None:
        middle = (segments[:, :2] + segments[:, 2:]) / 2
        along = segments[:, 2:] - segments[:, :2]
        along /= np.linalg.norm(along, axis=1, keepdims=True)
        off = []
        for point in known.points:
            way = point[:2] * known.unit - point[2] * (middle - known.centre)
            way = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-12)
            off.append(
                np.degrees(
                    np.arcsin(
                        np.clip(np.abs(way[:, 0] * along[:, 1] - way[:, 1] * along[:, 0]), 0, 1)
                    )
                )
            )
            at = (
                None
                if abs(point[2]) < 1e-3
                else (point[:2] / point[2] * known.unit + known.centre) * shrink
            )
            points.append(None if at is None else (round(float(at[0]), 1), round(float(at[1]), 1)))
        best = np.argmin(off, axis=0)
        owner = np.where(np.min(off, axis=0) < _AGREES, best, -1)
    rows = tuple(
        (*(round(float(v) * shrink, 1) for v in row), int(who))
        for row, who in zip(segments, owner, strict=True)
    )
    return Lines(rows, tuple(points), _horizon(points, width, height))


def _horizon(
    points: list[tuple[float, float] | None], width: int, height: int
) -> tuple[float, float, float, float] | None:
    """Points far above or below are those of uprights and say nothing about the horizon."""
    level = [point for point in points if point is not None and -height < point[1] < 2 * height]
    if not level:
        return None
    if len(level) == 1:
        return 0.0, level[0][1], float(width), level[0][1]
    pairs = [
        (abs(b[1] - a[1]) / max(1.0, abs(b[0] - a[0])), a, b)
        for i, a in enumerate(level)
        for b in level[i + 1 :]
    ]
    slope, a, b = min(pairs)
    if slope > np.tan(np.radians(20)):
        return None
    rise = (b[1] - a[1]) / (b[0] - a[0] or 1e-9)
    return 0.0, round(a[1] - a[0] * rise, 1), float(width), round(a[1] + (width - a[0]) * rise, 1)


#: By vanishing point: light, dark, light within dark (see `draw_lines`); what belongs to none is
#: thin.
_SHADES = ((255, 255, 255), (0, 0, 0), (205, 205, 205))


def draw_lines(patch: np.ndarray, lines: Lines | None, x: int, y: int) -> np.ndarray:
    """The lines over a paler, flatter picture."""
    out: np.ndarray = np.rint(
        110
        + 0.3 * (patch.astype(np.float32).mean(axis=2, keepdims=True) - 110)
        + np.zeros((1, 1, 3), np.float32)
    ).astype(np.uint8)
    if lines is None:
        return out
    # Four bits of a pixel's fraction keep a line in one piece where tiles meet.
    at = lambda px, py: (round((px - x) * 16), round((py - y) * 16))
    height, width = patch.shape[:2]
    near = lambda x0, y0, x1, y1: (
        max(x0, x1) >= x - 4
        and min(x0, x1) <= x + width + 4
        and max(y0, y1) >= y - 4
        and min(y0, y1) <= y + height + 4
    )
    for x0, y0, x1, y1, who in lines.segments:
        if near(x0, y0, x1, y1):
            if who == 2:
                cv2.line(out, at(x0, y0), at(x1, y1), (0, 0, 0), 5, cv2.LINE_AA, 4)
            cv2.line(
                out,
                at(x0, y0),
                at(x1, y1),
                _SHADES[who] if who >= 0 else (60, 60, 60),
                2 if who >= 0 else 1,
                cv2.LINE_AA,
                4,
            )
    if lines.horizon is not None and near(*lines.horizon):
        cv2.line(
            out, at(*lines.horizon[:2]), at(*lines.horizon[2:]), (255, 255, 255), 3, cv2.LINE_AA, 4
        )
        cv2.line(out, at(*lines.horizon[:2]), at(*lines.horizon[2:]), (0, 0, 0), 1, cv2.LINE_AA, 4)
    for who, point in enumerate(lines.points):
        if point is not None and near(point[0] - 12, point[1] - 12, point[0] + 12, point[1] + 12):
            cv2.circle(out, at(*point), 10 * 16, (0, 0, 0), 4, cv2.LINE_AA, 4)
            cv2.circle(out, at(*point), 10 * 16, _SHADES[who % 3], 2, cv2.LINE_AA, 4)
    return out
