"""Masks to regions and outlines, and back."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from shapely.errors import ShapelyError
from shapely.geometry import MultiPolygon, Polygon, shape
from shapely.geometry.base import BaseGeometry
from skimage.draw import polygon

from ..errors import Refused

#: Parts nearer than this are one region, in pixels.
JOIN = 8


@dataclass(frozen=True)
class Region:
    """One area where something was to be removed.

    Attributes:
        id: its name in reports.
        mask: bool array, cropped to the box.
        bbox: (x, y, width, height) in the oriented original's pixels.
    """

    id: str
    mask: np.ndarray
    bbox: tuple[int, int, int, int]

    def covered(self, polygons: Iterable[Sequence[Sequence[float]]]) -> float:
        """The share of the mask, 0..1, that polygons cover together; each a list of [x, y] in the
        original's pixels.
        """
        drawn = np.zeros(self.mask.shape, np.uint8)
        for points in polygons:
            if len(points) > 2:
                cv2.fillPoly(
                    drawn,
                    [
                        np.round(np.asarray(points, float) - np.array(self.bbox[:2]) - 0.5)
                        .astype(np.int32)
                        .reshape(-1, 1, 2)
                    ],
                    1,
                )
        return float((drawn.astype(bool) & self.mask).sum() / max(1, int(self.mask.sum())))

    def full(self, frame: tuple[int, int]) -> np.ndarray:
        """The mask in a frame of (height, width)."""
        x, y, width, height = self.bbox
        whole = np.zeros(frame, bool)
        whole[y : y + height, x : x + width] = self.mask
        return whole


def cropped(mask: np.ndarray, name: str, at: tuple[int, int] = (0, 0)) -> Region:
    """A region from a bool mask whose top left pixel lies at `at`.

    Raises:
        Refused: nothing is marked.
    """
    rows, columns = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    if not len(rows):
        raise Refused(f"region {name}: marks nothing")
    top, bottom, left, right = (
        int(rows[0]),
        int(rows[-1]) + 1,
        int(columns[0]),
        int(columns[-1]) + 1,
    )
    return Region(
        name,
        np.ascontiguousarray(mask[top:bottom, left:right]),
        (left + at[0], top + at[1], right - left, bottom - top),
    )


def from_mask(mask: np.ndarray) -> list[Region]:
    """Each connected part of a mask, parts nearer than `JOIN` joined, in reading order.

    Args:
        mask: bool (height, width).

    Returns:
        Regions named "1", "2", ...; empty if nothing is marked. Reading order is by rows of the
        size of the parts.
    """
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (JOIN + 1, JOIN + 1))
    joined = cv2.dilate(mask.astype(np.uint8), kernel)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    found = []
    for label in range(1, count):
        x, y, width, height = (int(v) for v in stats[label, :4])
        part = (labels[y : y + height, x : x + width] == label) & mask[
            y : y + height, x : x + width
        ]
        if part.any():
            found.append(cropped(part, str(label), (x, y)))
    # Tops that lie within half a typical height of a row's first one belong to that row.
    tall = float(np.median([region.bbox[3] for region in found])) / 2 if found else 0.0
    rows: list[list[Region]] = []
    for region in sorted(found, key=lambda region: region.bbox[1]):
        if rows and region.bbox[1] <= rows[-1][0].bbox[1] + tall:
            rows[-1].append(region)
        else:
            rows.append([region])
    ordered = [region for row in rows for region in sorted(row, key=lambda region: region.bbox[0])]
    return [
        Region(str(number), region.mask, region.bbox) for number, region in enumerate(ordered, 1)
    ]


def polygon_mask(geometry: BaseGeometry, frame: tuple[int, int]) -> np.ndarray:
    """Fill (Multi)Polygons: a pixel belongs if its centre lies inside. Returns bool (height,
    width).
    """
    parts = geometry.geoms if isinstance(geometry, MultiPolygon) else [geometry]
    filled = np.zeros(frame, bool)
    for part in parts:
        if not isinstance(part, Polygon) or part.is_empty:
            continue
        piece = np.zeros(frame, bool)
        # scikit-image puts a pixel's centre at whole numbers, our coordinates put it at one half.
        for value, ring in ((True, part.exterior), *((False, hole) for hole in part.interiors)):
            points = np.asarray(ring.coords)[:, :2] - 0.5
            piece[polygon(points[:, 1], points[:, 0], frame)] = value
        filled |= piece
    return filled


def from_geojson(document: Any, frame: tuple[int, int]) -> list[Region]:
    """Regions from a GeoJSON FeatureCollection of (Multi)Polygons, in pixels of the original.

    Args:
        document: the parsed JSON. A feature's id (or `properties.id`) names the region.
        frame: (height, width) of the original.

    Raises:
        Refused: not such a collection, or a region outside the picture.
    """
    features = document.get("features") if isinstance(document, dict) else None
    if not isinstance(features, list):
        raise Refused("the regions file is not a GeoJSON FeatureCollection")
    regions, names = [], set()
    for number, feature in enumerate(features, 1):
        try:
            geometry = shape(feature["geometry"])
            name = str(feature.get("id") or (feature.get("properties") or {}).get("id") or number)
        except (KeyError, TypeError, AttributeError, ValueError, ShapelyError) as error:
            raise Refused(f"feature {number} of the regions file has no usable geometry") from error
        if geometry.geom_type not in ("Polygon", "MultiPolygon"):
            raise Refused(
                f"region {name}: is a {geometry.geom_type}; Polygon and MultiPolygon are read"
            )
        if name in names:
            raise Refused(f"region {name}: occurs twice")
        names.add(name)
        mask = polygon_mask(geometry, frame)
        if not mask.any():
            raise Refused(f"region {name}: covers no pixel of the picture")
        regions.append(cropped(mask, name))
    return regions


def outline(
    mask: np.ndarray, at: tuple[int, int] = (0, 0), tolerance: float = 0.8
) -> list[list[list[float]]]:
    """The outer rings of a mask, along pixel edges, simplified.

    Args:
        mask: bool (height, width).
        at: where its top left corner lies.
        tolerance: how far a simplified ring may stray, in pixels.

    Returns:
        Rings of [x, y], largest first; not closed.
    """
    # Doubled, so that rings run along the outer edges of pixels and a single pixel has an area.
    grown = np.repeat(np.repeat(mask.astype(np.uint8), 2, 0), 2, 1)
    rings, _ = cv2.findContours(grown, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    rings = sorted(rings, key=cv2.contourArea, reverse=True)
    outlines = []
    for ring in rings:
        simple = cv2.approxPolyDP(ring, 2 * tolerance, True)[:, 0].astype(float)
        if len(simple) < 3:
            simple = ring[:, 0].astype(float)
        outlines.append(np.round(simple / 2 + 0.25 + np.asarray(at), 2).tolist())
    return outlines
