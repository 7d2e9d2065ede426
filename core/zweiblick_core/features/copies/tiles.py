"""The tiles of a fill that counterparts are sought for, and the same over untouched parts."""

from __future__ import annotations

import cv2
import numpy as np

from ...scene.window import Window

_CONTROLS = 14
_TILES = 36


def tile_side(window: Window) -> int:
    """Tiles fit the fill: 64 px, or less where the fill is narrow."""
    x, y, w, h = cv2.boundingRect(window.filled.view(np.uint8))
    # To the pixel only where that matters.
    every = 4 if min(w, h) > 400 else 1
    around = np.ascontiguousarray(
        window.filled[
            max(0, y - every) : y + h + every : every, max(0, x - every) : x + w + every : every
        ]
    ).view(np.uint8)
    thickest = every * float(cv2.distanceTransform(around, cv2.DIST_L2, 3).max())
    return int(np.clip(int(thickest * 1.3) // 8 * 8, 24, 64))


def tiles_of(window: Window, side: int) -> list[tuple[int, int]]:
    """Corners of tiles that lie mostly in the fill, evenly thinned to `_TILES`."""
    height, width = window.filled.shape
    share = cv2.boxFilter(
        window.filled.astype(np.float32),
        -1,
        (side, side),
        anchor=(0, 0),
        borderType=cv2.BORDER_CONSTANT,
    )
    stride = max(8, side // 2)
    ys, xs = np.mgrid[0 : height - side + 1 : stride, 0 : width - side + 1 : stride]
    inside = share[ys, xs] > 0.7
    if not inside.any():
        # A wire's place is narrower than any tile.
        inside = share[ys, xs] > 0.35
    places = list(zip(xs[inside].tolist(), ys[inside].tolist(), strict=True))
    if not places and share[: height - side + 1, : width - side + 1].size:
        y, x = np.unravel_index(
            int(np.argmax(share[: height - side + 1, : width - side + 1])),
            share[: height - side + 1, : width - side + 1].shape,
        )
        places = [(int(x), int(y))] if share[y, x] > 0.35 else []
    return places[:: max(1, int(np.ceil(len(places) / _TILES)))]


def control_tiles(window: Window, side: int) -> list[tuple[int, int]]:
    """Corners of tiles over untouched parts, apart from each other."""
    height, width = window.mask.shape
    taken = cv2.boxFilter(
        (window.elsewhere | window.changed).astype(np.float32),
        -1,
        (side, side),
        anchor=(0, 0),
        borderType=cv2.BORDER_CONSTANT,
    )
    rng = np.random.default_rng(20261)
    places: list[tuple[int, int]] = []
    for _ in range(_CONTROLS * 20):
        if len(places) == _CONTROLS or height <= side or width <= side:
            break
        x, y = int(rng.integers(0, width - side)), int(rng.integers(0, height - side))
        if taken[y, x] == 0 and all(
            abs(x - px) > side // 2 or abs(y - py) > side // 2 for px, py in places
        ):
            places.append((x, y))
    return places
