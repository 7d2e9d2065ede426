"""What lies behind a region, in words."""

from __future__ import annotations

import cv2
import numpy as np

from .window import Window


def backdrop(window: Window) -> str:
    """What lies behind the region, by plain measures of the ring around it: gradient, fine texture,
    straight structure, organic, crowded, frame edge.
    """
    x, y, width, height = window.region.bbox
    if x == 0 or y == 0 or x + width == window.frame[1] or y + height == window.frame[0]:
        return "frame edge"
    left, top = window.origin
    crop = (
        slice(max(0, y - top - 34), y - top + height + 34),
        slice(max(0, x - left - 34), x - left + width + 34),
    )
    near = (
        cv2.dilate(
            np.ascontiguousarray(window.mask[crop]).view(np.uint8), np.ones((61, 61), np.uint8)
        ).astype(bool)
        & ~window.elsewhere[crop]
    )
    if near.sum() < 200:
        return "crowded"
    luma = cv2.GaussianBlur(window.luma_original[crop], (0, 0), 1.2)
    gx, gy = (
        cv2.Sobel(luma, cv2.CV_32F, 1, 0, scale=0.125),
        cv2.Sobel(luma, cv2.CV_32F, 0, 1, scale=0.125),
    )
    # Some ten thousand places know what all do.
    places = np.flatnonzero(near)[:: max(1, int(near.sum()) // 20_000)]
    gx, gy = gx.ravel()[places], gy.ravel()[places]
    strength = np.hypot(gx, gy)
    if np.percentile(strength, 80) < 2.0:
        return "plain gradient"
    # Structure tensor's double angle: gradients that agree (or stand at right angles) mean straight
    # structure.
    angle = np.arctan2(gy, gx)
    weight = strength**2
    two, four = (
        abs((weight * np.exp(2j * angle)).sum() / weight.sum()),
        abs((weight * np.exp(4j * angle)).sum() / weight.sum()),
    )
    if max(two, four) > 0.35:
        return "straight structure"
    return (
        "fine texture" if np.percentile(strength, 95) < 5 * np.median(strength) + 4 else "organic"
    )
