"""Outlines of regions as they occur: plain ones, and ones that run along what stands beside."""

from __future__ import annotations

import cv2
import numpy as np
from skimage.segmentation import felzenszwalb


def blob(rng: np.random.Generator, frame: tuple[int, int], size: float) -> np.ndarray:
    """A round outline about `size` px across, dented by a few sines; bool (height, width)."""
    height, width = frame
    cx, cy = (rng.uniform(0.7 * size, side - 0.7 * size) for side in (width, height))
    turn = np.linspace(0, 2 * np.pi, 160, endpoint=False)
    radius = (
        size
        / 2
        * (
            1
            + sum(
                rng.normal(0, 0.14 / k) * np.cos(k * turn + rng.uniform(0, 6)) for k in (1, 2, 3, 4)
            )
        )
    )
    ring = np.stack(
        [cx + radius * np.cos(turn), cy + rng.uniform(0.7, 1.3) * radius * np.sin(turn)], -1
    )
    drawn = np.zeros(frame, np.uint8)
    cv2.fillPoly(drawn, [ring.round().astype(np.int32)], 1)
    return drawn.astype(bool)


def along_an_edge(truth: np.ndarray, rng: np.random.Generator, size: float) -> np.ndarray | None:
    """What a thing that stood behind another leaves to be filled: a blob, less one segment of the
    picture that reaches into it (Felzenszwalb and Huttenlocher 2004), so that its outline runs
    along that segment's edge for a fifth to a half of its length. None where there is none.

    Args:
        truth: uint8 (height, width, 3), RGB. size: px across.

    Returns:
        bool (height, width).
    """
    height, width = truth.shape[:2]
    part = max(1, round(np.sqrt(height * width / 250_000)))
    small = cv2.resize(truth, (width // part, height // part), interpolation=cv2.INTER_AREA)
    labels = felzenszwalb(small, scale=300, sigma=0.8, min_size=120)
    labels = cv2.resize(labels.astype(np.float32), (width, height), interpolation=cv2.INTER_NEAREST)
    for _ in range(40):
        whole = blob(rng, (height, width), size)
        for label in np.unique(labels[whole]):
            # Segments are drawn coarsely: their edge is evened out, as a person draws it.
            segment = (
                cv2.GaussianBlur((labels == label).astype(np.float32), (0, 0), 1.5 * part) > 0.5
            )
            left = whole & ~segment
            if not 0.45 < left.sum() / whole.sum() < 0.85:
                continue
            count, pieces, stats, _ = cv2.connectedComponentsWithStats(left.astype(np.uint8))
            if count < 2:
                continue
            mask = pieces == 1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())
            rim = mask & ~cv2.erode(mask.astype(np.uint8), np.ones((3, 3))).astype(bool)
            beside = cv2.dilate(segment.astype(np.uint8), np.ones((5, 5))).astype(bool)
            if mask.sum() > 0.4 * whole.sum() and 0.2 < (rim & beside).sum() / rim.sum() < 0.5:
                return mask
    return None


def pole(rng: np.random.Generator, frame: tuple[int, int], size: float) -> np.ndarray:
    """A thin upright shape, somewhat aslant; bool."""
    height, width = frame
    wide = rng.uniform(0.12, 0.3) * size
    tall = rng.uniform(1.3, 2.0) * size
    x, y = rng.uniform(0.2, 0.8) * width, rng.uniform(0.3, 0.7) * height
    box = cv2.boxPoints(((x, y), (max(6.0, wide), min(tall, 0.8 * height)), rng.uniform(-12, 12)))
    drawn = np.zeros(frame, np.uint8)
    cv2.fillPoly(drawn, [box.round().astype(np.int32)], 1)
    return drawn.astype(bool)


def at_the_frame(rng: np.random.Generator, frame: tuple[int, int], size: float) -> np.ndarray:
    """A blob that the picture's edge cuts; bool."""
    whole = blob(rng, frame, size)
    ys, xs = np.nonzero(whole)
    if rng.random() < 0.5:
        by = int(xs.min() + np.ptp(xs) * rng.uniform(0.2, 0.5))
        moved = np.zeros_like(whole)
        moved[:, : whole.shape[1] - by] = whole[:, by:]
    else:
        by = int(whole.shape[0] - ys.max() + np.ptp(ys) * rng.uniform(0.2, 0.5))
        moved = np.zeros_like(whole)
        moved[by:] = whole[: whole.shape[0] - by]
    return moved
