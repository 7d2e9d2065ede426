"""Marking an area by hand: drawn around, by points, painted."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from shapely.affinity import translate
from shapely.geometry import LineString, MultiPolygon, Point, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.validation import make_valid

from ..errors import Refused
from .masks import Region, cropped, polygon_mask

Points = Sequence[Sequence[float]]


def _filled(geometry: BaseGeometry, frame: tuple[int, int], what: str) -> Region:
    """The pixels of a frame whose centres a geometry covers. Only its box is filled."""
    if geometry.is_empty:
        raise Refused(f"the {what} covers no pixel of the picture")
    height, width = frame
    left, top, right, bottom = geometry.bounds
    x0, y0 = max(0, int(np.floor(left))), max(0, int(np.floor(top)))
    x1, y1 = min(width, int(np.ceil(right)) + 1), min(height, int(np.ceil(bottom)) + 1)
    if x0 >= x1 or y0 >= y1:
        raise Refused(f"the {what} lies outside the picture")
    mask = polygon_mask(translate(geometry, -x0, -y0), (y1 - y0, x1 - x0))
    if not mask.any():
        raise Refused(f"the {what} covers no pixel of the picture")
    return cropped(mask, "drawn", (x0, y0))


def _areas(geometry: BaseGeometry) -> BaseGeometry:
    """What a geometry has of area: repairing a self-crossing outline may leave lines too."""
    parts = [part for part in getattr(geometry, "geoms", [geometry]) if isinstance(part, Polygon)]
    nested = [
        inner
        for part in getattr(geometry, "geoms", [])
        if isinstance(part, MultiPolygon)
        for inner in part.geoms
    ]
    return MultiPolygon(parts + nested)


def drawn_around(points: Points, frame: tuple[int, int]) -> Region:
    """The area inside a closed outline, drawn freely or by points. Where it crosses itself both
    loops belong to it. What lies beyond the frame is left out.

    Args:
        points: [x, y] each, three or more, in pixels; the last is joined to the first.
        frame: (height, width).

    Raises:
        Refused: fewer than three points, or it covers no pixel.
    """
    if len(points) < 3:
        raise Refused("an outline needs three points or more")
    outline = Polygon([(float(x), float(y)) for x, y in points])
    return _filled(_areas(make_valid(outline)), frame, "outline")


def painted(points: Points, radius: float, frame: tuple[int, int]) -> Region:
    """The area that a round brush covers along a stroke.

    Args:
        points: [x, y] each, one or more.
        radius: of the brush, in pixels, .5 or more.
        frame: (height, width).

    Raises:
        Refused: no point, or it covers no pixel.
    """
    if not points:
        raise Refused("a stroke needs a point")
    line = [(float(x), float(y)) for x, y in points]
    stroke = LineString(line) if len(line) > 1 else Point(line[0])
    return _filled(stroke.buffer(max(0.5, radius), quad_segs=16), frame, "stroke")
