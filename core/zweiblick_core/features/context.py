"""What the worth of a score may depend on: the region, its surroundings, how the files were saved."""

from __future__ import annotations

import cv2
import numpy as np

from ..scene.carriers import Carriers
from ..scene.outline_edges import outline_edges
from ..scene.window import Window
from .departure import departure

#: The names of `context_of`, in its order.
CONTEXT = (
    "area",
    "thin",
    "busy",
    "edgy",
    "along",
    "leaving",
    "lossy",
    "quality",
    "worse",
    "grain",
    "backing",
    "departs",
)


def context_of(window: Window, carriers: Carriers) -> dict[str, float]:
    """By name:

    - area: of the region, pixels; thin: of its box, over the region's own.
    - busy, edgy: median and 90th percentile of the gradient around it, luma 0..255 a pixel.
    - along, leaving: shares of the outline, see `OutlineEdges`.
    - lossy: 1 where either file is; quality: JPEG's 1..100 of the result, 0 without; worse: by how
      much that is less than the original's.
    - grain: of the result, luma. backing: share of the window that is ground around the region.
    - departs: how far the fill departs from what it adjoins, spreads; 0 where that is not known.
    """
    edges = outline_edges(window)
    near = cv2.dilate(window.filled.view(np.uint8), np.ones((61, 61), np.uint8)).astype(bool)
    ring = near & ~window.elsewhere
    luma = window.luma_result
    steep = np.hypot(cv2.Sobel(luma, cv2.CV_32F, 1, 0), cv2.Sobel(luma, cv2.CV_32F, 0, 1)) / 8
    around = steep[ring] if ring.any() else np.zeros(1)
    area = int(window.region.mask.sum())
    ys, xs = np.nonzero(window.region.mask)
    original, result = carriers.original_compression, carriers.result_compression
    return {
        "area": float(area),
        "thin": float((np.ptp(xs) + 1) * (np.ptp(ys) + 1) / area),
        "busy": float(np.median(around)),
        "edgy": float(np.percentile(around, 90)),
        "along": edges.along,
        "leaving": edges.leaving,
        "lossy": float(window.lossy),
        "quality": float(result.quality or 0),
        "worse": float((original.quality or 100) - (result.quality or 100)),
        "grain": carriers.result_grain.sigma,
        "backing": float(ring.mean()),
        "departs": 0.0 if (found := departure(window)) is None else found.amount,
    }
