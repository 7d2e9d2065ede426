"""In which order several things are removed from one picture.

A fill takes what it needs from the surroundings. A small thing that stands out would be repeated by
the fill of a large one beside it, so it goes first; what stands last is then taken from ground that
was made good already.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from ..regions import Region
from ..scene.planes import lab_of

#: The ring that a thing is compared with, as a share of its size (the root of its area), and its
#: least width, pixels.
_RING, _LEAST = 0.5, 8


@dataclass(frozen=True)
class Step:
    """One thing of a plan.

    Attributes:
        at: its index among the regions that were given.
        area: pixels of its outline.
        stands_out: how far its colours lie from its surroundings, in units of how far those lie
            from their own median; 1: no farther than they do themselves.
    """

    at: int
    area: int
    stands_out: float

    @property
    def why(self) -> str:
        """In words, with both numbers."""
        return f"{self.area:,} px, stands out {self.stands_out:.1f} times its surroundings’ spread"


def stands_out(picture: np.ndarray, region: Region, others: Sequence[Region] = ()) -> float:
    """How far a thing's colours lie from its surroundings, as a multiple of their own spread:
    median CIELAB distance to the ring's median colour, inside over in the ring. At least 0.

    Args:
        picture: sRGB (height, width, 3) of any depth that still shows the thing.
        others: regions that are no surroundings either.
    """
    height, width = picture.shape[:2]
    x, y, w, h = region.bbox
    reach = max(_LEAST, round(_RING * float(np.sqrt(region.mask.sum()))))
    left, top = max(0, x - reach), max(0, y - reach)
    right, bottom = min(width, x + w + reach), min(height, y + h + reach)
    frame = (slice(top, bottom), slice(left, right))
    inside = region.full((height, width))[frame]
    near = cv2.distanceTransform((~inside).astype(np.uint8), cv2.DIST_L2, 5) <= reach
    ring = near & ~inside
    for other in others:
        ring &= ~other.full((height, width))[frame]
    if not ring.any():
        return 1.0
    lab = lab_of(picture[frame])
    middle = np.median(lab[ring], axis=0)
    away = np.linalg.norm(lab - middle, axis=2)
    # A ring of one flat colour has no spread; half a unit of CIELAB is not seen in any.
    return float(np.median(away[inside]) / max(0.5, float(np.median(away[ring]))))


def plan(picture: np.ndarray, regions: Sequence[Region]) -> list[Step]:
    """Small distinctive things first: by how far they stand out over the root of their area.

    Args:
        picture: sRGB (height, width, 3) of any depth that still shows all of the things; regions in
            its frame.
    """
    steps = [
        Step(
            at,
            int(region.mask.sum()),
            stands_out(picture, region, [one for one in regions if one is not region]),
        )
        for at, region in enumerate(regions)
    ]
    return sorted(steps, key=lambda one: (-one.stands_out / np.sqrt(one.area), one.at))
