"""Carrying what is known at a rim into a hole."""

from __future__ import annotations

import cv2
import numpy as np


def carried_inward(values: np.ndarray, hole: np.ndarray) -> np.ndarray:
    """What is known around a hole, averaged over some pixels, carried inward: normalised means
    over wider and wider surroundings, the nearest that know enough first.
    """
    known = (~hole).astype(np.float32)
    out = np.zeros_like(values)
    open_ = hole.copy()
    scale = 4.0
    while open_.any() and scale < 4 * max(hole.shape):
        weight = cv2.GaussianBlur(known, (0, 0), scale)
        mean = cv2.GaussianBlur(values * known[..., None], (0, 0), scale)
        enough = open_ & (weight > 0.02)
        out[enough] = (mean / np.maximum(weight, 1e-6)[..., None])[enough]
        open_ &= ~enough
        scale *= 2
    smooth = cv2.GaussianBlur(np.where(hole[..., None], out, values), (0, 0), 3.0)
    return np.where(hole[..., None], smooth, values)
