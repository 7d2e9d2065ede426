"""Normalised cross-correlation of many templates of one size with one plane (Lewis 1995): what the
plane itself takes part with is worked out once.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class Searched:
    """A plane to search in: `plane`, and the norm of each square of some side by its top left
    corner, so that
    normalised correlation costs one product by FFT; `step`: how many pixels of the window one of
    its own is wide.
    """

    plane: np.ndarray
    norm: np.ndarray
    step: int = 1

    @classmethod
    def of(cls, plane: np.ndarray, side: int, step: int = 1) -> Searched:
        """A float32 plane (height, width) to be searched for squares of `side`."""
        mean = cv2.boxFilter(
            plane, cv2.CV_32F, (side, side), anchor=(0, 0), borderType=cv2.BORDER_CONSTANT
        )
        square = cv2.sqrBoxFilter(
            plane, cv2.CV_32F, (side, side), anchor=(0, 0), borderType=cv2.BORDER_CONSTANT
        )
        return cls(plane, side * np.sqrt(np.maximum(square - mean * mean, 1e-6)), step)

    def correlated(
        self, template: np.ndarray, top: int, left: int, bottom: int, right: int
    ) -> np.ndarray:
        """-1..1 for each place of a template of zero mean within a part of the plane."""
        match = cv2.matchTemplate(self.plane[top:bottom, left:right], template, cv2.TM_CCORR)
        found: np.ndarray = cv2.divide(
            match,
            self.norm[top : top + match.shape[0], left : left + match.shape[1]],
            match,
            scale=1 / float(np.linalg.norm(template)),
        )
        return found
