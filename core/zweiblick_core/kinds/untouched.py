"""Untouched: nothing was done here, or so little that the thing must still stand.

The share of the region's pixels that the removal changed, as far as it is not what re-encoding moves
(`regions.changed`). There is nothing to
calibrate against but the surroundings: there, as here, an untouched picture reads near zero.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..evidence import Unchanged
from ..null import score_of
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "surround"
#: Share of the region from which it counts as worked on, and the width of the doubt about it.
WORKED, DOUBT = 0.035, 0.009


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """One reading for the region. `measure.value` is the share of its pixels that changed, 0..1."""
    inside = int(window.mask.sum())
    share = float((window.changed & window.mask).sum()) / max(inside, 1)
    outside = ~window.elsewhere
    apart = window.apart_levels[::4, ::4]
    usual = float((apart[outside[::4, ::4]] > 12).mean()) if outside[::4, ::4].any() else 0.0
    score = float(score_of(np.array(-share), -WORKED, DOUBT))
    x, y, w, h = cv2.boundingRect(window.mask.astype(np.uint8))
    if score < 0.5:
        # Worked on: nobody asks what an untouched thing would look like.
        return [_reading(window, (x, y, w, h), share, usual, score, [], inside)]
    light = window.lab_result[..., 0]
    near = (
        cv2.dilate(window.mask.astype(np.uint8), np.ones((41, 41), np.uint8)).astype(bool)
        & ~window.elsewhere
    )
    contrast = (
        abs(float(light[window.mask].mean()) - float(light[near].mean())) if near.any() else 0.0
    )
    # The thing itself is what is seen: its own detail, and how far it stands off from what is
    # around it.
    bands, finer = [(1 / (2 * max(w, h, 2)), contrast, 0.0)], light[y : y + h, x : x + w]
    for octave in range(1, 6):
        coarser = cv2.GaussianBlur(finer, (0, 0), 0.5 * 2.0**octave)
        bands.append((2.0**-octave, float((finer - coarser).std()), 0.0))
        finer = coarser
    return [_reading(window, (x, y, w, h), share, usual, score, bands, inside)]


def _reading(
    window: Window,
    box: tuple[int, int, int, int],
    share: float,
    usual: float,
    score: float,
    bands: list[tuple[float, float, float]],
    inside: int,
) -> Reading:
    x, y, w, h = box
    rings, _ = cv2.findContours(
        window.mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE
    )
    ring = cv2.approxPolyDP(max(rings, key=len), 1.5, True)[:, 0]
    polygon = window.to_frame(
        ring + 0.5 if len(ring) > 2 else np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]])
    )
    return Reading(
        "untouched",
        score,
        window.box_to_frame(x, y, w, h),
        polygon,
        Signal(tuple(bands), float(max(w, h)), float(inside)),
        Measure(
            "share of the region that changed",
            share,
            "of its pixels",
            Natural(0.0, usual, int((~window.elsewhere).sum()), NULL),
        ),
        Unchanged(share=share, outside=usual),
    )
