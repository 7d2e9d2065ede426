"""How much of an outline runs along an edge of the scene: things stand in front of things, so this
is common, and what meets there is not the fill's doing.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from .window import Window

#: How near to the outline an edge lies that it runs along, and how far from the region one must come
#: to be the scene's own; pixels.
NEAR, AWAY = 3, 12


@dataclass(frozen=True)
class OutlineEdges:
    """Shares of the outline's length, 0..1, and where they lie.

    Attributes:
        along: where an edge of the result lies at it.
        leaving: where that edge also runs on into untouched ground, as a seam does not.
        own: bool, the window: what lies near an edge that does.
    """

    along: float
    leaving: float
    own: np.ndarray


def outline_edges(window: Window) -> OutlineEdges:
    """By Canny's edges (1986) of the result, their thresholds from its untouched ground. Made once."""
    key = "outline's edges"
    if key not in window.shared:
        window.shared[key] = _outline_edges(window)
    made: OutlineEdges = window.shared[key]
    return made


def _outline_edges(window: Window) -> OutlineEdges:
    none = np.zeros(window.filled.shape, bool)
    x, y, w, h = cv2.boundingRect(window.filled.view(np.uint8))
    margin = 4 * AWAY
    crop = (slice(max(0, y - margin), y + h + margin), slice(max(0, x - margin), x + w + margin))
    filled = np.ascontiguousarray(window.filled[crop]).view(np.uint8)
    luma = cv2.GaussianBlur(window.luma_result[crop], (0, 0), 1.0)
    steep = np.hypot(cv2.Sobel(luma, cv2.CV_32F, 1, 0), cv2.Sobel(luma, cv2.CV_32F, 0, 1))
    free = ~window.elsewhere[crop] & (filled == 0)
    if free.sum() < 200:
        return OutlineEdges(0.0, 0.0, none)
    high = max(40.0, float(np.percentile(steep[free], 90)))
    edges = cv2.Canny(np.clip(luma, 0, 255).astype(np.uint8), 0.4 * high, high, L2gradient=True) > 0
    rim = filled.astype(bool) & ~cv2.erode(filled, np.ones((3, 3), np.uint8)).astype(bool)
    # The picture's own frame is no outline.
    rim[[0, -1]] = rim[:, [0, -1]] = False
    if not rim.any():
        return OutlineEdges(0.0, 0.0, none)
    kernel = np.ones((2 * NEAR + 1, 2 * NEAR + 1), np.uint8)
    _, pieces = cv2.connectedComponents(edges.astype(np.uint8), connectivity=8)
    far = free & (cv2.dilate(filled, np.ones((2 * AWAY + 1, 2 * AWAY + 1), np.uint8)) == 0)
    own = np.zeros(int(pieces.max()) + 1, bool)
    own[np.unique(pieces[far & edges])] = True
    own[0] = False
    near = lambda some: cv2.dilate(some.astype(np.uint8), kernel).astype(bool)
    leaving, whole = near(own[pieces]), none.copy()
    whole[crop] = leaving
    return OutlineEdges(float(near(edges)[rim].mean()), float(leaving[rim].mean()), whole)
