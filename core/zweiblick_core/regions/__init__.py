"""Regions: outlines to masks and back, parts of a mask, and what changed."""

from .changed import changed_area, proposed
from .masks import Region, from_geojson, from_mask, outline, polygon_mask

__all__ = [
    "Region",
    "changed_area",
    "from_geojson",
    "from_mask",
    "outline",
    "polygon_mask",
    "proposed",
]
