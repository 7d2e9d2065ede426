"""Photographs to measure on: those that ship inside scikit-image's wheel, and our own rendered pictures without their things."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import skimage

#: Split by photograph: thresholds may be looked at on TRAIN, figures are told for TEST.
TRAIN = ("brick", "astronaut", "coffee", "camera", "coins", "boatshed-truth", "market-truth")
TEST = ("gravel", "grass", "chelsea", "rocket", "motorcycle_left", "retina", "warehouse-truth", "quay-truth", "jetty-truth")
_SHIPPED = Path(skimage.__file__).parent / "data"
_OWN = Path(__file__).parent.parent / "demo" / "pictures"


def photograph(name: str, seed: int = 0) -> np.ndarray:
    """uint8 (h, w, 3). Old scans have little grain left, so all get a sensor's: 1.3 levels, slightly correlated."""
    for path in (_OWN / f"{name}.jpg", _SHIPPED / f"{name}.png", _SHIPPED / f"{name}.jpg"):
        if path.exists():
            picture = cv2.imread(str(path), cv2.IMREAD_COLOR)
            break
    else:
        raise FileNotFoundError(name)
    assert picture is not None
    rgb = picture[..., ::-1].astype(np.float32)
    rng = np.random.default_rng(sum(map(ord, name)) + seed)
    noise = cv2.GaussianBlur(rng.normal(0, 1, rgb.shape).astype(np.float32), (0, 0), 0.55)
    return np.clip(rgb + 1.3 * noise / noise.std(), 0, 255).round().astype(np.uint8)
