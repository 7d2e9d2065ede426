"""Near-identical pictures: a fingerprint that says which to compare at all, and which region of one
lies where a region of the other does.
"""

from __future__ import annotations

from collections.abc import Iterable

import cv2
import numpy as np

from ..align import Alignment
from ..io import Picture, eight_bit
from ..regions.masks import Region

#: So many of a fingerprint's 64 bits may differ; two photographs of different things differ in
#: about 32.
NEAR = 20
#: So much of two regions must be shared, intersection over union, for them to be counterparts.
_SHARED = 0.25


def fingerprint(picture: Picture) -> int:
    """64 bits of a picture's low frequencies, hardly changed by a small move, another exposure or
    encoding (the DCT hash of Zauner, Implementation and benchmarking of perceptual image hash
    functions, 2010, as OpenCV has it).
    """
    pixels = np.clip(eight_bit(picture.pixels), 0, 255).astype(np.uint8)
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    bits = cv2.img_hash.PHash.create().compute(grey)
    return int.from_bytes(np.asarray(bits, np.uint8).tobytes(), "big")


def apart(first: int, second: int) -> int:
    """How many bits two fingerprints differ in."""
    return (first ^ second).bit_count()


def counterpart(
    region: Region, alignment: Alignment, frame: tuple[int, int], others: Iterable[Region]
) -> Region | None:
    """The region of another picture that lies where this one does.

    Args:
        alignment: how the other picture lies to this one; `frame`: its (height, width).
        others: its regions.
    """
    placed = alignment.placed(region, frame)
    if placed is None:
        return None
    shares = [(_shared(placed, other), number, other) for number, other in enumerate(others)]
    best = max(shares, default=None, key=lambda one: (one[0], -one[1]))
    return best[2] if best is not None and best[0] >= _SHARED else None


def _shared(first: Region, second: Region) -> float:
    x0, y0 = max(first.bbox[0], second.bbox[0]), max(first.bbox[1], second.bbox[1])
    x1 = min(first.bbox[0] + first.bbox[2], second.bbox[0] + second.bbox[2])
    y1 = min(first.bbox[1] + first.bbox[3], second.bbox[1] + second.bbox[3])
    if x0 >= x1 or y0 >= y1:
        return 0.0
    cut = lambda one: one.mask[
        y0 - one.bbox[1] : y1 - one.bbox[1], x0 - one.bbox[0] : x1 - one.bbox[0]
    ]
    both = int((cut(first) & cut(second)).sum())
    return both / max(1, int(first.mask.sum()) + int(second.mask.sum()) - both)
