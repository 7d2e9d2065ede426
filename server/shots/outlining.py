"""Regions of shots: what their masks draw, what stands drawn."""

from __future__ import annotations

from collections.abc import Mapping

import cv2
import numpy as np
from django.db.models import Max
from shapely.errors import ShapelyError
from shapely.geometry import Polygon

from people.models import Person
from regions.models import encode_mask
from zweiblick_core.errors import Refused
from zweiblick_core.regions.masks import polygon_mask
from zweiblick_core.shots import Drawn, read_drawn

from .models import Shot, ShotOutline, ShotRegion
from .opening import named, opened, path_of


def drawn_in(shot: Shot) -> Drawn:
    """What stands drawn, as the core reads it: by region's number, bool masks by frame."""
    frame = (shot.original.height, shot.original.width)
    found: dict[str, dict[int, np.ndarray]] = {}
    rows = ShotOutline.objects.filter(region__shot=shot, until=None).select_related("region")
    for row in rows:
        found.setdefault(str(row.region.number), {})[row.frame] = row.full(frame)
    return found


def masks_of(shot: Shot) -> Drawn:
    """What the shot's masks draw.

    Raises:
        Refused: they are not of this shot, or cannot be read.
    """
    assert shot.masks is not None
    try:
        return read_drawn(str(path_of(shot.masks)), opened(shot.original))
    except Refused as error:
        raise named(shot.masks, error) from error


def keep_drawn(shot: Shot, drawn: Drawn) -> None:
    """Store regions of a shot that has none yet."""
    number = shot.regions.aggregate(most=Max("number"))["most"] or 0
    for masks in drawn.values():
        number += 1
        region = ShotRegion.objects.create(shot=shot, number=number)
        for frame, mask in masks.items():
            if mask.any():
                keep_outline(region, frame, mask, None)


def keep_outline(region: ShotRegion, frame: int, mask: np.ndarray, person: Person | None) -> None:
    """Store what is drawn of a region in one frame, in its version. `mask`: bool, of the whole frame."""
    x, y, width, height = cv2.boundingRect(np.ascontiguousarray(mask).view(np.uint8))
    ShotOutline.objects.create(
        region=region,
        frame=frame,
        since=region.version,
        x=x,
        y=y,
        width=width,
        height=height,
        mask_png=encode_mask(mask[y : y + height, x : x + width]),
        person=person,
    )


def mask_from(rings: list[list[list[float]]], shot: Shot) -> np.ndarray:
    """What rings of [x, y] enclose in a frame of the shot, bool (height, width).

    Raises:
        Refused: they enclose nothing of it, or cross themselves.
    """
    frame = (shot.original.height, shot.original.width)
    mask = np.zeros(frame, bool)
    for ring in rings:
        try:
            shape = Polygon(ring)
        except (ShapelyError, ValueError) as error:
            raise Refused("An outline needs three points or more.") from error
        if not shape.is_valid:
            raise Refused("The outline crosses itself.")
        mask |= polygon_mask(shape, frame)
    if not mask.any():
        raise Refused("The outline encloses nothing of the frame.")
    return mask


def versions_of(shot: Shot) -> Mapping[int, int]:
    """The version of each region, by its number."""
    return dict(shot.regions.values_list("number", "version"))
