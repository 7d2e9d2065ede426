"""What was to be removed from a shot: masks of some frames or of all, or proposed from what changed."""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import Path

import numpy as np

from ..errors import Refused
from ..io import Picture, read_mask
from ..regions import Region, from_mask, proposed
from .carrying import Outlines
from .frames import Shot, numbered

#: What was drawn: by region's id, bool masks (height, width) by frame, counted from 0.
Drawn = Mapping[str, Mapping[int, np.ndarray]]


def read_drawn(path: str, shot: Shot) -> dict[str, Outlines]:
    """Regions from masks, white where something was to be removed.

    Args:
        path: a folder of masks numbered as the original's frames are, of some frames or of all; or one
            mask, of the frame whose number ends its name, otherwise of the first.

    Raises:
        Refused: a mask cannot be read, is of another size, marks nothing, or of a frame there is not.
    """
    place = Path(path)
    frame = (shot.height, shot.width)
    if place.is_dir():
        files = numbered(place)
    else:
        ends = re.search(r"(\d+)$", place.stem)
        number = int(ends[1]) if ends else shot.first
        known = shot.first <= number < shot.first + shot.count
        files = {number if known else shot.first: place}
    masks = Outlines()
    for number, file in sorted(files.items()):
        at = number - shot.first
        if not 0 <= at < shot.count:
            raise Refused(f"{file.name}: the original has no frame {number}")
        masks[at] = read_mask(str(file), frame)
    if not any(mask.any() for mask in masks.values()):
        raise Refused(f"{place.name}: marks nothing")
    return by_region(masks)


def by_region(masks: Mapping[int, np.ndarray]) -> dict[str, Outlines]:
    """Connected parts of each frame's mask as regions: each is the region whose part of the frame
    before lies nearest to it; those of the first frame have their numbers in reading order.
    """
    found: dict[str, Outlines] = {}
    places: dict[str, np.ndarray] = {}
    opening = True
    for number in sorted(masks):
        frame = (int(masks[number].shape[0]), int(masks[number].shape[1]))
        if not masks[number].any():
            continue
        for part in from_mask(masks[number]):
            name = str(len(found) + 1) if opening else _nearest(part, places)
            mask = part.full(frame)
            of_region = found.setdefault(name, Outlines())
            of_region[number] = of_region[number] | mask if number in of_region else mask
        for name, of_region in found.items():
            if number in of_region:
                rows, columns = np.nonzero(of_region[number])
                places[name] = np.array([columns.mean(), rows.mean()])
        opening = False
    return found


def _middle(part: Region) -> np.ndarray:
    x, y, w, h = part.bbox
    return np.array([x + w / 2, y + h / 2])


def _nearest(part: Region, places: Mapping[str, np.ndarray]) -> str:
    return min(places, key=lambda name: float(np.hypot(*(places[name] - _middle(part)))))


def proposed_drawn(
    pairs: Mapping[int, tuple[Picture, Picture]],
) -> dict[str, Outlines]:
    """Regions from what changed in some frames: by number, the original's and the result's."""
    masks = Outlines()
    for number, (before, after) in pairs.items():
        whole = np.zeros((before.height, before.width), bool)
        for region in proposed(before, after):
            whole |= region.full(whole.shape)
        masks[number] = whole
    return by_region(masks)
