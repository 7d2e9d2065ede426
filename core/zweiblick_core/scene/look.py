"""One crop of both pictures, and what is made of it once, whichever region is judged in it."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from ..align import Pair
from .planes import apart_of, luma_and_lab


@dataclass
class Look:
    """A crop of both pictures.

    Attributes:
        original, result: (height, width, 3), of any depth, as `eight_bit` reads it.
        shared: what several regions need and one of them has made; it may depend on nothing but
            the crop.
    """

    original: np.ndarray
    result: np.ndarray
    shared: dict[str, Any] = field(default_factory=dict)

    @cached_property
    def of_original(self) -> tuple[np.ndarray, np.ndarray]:
        """Luma and CIELAB, as of `planes.luma_and_lab`."""
        return luma_and_lab(self.original)

    @cached_property
    def of_result(self) -> tuple[np.ndarray, np.ndarray]:
        """Likewise of the result."""
        return luma_and_lab(self.result)

    @cached_property
    def apart_levels(self) -> np.ndarray:
        """Largest difference of the three colours, float32, levels of 255."""
        return apart_of(self.original, self.result)


class Scene:
    """Both pictures of a check. In a picture not much larger than what is looked at about a region,
    all regions are seen in the same crop; the last one is kept.
    """

    def __init__(self, pair: Pair) -> None:
        self.pair = pair
        self._last: tuple[tuple[int, int, int, int], Look] | None = None

    def look(self, left: int, top: int, right: int, bottom: int) -> Look:
        """The crop of these bounds, pixels of the pair's frame."""
        bounds = (left, top, right, bottom)
        if self._last is None or self._last[0] != bounds:
            crop = (slice(top, bottom), slice(left, right))
            look = Look(self.pair.original.pixels[crop], self.pair.result.pixels[crop])
            self._last = (bounds, look)
        return self._last[1]
