"""A picture's grain, from its flattest places."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from .blocks import BLOCK, sample


@dataclass(frozen=True)
class Grain:
    """Attributes: sigma: noise deviation in the flattest places, levels of 255; by_level: (mean
    level, sigma) pairs, dark to
    light; correlation: of neighbouring residuals, -1..1 (0 = white); blocks: how many flat blocks
    it rests on.
    """

    sigma: float
    by_level: tuple[tuple[float, float], ...]
    correlation: float
    blocks: int


def measure_grain(luma: np.ndarray) -> Grain:
    """Noise deviation by brightness from the flattest tenth of blocks (Immerkaer 1996's Laplacian,
    made robust by the median).
    """
    blocks = sample(luma)
    if not len(blocks):
        return Grain(0.0, (), 0.0, 0)
    kernel = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
    tall = blocks.reshape(-1, BLOCK)
    high = cv2.filter2D(tall, -1, kernel).reshape(blocks.shape)[:, 1:-1, 1:-1]
    sigma = np.median(np.abs(high), axis=(1, 2)) / 0.6745 / 6
    mean = blocks.mean(axis=(1, 2))
    usable = (mean > 8) & (mean < 247)
    if usable.sum() < 4:
        return Grain(float(np.median(sigma)), (), 0.0, 0)
    sigma, mean, blocks = sigma[usable], mean[usable], blocks[usable]
    by_level = []
    flat_all = []
    for low, top in ((8, 64), (64, 128), (128, 192), (192, 247)):
        here = np.flatnonzero((mean >= low) & (mean < top))
        if len(here) >= 8:
            flat = here[np.argsort(sigma[here])[: max(2, len(here) // 10)]]
            by_level.append(
                (round(float(mean[flat].mean()), 1), round(float(np.median(sigma[flat])), 3))
            )
            flat_all.extend(flat.tolist())
    if not flat_all:
        flat_all = np.argsort(sigma)[: max(2, len(sigma) // 10)].tolist()
    quiet = blocks[flat_all]
    residual = quiet - cv2.blur(quiet.reshape(-1, BLOCK), (5, 5)).reshape(quiet.shape)
    inner = residual[:, 3:-3, 3:-3]
    power = float((inner * inner).mean())
    correlation = (
        float((inner[:, :, 1:] * inner[:, :, :-1]).mean() / power) if power > 1e-9 else 0.0
    )
    return Grain(
        round(float(np.median(sigma[flat_all])), 3),
        tuple(by_level),
        round(correlation, 3),
        len(flat_all),
    )
