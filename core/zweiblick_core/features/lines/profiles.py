"""Profiles across a line, and where they are met again."""

from __future__ import annotations

import cv2
import numpy as np

#: How far outside the profile is learned, the steps inward, how far across is looked, half the
#: template, pixels.
BACK, STEP, ACROSS, HALF = 26, 8, 18, 7

LAGS = ACROSS - HALF

#: Which places across a template covers at each lag, and ones there, (2 * ACROSS + 1, lags).
_OF_LAG = (
    np.arange(2 * HALF + 1)[:, None] + np.arange(2 * LAGS + 1),
    np.arange(2 * LAGS + 1)[None],
)

_ONES = np.zeros((2 * ACROSS + 1, 2 * LAGS + 1), np.float32)

_ONES[_OF_LAG] = 1.0


def patch_of(
    luma: np.ndarray, start: np.ndarray, toward: np.ndarray, first: float, count: int
) -> np.ndarray:
    """Luma along and across a line: (count, 2 * ACROSS + 1)."""
    (x, y), (dx, dy) = start, toward
    matrix = np.array(
        [[-dy, dx, x + first * dx + ACROSS * dy], [dx, dy, y + first * dy - ACROSS * dx]]
    )
    return cv2.warpAffine(
        luma,
        matrix,
        (2 * ACROSS + 1, count),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )


def sought(rows: np.ndarray, template: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Where a template lies across each row, by normalised correlation.

    Args:
        rows: (n, 2 * ACROSS + 1). template: (2 * HALF + 1,), zero mean.

    Returns:
        (n, lags) correlation; (n, lags) amplitude in multiples of the template. Lag index `LAGS`
        is straight on.
    """
    size, power = 2 * HALF + 1, float((template**2).sum())
    # Every lag at once: a template of zero mean takes no note of the rows' own.
    templates = np.zeros_like(_ONES)
    templates[_OF_LAG] = template[:, None]
    rows = rows - rows.mean(axis=1, keepdims=True)
    product = rows @ templates
    sums = rows @ _ONES
    # A floor of two levels keeps a flat row from matching anything.
    norm = np.sqrt(np.maximum((rows * rows) @ _ONES - sums * sums / size, 4.0 * size) * power)
    return product / norm, product / power


def refined(correlation: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Sub-pixel places (n,) of peaks `at` in rows of correlation (n, lags), by a parabola; a peak
    at an end stays.
    """
    rows, inner = np.arange(len(at)), np.clip(at, 1, correlation.shape[1] - 2)
    a, b, c = (correlation[rows, inner + k] for k in (-1, 0, 1))
    bend = a - 2 * b + c
    peaked = (inner == at) & (bend < -1e-9)
    return np.asarray(
        at + np.where(peaked, np.clip(0.5 * (a - c) / np.where(peaked, bend, -1.0), -0.5, 0.5), 0.0)
    )


def fitted(where: np.ndarray, values: np.ndarray) -> tuple[float, float]:
    """Slope and height at zero of the straight line nearest to some values, by least squares."""
    middle = float(where.mean())
    centred = where - middle
    slope = float(centred @ values) / max(float(centred @ centred), 1e-9)
    return slope, float(values.mean()) - slope * middle
