"""What is natural in this picture: control places, and the score that compares a reading with them."""

from __future__ import annotations

import cv2
import numpy as np

from .report import Natural


def outline_places(mask: np.ndarray, forbidden: np.ndarray, luma: np.ndarray, count: int, seed: int) -> list[tuple[int, int]]:
    """Offsets (dx, dy) at which the same outline lies over untouched parts of the picture, the texture most alike first.

    Args:
        mask: bool, the area whose outline is laid elsewhere.
        forbidden: bool, where no control may lie (every region, changed or not).
        luma: float32, for the likeness of texture.
        count: how many are wanted; fewer come back where there is no room.
        seed: places are drawn from it; the same seed gives the same places.

    Controls may overlap each other up to a third: fully disjoint ones leave too few around large regions.
    """
    rows, columns = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    if not len(rows):
        return []
    top, bottom, left, right = rows[0], rows[-1] + 1, columns[0], columns[-1] + 1
    height, width = bottom - top, right - left
    space_y, space_x = luma.shape[0] - height, luma.shape[1] - width
    if space_y < 1 or space_x < 1:
        return []
    # Everything is decided at a quarter of the size: exactness is not needed to find room.
    scale = 4
    small = lambda plane: cv2.resize(plane.astype(np.float32), (max(1, plane.shape[1] // scale), max(1, plane.shape[0] // scale)), interpolation=cv2.INTER_AREA)
    shape = small(mask[top:bottom, left:right]) > 0.5
    if not shape.any():
        return []
    blocked = small(forbidden) > 0.02
    overlap = cv2.filter2D(blocked.astype(np.float32), -1, shape.astype(np.float32), anchor=(0, 0), borderType=cv2.BORDER_CONSTANT)
    free = overlap[: max(1, space_y // scale), : max(1, space_x // scale)] < 0.5
    ys, xs = np.nonzero(free)
    if not len(ys):
        return []
    rng = np.random.default_rng(seed)
    pick = rng.permutation(len(ys))[: count * 12]
    grey = small(luma)
    detail = cv2.blur(np.abs(grey - cv2.blur(grey, (3, 3))), (1, 1))
    # Likeness is to what surrounds the area: inside it lies the removed thing, or a fill under suspicion.
    around = (cv2.dilate(small(mask), np.ones((11, 11), np.uint8)) > 0.3) & ~blocked
    own = float(detail[around].mean()) if around.any() else float(detail.mean())
    ranked = sorted((abs(np.log((_texture(grey, detail, int(ys[k]), int(xs[k]), shape) + 0.3) / (own + 0.3))), k) for k in pick)
    chosen: list[tuple[int, int]] = []
    for _, k in ranked:
        y, x = int(ys[k]) * scale, int(xs[k]) * scale
        if all(abs(y - cy) > height * 2 / 3 or abs(x - cx) > width * 2 / 3 for cy, cx in chosen):
            chosen.append((y, x))
            if len(chosen) == count:
                break
    return [(x - int(left), y - int(top)) for y, x in chosen]


def _texture(grey: np.ndarray, detail: np.ndarray, y: int, x: int, shape: np.ndarray) -> float:
    part = detail[y:y + shape.shape[0], x:x + shape.shape[1]]
    inside = shape[: part.shape[0], : part.shape[1]]
    return float(part[inside].mean()) if inside.any() else 0.0


def natural_range(values: np.ndarray, null: str) -> Natural:
    """5th to 95th percentile."""
    low, high = np.percentile(values, [5, 95])
    return Natural(float(low), float(high), len(values), null)


def excess(value: np.ndarray, values: np.ndarray, floor: float) -> np.ndarray:
    """How far a value lies above a null: (value - median) / spread, spread = the larger of the upper half's robust
    deviation and `floor`. Upper half, because nulls of absolute measures have long upper tails."""
    median = float(np.median(values))
    upper = float(np.percentile(values, 84)) - median
    return (value - median) / max(upper, floor)


def score_of(far: np.ndarray, half: float, width: float) -> np.ndarray:
    """Excesses to 0..1 by a logistic curve: 0.5 at `half`."""
    return 1.0 / (1.0 + np.exp(-np.clip((far - half) / width, -30, 30)))
