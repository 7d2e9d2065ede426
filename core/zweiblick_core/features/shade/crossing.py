"""Where the light falls off across a stretch of boundary and nowhere else along it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ...scene.boundary import REACH
from ...scene.window import Window
from ..rim.nulls import LEAST_CONTROLS, controls_of

#: Bands on either side of the boundary where the light of what lies there is read, pixels, inner
#: ones negative; and what shares of a boundary a shadow may cross.
_INSIDE, _OUTSIDE = (-10, -4), (2, 8)
_SHARES = (0.12, 0.2, 0.3, 0.4, 0.5, 0.62)
#: Distance between readings along the boundary, pixels; and how far one of them may lie from
#: zero, natural logarithm of linear light.
_EVERY, _MOST = 4.0, 1.2


@dataclass(frozen=True)
class Crossing:
    """Where the light falls off across a stretch of boundary and nowhere else along it. `amount`:
    how far it stands out, in falls of single places; `fall`: natural logarithm of
    linear light; `neutral`: 0..1, how alike in all colours; `start`, `end`: samples of the rim, the
    end possibly beyond its length.
    """

    amount: float
    fall: float
    neutral: float
    start: int
    end: int


def _falls(strip: np.ndarray, usable: np.ndarray, stride: int) -> np.ndarray:
    """By how much less light lies outside a boundary than inside, (n // stride, 3) natural
    logarithms, of a CIELAB strip (n, 2 * REACH + 1, 3).
    """
    bands = np.stack(
        [
            strip[:, REACH + first : REACH + last + 1].mean(axis=1)
            for first, last in (_INSIDE, _OUTSIDE)
        ],
        1,
    )
    light = np.log(
        np.maximum(cv2.cvtColor(np.ascontiguousarray(bands, np.float32), cv2.COLOR_LAB2LRGB), 0)
        + 0.004
    )
    falls = np.where(usable[:, None], np.clip(light[:, 0] - light[:, 1], -_MOST, _MOST), 0)
    whole = len(falls) // stride
    return np.asarray(falls[: whole * stride].reshape(whole, stride, 3).mean(axis=1))


def _crossing(falls: np.ndarray, stride: int, closed: bool) -> Crossing:
    """The stretch where a shadow crosses likeliest."""
    own, n = falls.mean(axis=1), len(falls)
    sums = np.concatenate([[0.0], np.cumsum(np.concatenate([own, own]))])
    best = Crossing(-9.0, 0.0, 0.0, 0, 1)
    for share in _SHARES:
        count = max(2, int(share * n))
        first = np.arange(n if closed else max(1, n - count))
        inside = (sums[first + count] - sums[first]) / count
        beyond = (sums[n] - inside * count) / max(1, n - count)
        # What falls off all round is a step, and what rises elsewhere is another ground.
        amounts = (inside - np.abs(beyond)) * np.sqrt(share)
        k = int(np.argmax(amounts))
        if amounts[k] > best.amount:
            mean = np.take(falls, np.arange(k, k + count), axis=0, mode="wrap").mean(axis=0)
            fall = float(mean.mean())
            best = Crossing(
                float(amounts[k]),
                fall,
                float(np.exp(-np.ptp(mean) / (0.25 * max(fall, 0.0) + 0.05))),
                k * stride,
                (k + count) * stride,
            )
    return best


def likeliest_crossing(window: Window) -> tuple[Crossing, np.ndarray] | None:
    """Where a shadow crosses the fill's boundary likeliest, and how far the same stands out at
    untouched places, (n,); None where too little is known.
    """
    controls = controls_of(window)
    if not controls.rims or controls.pieces > 1 or len(controls.placed) < LEAST_CONTROLS:
        return None
    rim = controls.rims[0]
    stride = max(1, round(_EVERY / rim.step))
    if len(rim) < 12 * stride:
        return None
    own = _crossing(_falls(controls.strip(rim), rim.usable, stride), stride, rim.closed)
    null = np.array(
        [
            _crossing(_falls(controls.strip(one), one.usable, stride), stride, one.closed).amount
            for one in controls.placed
        ]
    )
    return own, null
