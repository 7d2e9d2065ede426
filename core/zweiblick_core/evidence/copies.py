"""Of a repeat: where a place in the fill was copied from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from .base import Evidence, Numbers, Points


@dataclass(frozen=True, eq=False, kw_only=True)
class Copy(Evidence):
    """A place that is the same as another. Boxes are x, y, width, height.

    Attributes:
        copy, source: boxes of the place and of where it was taken from; source_polygon: the same
            as a ring, where it was turned.
        offset_px: (dx, dy) from the place to its source.
        source_inside_region: whether most of the source is itself fill.
        patches: how many patches have this offset in common.
        agreement: of the grain, 1 = the same pixels; structure_agreement, likeness: of what is
            coarser. judged_px: pixels without structure that the agreement was taken over.
        turned_degrees, scale: of the copy against its source.
    """

    type: ClassVar[str] = "copy"
    mirrored: bool | None = None
    offset_px: Numbers | None = None
    copy: Numbers | None = None
    source: Numbers | None = None
    source_polygon: Points | None = None
    source_inside_region: bool | None = None
    patches: int | None = None
    agreement: float | None = None
    likeness: float | None = None
    structure_agreement: float | None = None
    judged_px: int | None = None
    turned_degrees: float | None = None
    scale: float | None = None
