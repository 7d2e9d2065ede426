"""What carries the picture: compression and grain. Every null depends on them, so they are
estimated once a check.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass

import cv2
import numpy as np

from .reading import Picture

#: Side of the sample blocks, pixels; a whole number of JPEG blocks.
BLOCK = 32
_SAMPLES = 900


@dataclass(frozen=True)
class Compression:
    """Attributes: lossy: whether the file's own format loses; quality: 1..100 from the file or
    None;
    blockiness: step across the 8x8 grid over the step beside it (1 = none); grid: its (x, y) phase,
        0..7.
    """

    lossy: bool
    quality: int | None
    blockiness: float
    grid: tuple[int, int]

    @property
    def seen(self) -> bool:
        """Whether the pixels went through block compression at any time."""
        return self.lossy or self.blockiness > 1.25


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


@dataclass(frozen=True)
class Carriers:
    """What carries a picture and every flaw in it: how either was compressed, and its grain."""

    original_compression: Compression
    original_grain: Grain
    result_compression: Compression
    result_grain: Grain

    def facts(self) -> dict[str, object]:
        """As the report states them."""
        return {
            "original": {
                "compression": asdict(self.original_compression),
                "grain": asdict(self.original_grain),
            },
            "result": {
                "compression": asdict(self.result_compression),
                "grain": asdict(self.result_grain),
            },
        }


def _sample(luma: np.ndarray, grid: int = BLOCK) -> np.ndarray:
    """Up to `_SAMPLES` evenly spread blocks (n, BLOCK, BLOCK) whose corners lie on multiples of 8."""
    rows, columns = luma.shape[0] // grid, luma.shape[1] // grid
    if rows == 0 or columns == 0:
        return np.empty((0, grid, grid), np.float32)
    every = max(1, int(np.ceil(np.sqrt(rows * columns / _SAMPLES))))
    return np.stack(
        [
            luma[r * grid : (r + 1) * grid, c * grid : (c + 1) * grid]
            for r in range(0, rows, every)
            for c in range(0, columns, every)
        ]
    ).astype(np.float32)


def measure_compression(picture: Picture, luma: np.ndarray) -> Compression:
    """Blockiness from the pixels: mean absolute second-difference across each of the 8 column and
    row phases, the largest
    over the mean of the others (after Fan and de Queiroz 2003)."""
    blocks = _sample(luma)
    if not len(blocks):
        return Compression(picture.format == "jpeg", picture.jpeg_quality, 1.0, (0, 0))
    phases = []
    for axis in (2, 1):
        step = np.abs(np.diff(blocks, n=1, axis=axis))
        bend = np.minimum(step, 12)
        columns = bend.mean(axis=(0, 3 - axis))
        # Difference k lies between sample k and k+1; a grid line lies where (k + 1) % 8 equals the
        # phase.
        by_phase = np.array(
            [
                columns[[k for k in range(len(columns)) if (k + 1) % 8 == phase]].mean()
                for phase in range(8)
            ]
        )
        phases.append(by_phase)
    strength, grid = [], []
    for by_phase in phases:
        top = int(np.argmax(by_phase))
        rest = np.delete(by_phase, top)
        strength.append(float(by_phase[top] / max(rest.mean(), 1e-3)))
        grid.append(top)
    return Compression(
        picture.format == "jpeg",
        picture.jpeg_quality,
        round(float(np.sqrt(strength[0] * strength[1])), 3),
        (grid[0], grid[1]),
    )


def measure_grain(luma: np.ndarray) -> Grain:
    """Noise deviation by brightness from the flattest tenth of blocks (Immerkaer 1996's Laplacian,
    made robust by the median).
    """
    blocks = _sample(luma)
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


def measure_carriers(
    original: Picture, result: Picture, original_luma: np.ndarray, result_luma: np.ndarray
) -> Carriers:
    """Both pictures' carriers. The lumas are float or uint8 (height, width), 0..255."""
    return Carriers(
        measure_compression(original, original_luma),
        measure_grain(original_luma),
        measure_compression(result, result_luma),
        measure_grain(result_luma),
    )
