"""Photographs to measure on: those that ship inside scikit-image's wheel, our own rendered pictures
without their things, and those of a folder.
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import skimage

#: Split by photograph: thresholds may be looked at on TRAIN, figures are told for TEST.
TRAIN = ("brick", "astronaut", "coffee", "camera", "coins", "boatshed-truth", "market-truth")
TEST = (
    "gravel",
    "grass",
    "chelsea",
    "rocket",
    "motorcycle_left",
    "retina",
    "warehouse-truth",
    "quay-truth",
    "jetty-truth",
)
#: A sensor's grain, for pictures that have little left: sigma in levels, and of the blur that
#: correlates it, in pixels.
GRAIN, CORRELATED = 1.3, 0.55
#: A sensor's grain, for pictures that have little left: sigma in levels, and of the blur that
#: correlates it, in pixels.
GRAIN, CORRELATED = 1.3, 0.55
_SHIPPED = Path(skimage.__file__).parent / "data"
_OWN = Path(__file__).parent.parent / "demo" / "pictures"


def photograph(name: str, seed: int = 0) -> np.ndarray:
    """uint8 (h, w, 3). Old scans have little grain left, so all get a sensor's; `seed`: another
    exposure.
    """
    for path in (_OWN / f"{name}.jpg", _SHIPPED / f"{name}.png", _SHIPPED / f"{name}.jpg"):
        if path.exists():
            return _grained(path, name, seed)
    raise FileNotFoundError(name)


def _grained(path: Path, name: str, seed: int) -> np.ndarray:
    picture = cv2.imread(str(path), cv2.IMREAD_COLOR)
    if picture is None:
        raise FileNotFoundError(path)
    rgb = picture[..., ::-1].astype(np.float32)
    rng = np.random.default_rng(sum(map(ord, name)) + seed)
    noise = cv2.GaussianBlur(rng.normal(0, 1, rgb.shape).astype(np.float32), (0, 0), CORRELATED)
    return np.clip(rgb + GRAIN * noise / noise.std(), 0, 255).round().astype(np.uint8)


def picture_of(name: str, folder: str | None, seed: int = 0) -> np.ndarray:
    """A photograph by its name, or a PNG of one's own by its stem; as `photograph` gives them."""
    return (
        photograph(name, seed)
        if folder is None
        else _grained(Path(folder) / f"{name}.png", name, seed)
    )


def names_in(folder: str) -> list[str]:
    """The PNG pictures of a folder, by their stems."""
    return sorted(file.stem for file in Path(folder).glob("*.png"))
