"""A decoded picture, and what its file said of itself."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Saving:
    """What makes a JPEG encoder's result: quantisation tables by number, and the chroma
    subsampling (0: none, 1: 4:2:2, 2: 4:2:0).
    """

    tables: dict[int, list[int]]
    subsampling: int


@dataclass(frozen=True)
class Picture:
    """One decoded picture.

    Attributes:
        pixels: uint8 or uint16 array (height, width, 3), sRGB, upright; uint16 uses the full
            0..65535.
        sha256: hash of the file's bytes, hex.
        format: "jpeg", "png" or "tiff".
        depth: bits a channel in the file, 8 or 16.
        profile: name of the embedded profile, or "none".
        mode: how the file stored colour, for instance "RGB", "L", "CMYK", "RGBA".
        jpeg_quality: estimated quality 1..100 from the quantisation table, or None.
        pages: pages or frames in the file, of which the first was read.
        saving: how a JPEG was compressed, where its pixels are as they were stored (neither turned
            nor converted from another profile); None for all others.
    """

    pixels: np.ndarray
    sha256: str
    format: str
    depth: int
    profile: str
    mode: str
    jpeg_quality: int | None
    pages: int = 1
    saving: Saving | None = None

    @property
    def width(self) -> int:
        """Pixels."""
        return int(self.pixels.shape[1])

    @property
    def height(self) -> int:
        """Pixels."""
        return int(self.pixels.shape[0])

    def facts(self) -> dict[str, object]:
        """What the report says about this input."""
        return {
            "sha256": self.sha256,
            "width": self.width,
            "height": self.height,
            "format": self.format,
            "depth": self.depth,
            "profile": self.profile,
            "mode": self.mode,
            "jpeg_quality": self.jpeg_quality,
            **({"pages": self.pages} if self.pages > 1 else {}),
        }


def eight_bit(pixels: np.ndarray) -> np.ndarray:
    """Any crop as float32 0..255, whatever its depth: uint8, uint16 of 0..65535, or float32 that is
    so already.
    """
    return (
        pixels.astype(np.float32, copy=False)
        if pixels.dtype != np.uint16
        else pixels.astype(np.float32) / 257.0
    )
