"""Where to copy from: the place whose surroundings fit the rim of what is to be filled."""

from __future__ import annotations

import cv2
import numpy as np

from ..errors import Refused

#: Width of the rim that must fit, how far sources are sought, and the reduction at which they are
#: sought first.
RING, REACH = 14, 520


def best_offset(
    picture: np.ndarray,
    mask: np.ndarray,
    keep_out: np.ndarray | None = None,
    along: tuple[float, ...] = (),
    least: float = 0.0,
    reach: int = REACH,
) -> tuple[int, int]:
    """The offset (dx, dy) at which the picture fits the mask's rim best, by the sum of squared
    differences (template matching
    with a mask, as in OpenCV), sought at a reduced size and refined.

    Args:
        picture: uint8 (height, width, 3).
        mask: bool, what is to be filled; its source never overlaps it.
        keep_out: bool, places that may not serve as a source.
        along: degrees of lines through the mask (0 = level, growing clockwise); offsets then keep
            to one of them within 3 px.
        least: shortest offset allowed, pixels.
        reach: longest offset sought, pixels.

    Raises:
        Refused: an empty mask, or no room for a source.
    """
    ys, xs = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    if not len(ys):
        raise Refused("the mask marks nothing")
    height, width = mask.shape
    top, bottom, left, right = (
        max(0, int(ys[0]) - RING),
        min(height, int(ys[-1]) + 1 + RING),
        max(0, int(xs[0]) - RING),
        min(width, int(xs[-1]) + 1 + RING),
    )
    blocked = mask.copy() if keep_out is None else mask | keep_out
    scale = max(1, int(np.ceil(max(bottom - top, right - left) / 160)))
    y0, y1, x0, x1 = (
        max(0, top - reach),
        min(height, bottom + reach),
        max(0, left - reach),
        min(width, right + reach),
    )
    area, barred = picture[y0:y1, x0:x1], blocked[y0:y1, x0:x1].astype(np.float32)
    hole = mask[top:bottom, left:right]
    ring = (
        cv2.dilate(hole.astype(np.uint8), np.ones((2 * RING + 1, 2 * RING + 1), np.uint8)).astype(
            bool
        )
        & ~blocked[top:bottom, left:right]
    )
    if not ring.any():
        raise Refused("nothing is left around the mask to fit a source to")
    small = lambda plane: cv2.resize(
        plane,
        (max(1, plane.shape[1] // scale), max(1, plane.shape[0] // scale)),
        interpolation=cv2.INTER_AREA,
    )
    # The template's corner is brought onto the reduced grid by taking the whole area's, so that
    # offsets are whole steps.
    wide, template = (
        small(area.astype(np.float32)),
        small(picture[top:bottom, left:right].astype(np.float32)),
    )
    weight = (small(ring.astype(np.float32)) > 0.5).astype(np.float32)
    shape = (small(hole.astype(np.float32)) > 0.02).astype(np.float32)
    if not weight.any() or wide.shape[0] < template.shape[0] or wide.shape[1] < template.shape[1]:
        raise Refused("there is no room for a source")
    cost = cv2.matchTemplate(wide, template, cv2.TM_SQDIFF, mask=np.dstack([weight] * 3))
    overlap = cv2.filter2D(
        (small(barred) > 0.02).astype(np.float32),
        -1,
        shape,
        anchor=(0, 0),
        borderType=cv2.BORDER_CONSTANT,
    )[: cost.shape[0], : cost.shape[1]]
    rows, columns = np.mgrid[: cost.shape[0], : cost.shape[1]]
    dx, dy = columns * scale - (left - x0), rows * scale - (top - y0)
    allowed = (overlap < 0.5) & (np.hypot(dx, dy) >= least)
    if along:
        off = np.min(
            [
                np.abs(dx * np.sin(np.radians(angle)) - dy * np.cos(np.radians(angle)))
                for angle in along
            ],
            axis=0,
        )
        narrow = allowed & (off <= 3 + scale)
        allowed = narrow if narrow.any() else allowed
    if not allowed.any():
        raise Refused("there is no room for a source")
    place = np.unravel_index(int(np.argmin(np.where(allowed, cost, np.inf))), cost.shape)
    return _refined(
        picture,
        mask,
        blocked,
        (top, bottom, left, right),
        ring,
        (int(dx[place]), int(dy[place])),
        scale + 2,
    )


def _refined(
    picture: np.ndarray,
    mask: np.ndarray,
    blocked: np.ndarray,
    box: tuple[int, int, int, int],
    ring: np.ndarray,
    near: tuple[int, int],
    by: int,
) -> tuple[int, int]:
    top, bottom, left, right = box
    template, hole = (
        picture[top:bottom, left:right].astype(np.float32)[ring],
        mask[top:bottom, left:right],
    )
    best, found = np.inf, near
    for dy in range(near[1] - by, near[1] + by + 1):
        for dx in range(near[0] - by, near[0] + by + 1):
            if (
                top + dy < 0
                or left + dx < 0
                or bottom + dy > mask.shape[0]
                or right + dx > mask.shape[1]
            ):
                continue
            if blocked[top + dy : bottom + dy, left + dx : right + dx][hole].any():
                continue
            cost = float(
                (
                    (
                        picture[top + dy : bottom + dy, left + dx : right + dx].astype(np.float32)[
                            ring
                        ]
                        - template
                    )
                    ** 2
                ).mean()
            )
            if cost < best:
                best, found = cost, (dx, dy)
    return found


def with_grain(picture: np.ndarray, mask: np.ndarray, seed: int = 0) -> np.ndarray:
    """Give what was filled the grain of its surroundings: noise is added where the fill's own falls
    short.

    Args:
        picture: uint8 (height, width, 3), already filled.
        mask: bool, the fill.
    """
    ys, xs = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    if not len(ys):
        raise Refused("the mask marks nothing")
    y0, y1, x0, x1 = (
        max(0, int(ys[0]) - 60),
        int(ys[-1]) + 61,
        max(0, int(xs[0]) - 60),
        int(xs[-1]) + 61,
    )
    part, hole = picture[y0:y1, x0:x1].astype(np.float32), mask[y0:y1, x0:x1]
    fine = part - cv2.GaussianBlur(part, (0, 0), 0.9)
    # The quieter half of each side: texture must not be taken for grain.
    level = lambda area: float(np.median(np.abs(fine[area]))) / 0.6745 if area.any() else 0.0
    lacking = np.sqrt(max(level(~hole) ** 2 - level(hole) ** 2, 0.0))
    if lacking < 0.15:
        return picture.copy()
    noise = cv2.GaussianBlur(
        np.random.default_rng(seed).normal(0, 1, part.shape).astype(np.float32), (0, 0), 0.5
    )
    high = noise - cv2.GaussianBlur(noise, (0, 0), 0.9)
    out = picture.copy()
    inner = out[y0:y1, x0:x1]
    grained = part + noise / max(float(high.std()), 1e-6) * min(lacking, 8.0)
    inner[hole] = np.clip(grained[hole], 0, 255).round().astype(np.uint8)
    return out
