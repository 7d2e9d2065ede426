"""The rendered pictures, as they lie in demo/pictures."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from zweiblick_core.io import read
from zweiblick_core.regions import from_mask

PICTURES = Path(__file__).parent / "pictures"


@dataclass(frozen=True)
class Scene:
    """A picture, with what was really there. Arrays are sRGB uint8; `regions` are bool masks of the
    frame, in reading order.
    """

    original: np.ndarray
    truth: np.ndarray
    regions: tuple[np.ndarray, ...]


def rendered(slug: str) -> Scene:
    """Read a picture, its truth and its masks."""
    original, truth = (
        read(PICTURES / f"{slug}.jpg").pixels,
        read(PICTURES / f"{slug}-truth.jpg").pixels,
    )
    mask = cv2.imread(str(PICTURES / f"{slug}-mask.png"), cv2.IMREAD_GRAYSCALE)
    assert mask is not None
    # Regions that touch are told apart by their grey.
    levels = sorted(set(np.unique(mask).tolist()) - {0}, reverse=True)
    return Scene(
        original,
        truth,
        tuple(
            region.full(original.shape[:2])
            for level in levels
            for region in from_mask(mask == level)
            if region.mask.sum() > 2500
        ),
    )
