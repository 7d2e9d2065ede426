"""Cells as pixels and as an outline."""

from __future__ import annotations

import cv2
import numpy as np

from ...scene.window import Window
from .cells import STRIDE
from .ground import Ground


def pixels_of(window: Window, ground: Ground, cells: np.ndarray, margin: int = 2) -> np.ndarray:
    """Pixels of the fill that some of its cells stand for; uint8 like the window."""
    pixels = np.zeros(window.mask.shape, np.uint8)
    top, left = ground.corner[0] * STRIDE - margin, ground.corner[1] * STRIDE - margin
    whole = cv2.dilate(
        np.pad(np.repeat(np.repeat(cells.astype(np.uint8), STRIDE, 0), STRIDE, 1), margin),
        np.ones((2 * margin + 1, 2 * margin + 1), np.uint8),
    )
    there = whole[max(0, -top) :, max(0, -left) :]
    part = pixels[max(0, top) :, max(0, left) :][: there.shape[0], : there.shape[1]]
    part[:] = there[: part.shape[0], : part.shape[1]]
    return pixels & window.filled.astype(np.uint8)


def outlined(window: Window, pixels: np.ndarray) -> tuple[tuple[int, int, int, int], np.ndarray]:
    """(x, y, width, height) and the largest ring of some pixels, in the window."""
    if not pixels.any():
        pixels = window.filled.astype(np.uint8)
    x, y, w, h = cv2.boundingRect(pixels)
    rings, _ = cv2.findContours(pixels, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    ring = cv2.approxPolyDP(max(rings, key=len), 1.5, True)[:, 0] + 0.5
    if len(ring) < 3:
        ring = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], float)
    return (x, y, w, h), ring
