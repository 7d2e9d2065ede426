"""The part of a frame that some areas lie in: work on areas never needs the whole picture."""

from __future__ import annotations

import numpy as np

from .masks import Region, cropped


class Window:
    """The part of a frame that some areas and a margin about them lie in."""

    def __init__(self, areas: list[Region], frame: tuple[int, int], margin: int = 0) -> None:
        height, width = frame
        self.left = max(0, min(area.bbox[0] for area in areas) - margin)
        self.top = max(0, min(area.bbox[1] for area in areas) - margin)
        right = min(width, max(area.bbox[0] + area.bbox[2] for area in areas) + margin)
        bottom = min(height, max(area.bbox[1] + area.bbox[3] for area in areas) + margin)
        self.shape = (bottom - self.top, right - self.left)
        #: Whether the window ends at the frame: left, top, right, bottom.
        self.ends = (self.left == 0, self.top == 0, right == width, bottom == height)

    def mask(self, area: Region) -> np.ndarray:
        """An area's mask in the window, bool."""
        x, y, width, height = area.bbox
        mask = np.zeros(self.shape, bool)
        mask[y - self.top : y - self.top + height, x - self.left : x - self.left + width] = (
            area.mask
        )
        return mask

    def clipped(self, area: Region) -> np.ndarray:
        """What of an area's mask lies in the window, bool."""
        x, y, width, height = area.bbox
        x0, y0 = max(x, self.left), max(y, self.top)
        x1 = min(x + width, self.left + self.shape[1])
        y1 = min(y + height, self.top + self.shape[0])
        mask = np.zeros(self.shape, bool)
        if x0 < x1 and y0 < y1:
            mask[y0 - self.top : y1 - self.top, x0 - self.left : x1 - self.left] = area.mask[
                y0 - y : y1 - y, x0 - x : x1 - x
            ]
        return mask

    def area(self, mask: np.ndarray, name: str) -> Region | None:
        """A mask of the window as an area of the frame; None if it is empty."""
        return cropped(mask, name, (self.left, self.top)) if mask.any() else None
