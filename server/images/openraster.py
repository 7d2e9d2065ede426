"""Layered files: OpenRaster 0.0.6 (freedesktop.org), a zip of PNG layers and a stack that names
them.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from xml.sax.saxutils import quoteattr

import cv2
import numpy as np

from .zips import Zip

_THUMBNAIL = 256


@dataclass(frozen=True)
class Layer:
    """One layer: uint8 (height, width, 3 or 4), RGB or RGBA, of the whole picture's frame."""

    name: str
    pixels: np.ndarray
    visible: bool = True


def _png(pixels: np.ndarray) -> bytes:
    order = [2, 1, 0, 3][: pixels.shape[2]]
    ok, data = cv2.imencode(".png", np.ascontiguousarray(pixels[..., order]))
    assert ok
    return data.tobytes()


def written(layers: Sequence[Layer], merged: np.ndarray) -> bytes:
    """An OpenRaster file.

    Args:
        layers: the topmost first.
        merged: uint8 (height, width, 3), what is seen with the visible layers.
    """
    height, width = merged.shape[:2]
    stack = "".join(
        f'<layer name={quoteattr(layer.name)} src="data/layer{number}.png" x="0" y="0" '
        f'visibility="{"visible" if layer.visible else "hidden"}"/>'
        for number, layer in enumerate(layers)
    )
    scale = min(1.0, _THUMBNAIL / max(height, width))
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    packed = io.BytesIO()
    with Zip(packed, "w") as files:
        # Its type comes first and uncompressed, so that it can be told from the first bytes.
        files.writestr("mimetype", "image/openraster")
        files.writestr(
            "stack.xml",
            "<?xml version='1.0' encoding='UTF-8'?>\n"
            f'<image version="0.0.6" w="{width}" h="{height}"><stack>{stack}</stack></image>\n',
        )
        for number, layer in enumerate(layers):
            files.writestr(f"data/layer{number}.png", _png(layer.pixels))
        files.writestr("mergedimage.png", _png(merged))
        small = cv2.resize(merged, size, interpolation=cv2.INTER_AREA)
        files.writestr("Thumbnails/thumbnail.png", _png(small))
    return packed.getvalue()


def layered(
    original: np.ndarray, result: np.ndarray, number: int, regions: Sequence[tuple[str, np.ndarray]]
) -> bytes:
    """An attempt over its original, with its regions as hidden layers on top.

    Args:
        original, result: uint8 (height, width, 3) in one frame.
        number: the attempt's.
        regions: what each is called, and its mask, bool (height, width).
    """
    above = [Layer(name, marked(mask), visible=False) for name, mask in regions]
    return written(
        [*above, Layer(f"attempt {number}", result), Layer("original", original)], result
    )


def marked(mask: np.ndarray) -> np.ndarray:
    """A mask, bool (height, width), as a layer: white where it is set, transparent elsewhere."""
    layer = np.zeros((*mask.shape, 4), np.uint8)
    layer[mask] = 255
    return layer
