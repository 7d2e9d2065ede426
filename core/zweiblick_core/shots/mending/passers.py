"""What passes in front of a thing that moves itself: told from the thing by what that looks like in other
frames.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..locked import Locked, brightness

#: A frame departs from the thing by more levels than this, and by so many times what it usually does.
_LEVELS, _USUALLY = 9.0, 4.0
#: Pixels.
_STRIPE = 17
#: So many frames tell what the thing looks like.
_FRAMES = 48


def add_passing_before(locked: Locked) -> None:
    """Add to `locked.covered` what passes in front of a thing that moves, within its outline: what looks
    unlike the thing there and goes on beyond it as something that passes.
    """
    boxes = [tuple(cv2.boundingRect(one.view(np.uint8))) for one in locked.mask]
    shown = [number for number, box in enumerate(boxes) if box[2]]
    if not shown:
        return
    size = max(max(boxes[number][2:]) for number in shown) + 8
    gains = brightness(locked)
    some = {shown[int(at)] for at in np.linspace(0, len(shown) - 1, min(_FRAMES, len(shown)))}
    stack = np.full((len(some), size, size), np.nan, np.float32)
    for at, number in enumerate(sorted(some)):
        inside = locked.mask[number] & ~locked.covered[number]
        frame = np.where(inside, locked.original[number].astype(np.float32), np.nan)
        stack[at] = _about(frame / gains[number], boxes[number], size)
    with np.errstate(all="ignore"):
        thing = _median(stack)
        usually = 1.4826 * _median(np.abs(stack - thing))
    for number in shown:
        outside = locked.covered[number] & ~locked.mask[number]
        if not outside.any():
            continue
        frame = _about(
            locked.original[number].astype(np.float32) / gains[number], boxes[number], size
        )
        apart = np.abs(frame - thing)
        unlike = np.nan_to_num(apart, nan=0.0) > np.maximum(
            _LEVELS, _USUALLY * np.nan_to_num(usually)
        )
        over = _put_back(unlike, boxes[number], locked.mask[number].shape) & locked.mask[number]
        over = cv2.morphologyEx(over.view(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0
        whole = cv2.morphologyEx((over | outside).view(np.uint8), cv2.MORPH_CLOSE, _closing()) > 0
        locked.covered[number] |= _joined(
            whole & (locked.mask[number] | _rim(locked.mask[number])), outside
        )


def _closing() -> np.ndarray:
    """Stripes of what passes that are as bright as the thing are no wider than this."""
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (_STRIPE, _STRIPE)))


def _rim(mask: np.ndarray) -> np.ndarray:
    """Close about an outline, where passing is not looked for in a shot whose thing moves."""
    return np.asarray(cv2.dilate(mask.view(np.uint8), np.ones((9, 9), np.uint8)) > 0) & ~mask


def _median(stack: np.ndarray) -> np.ndarray:
    # What no frame shows is NaN, without the warning that says so.
    known = np.isfinite(stack).any(axis=0)
    found = np.full(stack.shape[1:], np.nan, np.float32)
    found[known] = np.nanmedian(stack[:, known], axis=0)
    return found


def _corner(box: tuple[int, ...], size: int) -> tuple[int, int]:
    x, y, w, h = box
    return x + w // 2 - size // 2, y + h // 2 - size // 2


def _about(plane: np.ndarray, box: tuple[int, ...], size: int) -> np.ndarray:
    """A square of a plane about the middle of a box, NaN beyond the plane."""
    left, top = _corner(box, size)
    found = np.full((size, size), np.nan, np.float32)
    height, width = plane.shape
    rows = slice(max(0, top), min(height, top + size))
    columns = slice(max(0, left), min(width, left + size))
    found[rows.start - top : rows.stop - top, columns.start - left : columns.stop - left] = plane[
        rows, columns
    ]
    return found


def _put_back(square: np.ndarray, box: tuple[int, ...], shape: tuple[int, ...]) -> np.ndarray:
    left, top = _corner(box, len(square))
    found = np.zeros(shape, bool)
    rows = slice(max(0, top), min(shape[0], top + len(square)))
    columns = slice(max(0, left), min(shape[1], left + len(square)))
    found[rows, columns] = square[
        rows.start - top : rows.stop - top, columns.start - left : columns.stop - left
    ]
    return found


def _joined(over: np.ndarray, outside: np.ndarray) -> np.ndarray:
    """Those parts of `over` that touch what passes outside."""
    near = cv2.dilate(outside.view(np.uint8), np.ones((11, 11), np.uint8)) > 0
    count, labels = cv2.connectedComponents(over.view(np.uint8), connectivity=8)
    keep = np.zeros(count, bool)
    keep[np.unique(labels[over & near])] = True
    keep[0] = False
    return np.asarray(keep[labels])
