"""An area's outline with its holes, exactly or simplified, and as GeoJSON."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from .masks import Region

Ring = list[list[float]]


@dataclass(frozen=True)
class Part:
    """One connected part of an area: its outer ring and those of its holes, [x, y] each, in
    pixels of the picture, not closed.
    """

    outer: Ring
    holes: tuple[Ring, ...] = ()


def outlined(area: Region, tolerance: float = 0.0) -> list[Part]:
    """An area's parts, the largest first.

    Args:
        tolerance: how far a simplified ring may stray, in pixels. With 0 rings lie inside the
            outermost pixels, a quarter of a pixel from their edge, so that filling them gives
            exactly these pixels again.
    """
    # Doubled, so that a single pixel has an area and a ring never passes through a pixel's centre.
    doubled = np.repeat(np.repeat(area.mask.view(np.uint8), 2, 0), 2, 1)
    # A frame of nothing, so that holes and edges are found at the array's edge too.
    found, hierarchy = cv2.findContours(
        np.pad(doubled, 1),
        cv2.RETR_CCOMP,
        cv2.CHAIN_APPROX_SIMPLE if not tolerance else cv2.CHAIN_APPROX_NONE,
    )
    if hierarchy is None:
        return []
    offset = np.array(area.bbox[:2], float)

    def ring(contour: np.ndarray) -> Ring:
        points = contour[:, 0].astype(float)
        if tolerance:
            simple = cv2.approxPolyDP(contour, 2 * tolerance, True)[:, 0].astype(float)
            points = simple if len(simple) > 2 else points
        # One pixel of padding, two samples a pixel, a sample's centre at a quarter.
        return np.round((points - 1) / 2 + 0.25 + offset, 2).tolist()

    above = hierarchy[0]
    order = sorted(
        (i for i in range(len(found)) if above[i][3] < 0), key=lambda i: -cv2.contourArea(found[i])
    )
    holes: dict[int, list[Ring]] = {}
    for i, one in enumerate(above):
        if one[3] >= 0 and len(found[i]) > 2:
            holes.setdefault(int(one[3]), []).append(ring(found[i]))
    return [Part(ring(found[i]), tuple(holes.get(i, ()))) for i in order]


def to_geojson(areas: Iterable[Region], tolerance: float = 0.0) -> dict[str, Any]:
    """A GeoJSON FeatureCollection (RFC 7946's geometry, coordinates in pixels of the picture); one
    MultiPolygon for each area. With a tolerance of 0 `from_geojson` gives the same masks again.
    """
    closed = lambda ring: [*ring, ring[0]]
    return {
        "type": "FeatureCollection",
        "features": [
            {
                "type": "Feature",
                "id": area.id,
                "properties": {"id": area.id, "pixels": int(area.mask.sum())},
                "geometry": {
                    "type": "MultiPolygon",
                    "coordinates": [
                        [closed(part.outer), *(closed(hole) for hole in part.holes)]
                        for part in outlined(area, tolerance)
                    ],
                },
            }
            for area in areas
        ],
    }
