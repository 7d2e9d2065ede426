"""Changing an area that is marked: together with another, larger, smaller, smoother, in parts."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np

from ..errors import Refused
from .framing import Window
from .masks import JOIN, Region, cropped

How = Literal["add", "subtract", "intersect"]


def combined(
    first: Region | None, second: Region, how: How, frame: tuple[int, int]
) -> Region | None:
    """Two areas added, the second subtracted, or what both have. None if nothing is left.

    Args:
        first: None is an empty area.
        frame: (height, width).
    """
    if first is None:
        return second if how == "add" else None
    window = Window([first, second], frame)
    one, other = window.mask(first), window.mask(second)
    mask = {"add": one | other, "subtract": one & ~other, "intersect": one & other}[how]
    return window.area(mask, first.id)


def grown(area: Region, pixels: float, frame: tuple[int, int]) -> Region | None:
    """An area grown by a number of pixels, or shrunk by a negative one, at every place at a right
    angle to its outline (Euclidean distance). The frame's edge is no outline: what lies at it
    stays there. None if nothing is left.
    """
    margin = max(0, int(np.ceil(pixels))) + 1
    window = Window([area], frame, margin)
    mask = window.mask(area)
    if pixels >= 0:
        away = cv2.distanceTransform((~mask).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        return window.area(away <= pixels, area.id)
    # What lies beyond the frame counts as marked.
    within = cv2.distanceTransform(mask.view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return window.area(within > -pixels, area.id)


def smoothed(area: Region, pixels: float, frame: tuple[int, int]) -> Region | None:
    """An area without what is thinner than about twice so many pixels: spikes are cut, notches and
    pinholes filled. The boundary of a blurred mask at one half; None if nothing is left.
    """
    if pixels <= 0:
        return area
    window = Window([area], frame, int(np.ceil(3 * pixels)) + 1)
    blurred = cv2.GaussianBlur(
        window.mask(area).astype(np.float32), (0, 0), pixels, borderType=cv2.BORDER_REPLICATE
    )
    return window.area(blurred > 0.5, area.id)


def reaching_frame(area: Region, frame: tuple[int, int], within: int = JOIN) -> Region:
    """An area pushed to the frame's edges that it comes near: between such an outline and the edge
    a sliver of the thing would stay.

    Args:
        within: how near, in pixels.
    """
    height, width = frame
    x, y, w, h = area.bbox
    window = Window([area], frame, within)
    mask = window.mask(area)
    near = (x <= within, y <= within, x + w >= width - within, y + h >= height - within)
    for side, close in enumerate(near):
        if not close or not window.ends[side]:
            continue
        # Whatever of the area lies in the band along this edge is drawn out to the edge.
        turned = {0: mask, 1: mask.T, 2: mask[:, ::-1], 3: mask.T[:, ::-1]}[side]
        band = turned[:, : within + 1]
        first = np.where(band.any(1), band.argmax(1), 0)
        band[np.arange(band.shape[1])[None, :] < first[:, None]] = True
    found = window.area(mask, area.id)
    assert found is not None
    return found


def parts(area: Region) -> list[Region]:
    """The connected parts of an area (8 neighbours), the largest first, named "1", "2", ..."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(
        area.mask.view(np.uint8), connectivity=8
    )
    order = sorted(range(1, count), key=lambda one: -int(stats[one, cv2.CC_STAT_AREA]))
    return [
        cropped(labels == label, str(number), area.bbox[:2])
        for number, label in enumerate(order, 1)
    ]


def merged(areas: list[Region], frame: tuple[int, int]) -> Region:
    """Several areas as one, named as the first.

    Raises:
        Refused: there are fewer than two.
    """
    if len(areas) < 2:
        raise Refused("two regions or more are needed to make one of them")
    window = Window(areas, frame)
    found = window.area(np.any([window.mask(area) for area in areas], axis=0), areas[0].id)
    assert found is not None
    return found
