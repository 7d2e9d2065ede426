"""How a result lies in its original's frame: what was cropped, shifted, turned, resized."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import cv2
import numpy as np

from ..regions.masks import Region, cropped

Matrix = tuple[tuple[float, float, float], tuple[float, float, float]]

IDENTITY: Matrix = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0))

#: Of the original's area: whatever shows less was cut.
WHOLE = 0.9995


@dataclass(frozen=True)
class Alignment:
    """How the result lies to the original.

    Attributes:
        kind: "same", "shifted", "cropped", "scaled", "turned" or "unmatched"; the first of turned,
            scaled, cropped, shifted that applies.
        offset: where the original's corner comes to lie in the result, result pixels.
        scale: result pixels for one original pixel.
        angle: degrees, clockwise on screen.
        matrix: 2x3, original to result.
        residual_px: median distance that matched points are off after the fit, original pixels.
        reason: why they cannot be matched; None otherwise.
        done: what was done to bring them together, one clause each.
        covers: share of the original that the result shows, 0..1.
    """

    kind: str
    offset: tuple[float, float]
    scale: float
    angle: float
    matrix: Matrix
    residual_px: float
    reason: str | None
    done: tuple[str, ...] = ()
    covers: float = 1.0

    @property
    def cropped(self) -> bool:
        """Whether it shows a part of the original only, and was not merely shifted."""
        return self.covers < WHOLE and self.kind != "shifted"

    def to_dict(self) -> dict[str, object]:
        """As JSON holds it."""
        return asdict(self)

    @classmethod
    def from_dict(cls, plain: Mapping[str, Any]) -> Alignment:
        """From `to_dict`, also after a trip through JSON."""
        first, second = plain["matrix"]
        return cls(
            **{
                **plain,
                "offset": tuple(plain["offset"]),
                "matrix": (tuple(first), tuple(second)),
                "done": tuple(plain["done"]),
            }
        )

    def placed(self, region: Region, frame: tuple[int, int]) -> Region | None:
        """A region of the original in the result's own frame.

        Args:
            frame: (height, width) of the result.

        Returns:
            The region, cut to the frame; None if it lies outside or the two cannot be matched.
        """
        if self.kind == "same":
            return region
        if self.kind == "unmatched":
            return None
        return warped_region(region, np.array(self.matrix, float), frame)

    def boxed_back(self, bbox: Sequence[float]) -> list[float]:
        """The box (x, y, width, height) of the original around a box of the result's frame."""
        x, y, w, h = bbox
        back = cv2.invertAffineTransform(np.array(self.matrix, float))
        corners = np.array([[x, y, 1], [x + w, y, 1], [x, y + h, 1], [x + w, y + h, 1]]) @ back.T
        low, high = corners.min(axis=0), corners.max(axis=0)
        return [float(edge) for edge in (*low, *(high - low))]


def unmatched(reason: str) -> Alignment:
    """An alignment of two pictures that cannot be matched, and why."""
    return Alignment("unmatched", (0.0, 0.0), 1.0, 0.0, IDENTITY, 0.0, reason, (), 0.0)


SAME = Alignment("same", (0.0, 0.0), 1.0, 0.0, IDENTITY, 0.0, None)


def warped_region(
    region: Region,
    forward: np.ndarray,
    frame: tuple[int, ...],
    valid: np.ndarray | None = None,
) -> Region | None:
    """A region moved by `forward` (2x3) into a frame (height, width); None if nothing of it is
    there. `valid`: what of that frame counts, bool.
    """
    x, y, w, h = region.bbox
    corners = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], float) - 0.5
    there = corners @ forward[:, :2].T + forward[:, 2]
    height, width = frame[:2]
    (left, top), (right, bottom) = (
        np.floor(there.min(axis=0)).astype(int) - 1,
        np.ceil(there.max(axis=0)).astype(int) + 2,
    )
    left, top, right, bottom = max(0, left), max(0, top), min(width, right), min(height, bottom)
    if right <= left or bottom <= top:
        return None
    local = forward.copy()
    local[:, 2] += forward[:, :2] @ np.array([x, y], float) - np.array([left, top])
    mask = (
        cv2.warpAffine(
            region.mask.astype(np.float32),
            local,
            (right - left, bottom - top),
            flags=cv2.INTER_LINEAR,
        )
        > 0.5
    )
    if valid is not None:
        mask &= valid[top:bottom, left:right]
    return cropped(mask, region.id, (left, top)) if mask.any() else None
