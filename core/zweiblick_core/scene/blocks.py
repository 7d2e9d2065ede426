"""Blocks spread over a picture, which its carriers are measured on."""

from __future__ import annotations

import numpy as np

#: Side of the sample blocks, pixels; a whole number of JPEG blocks.
BLOCK = 32

_SAMPLES = 900


def sample(luma: np.ndarray, grid: int = BLOCK) -> np.ndarray:
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
