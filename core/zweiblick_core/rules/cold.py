"""Cold looks: what the eye stopped at, matched with what is known."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

#: A click means what lies within so many pixels of it, at least; in a large picture, this share of
#: its longer side.
NEAR, NEAR_SHARE = 12.0, 0.008


@dataclass(frozen=True)
class Hit:
    """What one click fell on: regions and findings by their keys; both empty is a place where
    nothing was done or found.
    """

    regions: tuple[int, ...]
    findings: tuple[int, ...]


def _near(point: Sequence[float], box: Sequence[float], reach: float) -> bool:
    return (
        box[0] - reach <= point[0] <= box[0] + box[2] + reach
        and box[1] - reach <= point[1] <= box[1] + box[3] + reach
    )


def matched(
    clicks: Sequence[Sequence[float]],
    regions: Mapping[int, Sequence[float]],
    findings: Mapping[int, Sequence[float]],
    frame: tuple[int, int],
) -> list[Hit]:
    """Match clicks [x, y] with regions and findings, given by their boxes [x, y, w, h] in a frame
    of (width, height).
    """
    reach = max(NEAR, NEAR_SHARE * max(frame))
    return [
        Hit(
            tuple(key for key, box in regions.items() if _near(click, box, reach)),
            tuple(key for key, box in findings.items() if _near(click, box, reach)),
        )
        for click in clicks
    ]


def noticed(looks: Sequence[Sequence[Hit]], region: int) -> tuple[int, int]:
    """(in how many looks a region was noticed, of how many)."""
    return sum(any(region in hit.regions for hit in look) for look in looks), len(looks)
