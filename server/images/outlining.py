"""One act of drawing an outline: what was drawn so far and what a person does next give what is
drawn then. Nothing is stored.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import cv2
import numpy as np

from regions.editing import frame_of
from zweiblick_core.errors import Refused
from zweiblick_core.regions import (
    Region,
    combined,
    drawn_around,
    grown,
    painted,
    reaching_frame,
    smoothed,
)
from zweiblick_core.regions.framing import Window
from zweiblick_core.regions.masks import cropped
from zweiblick_core.regions.shaping import How
from zweiblick_core.regions.similar import laid_over, like_colour

from .models import Image
from .tiles import pixels_of

#: Pixels that one pick by colour looks at; more is more than anybody sees at a time.
MOST_PICKED = 6_000_000
#: A translucent layer is sought in so many pixels; in more it is sought reduced.
_MOST_FITTED = 700_000

What = Literal[
    "outline", "stroke", "colour", "laid over", "grow", "smooth", "reach the frame", "area"
]


@dataclass(frozen=True)
class Act:
    """What a person does. Which of these count follows from `what`; pixels of the original.

    Attributes:
        how: whether what is drawn is added, subtracted, or only what both have is kept.
        rings: outlines drawn freely or by points; several, and holes as further rings, where the
            points of a whole outline were moved.
        spots: where a colour was picked.
        box: (x, y, width, height) of what was looked at when a colour was picked.
        inside: whether only what is inside the outline so far is looked at.
        area: an area that was proposed.
    """

    what: What
    how: How = "add"
    rings: list[list[list[float]]] = field(default_factory=list)
    radius: float = 8.0
    pixels: float = 0.0
    spots: list[tuple[int, int]] = field(default_factory=list)
    box: tuple[int, int, int, int] | None = None
    tolerance: float = 12.0
    belief: float = 0.5
    connected: bool = True
    inside: bool = False
    area: Region | None = None


@dataclass(frozen=True)
class Acted:
    """The area as it is then, None where nothing is left, and what is to be said of it."""

    area: Region | None
    words: str = ""


def acted(image: Image, base: Region | None, act: Act) -> Acted:
    """What is drawn after an act.

    Args:
        image: whose colours are picked; the original or an attempt, in the original's frame.
        base: what was drawn so far.

    Raises:
        Refused: the act cannot be done, in words; FileNotFoundError: the tiles do not stand yet.
    """
    frame = frame_of(image.picture)
    if act.what in ("grow", "smooth", "reach the frame"):
        if base is None:
            raise Refused("nothing is outlined yet")
        if act.what == "grow":
            return Acted(grown(base, act.pixels, frame))
        if act.what == "smooth":
            return Acted(smoothed(base, act.pixels, frame))
        return Acted(reaching_frame(base, frame))
    if act.what == "laid over":
        return _laid_over(image, base, act, frame)
    if act.what == "outline":
        drawn = _by_rings(act.rings, frame)
    elif act.what == "stroke":
        drawn = painted(act.rings[0] if act.rings else [], act.radius, frame)
    elif act.what == "colour":
        drawn = _coloured(image, base, act, frame)
    else:
        if act.area is None:
            raise Refused("no area is given")
        drawn = act.area
    return Acted(combined(base, drawn, act.how, frame))


def _by_rings(rings: list[list[list[float]]], frame: tuple[int, int]) -> Region:
    """One ring, or several whose inner ones are holes."""
    if not rings:
        raise Refused("an outline needs three points or more")
    areas = [drawn_around(ring, frame) for ring in rings]
    window = Window(areas, frame)
    mask = np.logical_xor.reduce([window.mask(area) for area in areas])
    area = window.area(mask, "drawn")
    if area is None:
        raise Refused("the outline covers no pixel of the picture")
    return area


def _clipped(box: tuple[int, int, int, int], frame: tuple[int, int]) -> tuple[int, int, int, int]:
    x, y = max(0, box[0]), max(0, box[1])
    right, bottom = min(frame[1], box[0] + box[2]), min(frame[0], box[1] + box[3])
    if x >= right or y >= bottom:
        raise Refused("what is looked at lies outside the picture")
    return x, y, right - x, bottom - y


def _coloured(image: Image, base: Region | None, act: Act, frame: tuple[int, int]) -> Region:
    if not act.spots:
        raise Refused("pick a spot first")
    if act.inside:
        if base is None:
            raise Refused("draw around it first; then its colour is picked inside")
        box = base.bbox
    else:
        box = _clipped(act.box or (0, 0, frame[1], frame[0]), frame)
    if box[2] * box[3] > MOST_PICKED:
        raise Refused(
            "that is too much to look at for one colour; go nearer, or draw around it first"
        )
    pixels = pixels_of(image, box)
    mask = np.zeros(pixels.shape[:2], bool)
    for x, y in act.spots:
        mask |= like_colour(pixels, (x - box[0], y - box[1]), act.tolerance, act.connected)
    if act.inside and base is not None:
        mask &= base.mask
    if not mask.any():
        raise Refused("nothing there has this colour")
    return cropped(mask, "drawn", (box[0], box[1]))


def _laid_over(image: Image, base: Region | None, act: Act, frame: tuple[int, int]) -> Acted:
    """What is laid over inside the outline takes the outline's place."""
    if base is None:
        raise Refused("draw around the lettering first; what is laid over is then sought inside")
    margin = max(40, max(base.bbox[2:]) // 6)
    window = Window([base], frame, margin)
    height, width = window.shape
    if height * width > MOST_PICKED:
        raise Refused("that is too much to look at; draw around a part of it")
    pixels, area = pixels_of(image, (window.left, window.top, width, height)), window.mask(base)
    part = max(1, int(np.ceil(np.sqrt(height * width / _MOST_FITTED))))
    spots = [(x - window.left, y - window.top) for x, y in act.spots]
    small = (max(1, width // part), max(1, height // part))
    if part > 1:
        pixels = cv2.resize(pixels, small, interpolation=cv2.INTER_AREA)
        area = cv2.resize(area.view(np.uint8), small, interpolation=cv2.INTER_NEAREST).view(bool)
        spots = [(min(x // part, small[0] - 1), min(y // part, small[1] - 1)) for x, y in spots]
    mask, veil = laid_over(pixels, area, spots, act.belief)
    if part > 1:
        large = cv2.resize(mask.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR)
        mask = (large > 0.5) & window.mask(base)
    found = window.area(mask, base.id)
    return Acted(found, f"laid over with an opacity of {veil.opacity:.0%}")
