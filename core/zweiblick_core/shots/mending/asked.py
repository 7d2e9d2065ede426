"""What is asked of a mending, and what is refused."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from ...errors import Refused
from ...rules.shots import Range, in_ranges, refuse_range
from ..frames import Shot


@dataclass(frozen=True)
class Mending:
    """What is filled, and what with.

    Attributes:
        ranges: by region, frames (first, last), both included, counted from 0; regions that are not
            named stay as they are.
        repaired: frames in which people have repaired the regions, uint8 or uint16 (height, width, 3) by
            number: they are carried to the others before anything else is.
        seed: the same seed gives the same grain.
    """

    ranges: Mapping[str, Sequence[Range]]
    repaired: Mapping[int, np.ndarray] = field(default_factory=dict)
    seed: int = 0

    def takes(self, region: str, number: int) -> bool:
        """Whether a region is filled in a frame."""
        return in_ranges(number, self.ranges.get(region, ()))


def refuse_unlike(original: Shot, base: Shot) -> None:
    """Raises: Refused: two shots are not of the same frames."""
    if base.count != original.count:
        raise Refused(
            f"{base.name}: has {base.count} frames, {original.name} {original.count}; "
            "only what has all of them can be mended"
        )
    if (base.width, base.height) != (original.width, original.height):
        raise Refused(
            f"{base.name}: is {base.width} x {base.height}, {original.name} "
            f"{original.width} x {original.height}; only what lies in the same frame can be mended"
        )


def refuse(asked: Mending, original: Shot, regions: Mapping[str, object]) -> None:
    """Raises: Refused: it names regions or frames that there are not."""
    if not asked.ranges:
        raise Refused("no region is to be mended")
    for region, ranges in asked.ranges.items():
        if region not in regions:
            raise Refused(f"there is no region {region}")
        for first, last in ranges:
            refuse_range(first, last, original.count)
    for number, pixels in asked.repaired.items():
        refuse_range(number, number, original.count)
        if pixels.shape[:2] != (original.height, original.width):
            raise Refused(
                f"repaired frame {number}: is {pixels.shape[1]} x {pixels.shape[0]}, "
                f"the shot {original.width} x {original.height}"
            )
