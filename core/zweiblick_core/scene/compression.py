"""How a picture was compressed, from its file and its pixels."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..io import Picture
from .blocks import sample


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


def measure_compression(picture: Picture, luma: np.ndarray) -> Compression:
    """Blockiness from the pixels: mean absolute second-difference across each of the 8 column and
    row phases, the largest
    over the mean of the others (after Fan and de Queiroz 2003)."""
    blocks = sample(luma)
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
