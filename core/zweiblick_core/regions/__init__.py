"""Regions: outlines to masks and back, drawing and changing them, and what changed. Picking by
colour (`similar`) is imported by whoever needs it: it brings an optimiser along.
"""

from .annotations import Note, from_annotations, to_annotations
from .changed import changed_area, proposed
from .comparing import (
    OutlineDifference,
    given_outline,
    outline_difference,
    worked_outline,
)
from .drawing import drawn_around, painted
from .masks import Region, from_geojson, from_mask, outline, polygon_mask
from .outlines import Part, outlined, to_geojson
from .shaping import combined, grown, merged, parts, reaching_frame, smoothed

__all__ = [
    "Note",
    "OutlineDifference",
    "Part",
    "Region",
    "changed_area",
    "combined",
    "drawn_around",
    "from_annotations",
    "from_geojson",
    "from_mask",
    "given_outline",
    "grown",
    "merged",
    "outline",
    "outline_difference",
    "outlined",
    "painted",
    "parts",
    "polygon_mask",
    "proposed",
    "reaching_frame",
    "smoothed",
    "to_annotations",
    "to_geojson",
    "worked_outline",
]
