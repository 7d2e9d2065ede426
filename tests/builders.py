"""Small builders of pictures for tests: a textured truth, a thing on it, and results that hold or
do not.
"""

from __future__ import annotations

import cv2
import numpy as np


def textured(height: int = 420, width: int = 520, seed: int = 1) -> np.ndarray:
    """A photograph-like ground: broad tone, clumps, grain. uint8 (h, w, 3)."""
    rng = np.random.default_rng(seed)
    broad = cv2.GaussianBlur(rng.normal(0, 1, (height, width)).astype(np.float32), (0, 0), 60)
    clumps = cv2.GaussianBlur(rng.normal(0, 1, (height, width)).astype(np.float32), (0, 0), 3.5)
    base = 128 + 22 * broad / broad.std() + 13 * clumps / clumps.std()
    colour = np.stack([base * 1.05, base, base * 0.9], -1)
    return np.clip(colour + rng.normal(0, 2.2, colour.shape), 0, 255).round().astype(np.uint8)


def disc(shape: tuple[int, int], x: int, y: int, radius: int) -> np.ndarray:
    yy, xx = np.mgrid[: shape[0], : shape[1]]
    return (xx - x) ** 2 + (yy - y) ** 2 <= radius**2


def with_thing(
    truth: np.ndarray, mask: np.ndarray, colour: tuple[int, int, int] = (40, 60, 170)
) -> np.ndarray:
    """The original: something stands in the mask, a few pixels inside its rim."""
    inner = cv2.erode(mask.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(bool)
    out = truth.copy()
    noise = np.random.default_rng(9).normal(0, 3, (int(inner.sum()), 3))
    out[inner] = np.clip(np.array(colour) + noise, 0, 255).astype(np.uint8)
    return out


def filled(truth: np.ndarray, mask: np.ndarray, fill: np.ndarray) -> np.ndarray:
    out = truth.copy()
    out[mask] = np.clip(fill[mask], 0, 255).round().astype(np.uint8)
    return out


def holding(truth: np.ndarray, mask: np.ndarray) -> np.ndarray:
    """What was really there, with noise of its own."""
    return filled(truth, mask, truth + np.random.default_rng(3).normal(0, 0.8, truth.shape))


def png(pixels: np.ndarray) -> bytes:
    ok, data = cv2.imencode(".png", pixels[..., ::-1] if pixels.ndim == 3 else pixels)
    assert ok
    return data.tobytes()


def jpeg(pixels: np.ndarray, quality: int = 92) -> bytes:
    ok, data = cv2.imencode(".jpg", pixels[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])
    assert ok
    return data.tobytes()
