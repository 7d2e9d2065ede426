"""Shadow: the thing is gone, its shadow or footprint is not. A hint, given with the confidence of
one.

A cast shadow is a place beside the region, darker than what surrounds it by a factor that is the
same for all colours (light was taken away, not paint
added), with its texture's relative contrast unchanged, ending within about the thing's size, and
standing in both pictures alike: in the original it
belonged to the thing. Places are found as connected dark parts that touch the region, on a coarse
grid in logarithms of linear light; how
they compare is learned from the dark parts of the same picture that touch no region.

Besides, a shadow that was left ends where the outline was drawn: across one stretch of the boundary
    light falls off from the fill outward, in all colours alike, and along
the rest of it none does. The likeliest such stretch is sought among all of some lengths, and
compared with the likeliest of the same outline placed over untouched parts.
"""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from ..evidence import Shadow
from ..features.detail.drawn import outlined
from ..features.rim.nulls import controls_of
from ..features.shade.crossing import Crossing, likeliest_crossing
from ..features.shade.dark import BLACK, Dark, cut_at_outline, darks, light_of
from ..null import excess, natural_range, score_of
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..scene.boundary import REACH, ribbon
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "surround"
_HALF, _WIDTH = 1.55, 0.5
#: How far that must stand out for a half of what a hint may score, and the width.
_CROSSED_HALF, _CROSSED_WIDTH = 2.4, 0.4
#: Places of the outline from which on it is known how light falls off here by nature; of fewer,
#: what stands out counts for less (training photographs: of nine false ones
#: eight had five to seven).
_WELL_KNOWN = 12


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """At most one reading. See the module's docstring for the method."""
    side = int(np.clip(np.sqrt(float(window.mask.sum())) / 12, 4, 16))
    light, contrast = light_of(window, side)
    size = (light.shape[1], light.shape[0])
    if min(size) < 12:
        return Abstention("the picture is too small to know a shadow from a dark place")
    down = lambda plane: (
        cv2.resize(plane.view(np.uint8) * np.uint8(255), size, interpolation=cv2.INTER_AREA)
        * np.float32(1 / 255)
    )
    # A shadow may lie in the region itself: what the fill did not reach is looked at like what lies
    # beside it.
    share = down(window.filled)
    other = window.elsewhere & ~window.mask
    mask, usable = share > 0.5, (down(window.filled | other) if other.any() else share) < 0.3
    if usable.sum() < 100:
        return Abstention("too little untouched picture around the region to know its light")
    reach = float(np.sqrt(max(mask.sum(), 9)))
    beside = cv2.dilate(mask.astype(np.uint8), np.ones((7, 7), np.uint8)).astype(bool)
    parts = darks(light, contrast, usable, reach)
    touching = [part for part in parts if (part.cells & beside).sum() >= 2]
    others = [part.quality for part in parts if not (part.cells & beside).any()]
    across = likeliest_crossing(window)
    found = [by_crossing(window, *across)] if across is not None else []
    if touching:
        found.append(_by_darkness(window, side, light, mask, beside, reach, touching, others))
    if not found:
        return []
    # A dark place that is reported says where the shadow lies; a rim only where it begins.
    best = max(
        found,
        key=lambda reading: (
            reading.score >= 0.5 and not reading.shown(Shadow).across_rim,
            reading.score,
        ),
    )
    # Either way may say what a rim is.
    best.evidence = replace(
        best.shown(Shadow), crossing=max(reading.shown(Shadow).crossing for reading in found)
    )
    return [best]


def by_crossing(window: Window, own: Crossing, null: np.ndarray) -> Reading:
    """The stretch of boundary across which light falls off."""
    rim = controls_of(window).rims[0]
    indices = rim.stretch(own.start, own.end)
    far = (
        float(excess(np.array(own.amount), null, 0.05))
        * own.neutral
        * min(1.0, len(null) / _WELL_KNOWN)
    )
    score = (
        0.8
        * float(score_of(np.array(far), _CROSSED_HALF, _CROSSED_WIDTH))
        * float(np.clip((BLACK[1] - own.fall) / (BLACK[1] - BLACK[0]), 0, 1))
    )
    polygon = window.to_frame(ribbon(rim, indices, 0, 16))
    (x, y), (x1, y1) = np.min(polygon, axis=0), np.max(polygon, axis=0)
    lightness = controls_of(window).strip(rim)[indices][..., 0].mean(axis=0)
    step = abs(
        float(lightness[REACH - 10 : REACH - 3].mean() - lightness[REACH + 3 : REACH + 10].mean())
    )
    return _reading(
        score,
        [float(x), float(y), float(x1 - x), float(y1 - y)],
        polygon,
        step,
        float(max(x1 - x, y1 - y, 2)),
        len(indices) * rim.step * 16,
        Measure(
            "light falling off across a stretch of the boundary",
            far,
            "natural spreads",
            natural_range(null, "outline"),
        ),
        Shadow(
            darker=float(1 - np.exp(-max(own.fall, 0.0))),
            neutral=own.neutral,
            fill_is_lit=1.0,
            ends_at_outline=1.0,
            crossing=far,
            across_rim=True,
        ),
    )


def _reading(
    score: float,
    bbox: list[float],
    polygon: list[list[float]],
    step: float,
    across: float,
    area: float,
    measured: Measure,
    evidence: Shadow,
) -> Reading:
    bands = tuple(
        (min(0.5, factor / (2 * across)), step * part, 0.0)
        for factor, part in ((0.5, 0.5), (1.0, 1.0), (2.0, 0.5), (4.0, 0.25))
    )
    return Reading(
        "shadow",
        score,
        bbox,
        polygon,
        Signal(bands, across, max(area, 1.0)),
        measured,
        evidence,
    )


def _by_darkness(
    window: Window,
    side: int,
    light: np.ndarray,
    mask: np.ndarray,
    beside: np.ndarray,
    reach: float,
    touching: list[Dark],
    others: list[float],
) -> Reading:
    """The dark part beside the region that is likest a cast shadow."""
    # What lies against the region lies against it over some length, and lights up inside where the
    # fill was lit.
    best = max(
        touching,
        key=lambda part: (
            part.quality * min(1.0, float((part.cells & beside).sum()) / (0.5 * reach))
        ),
    )
    weight = min(1.0, float((best.cells & beside).sum()) / (0.5 * reach))
    null = np.array(others if len(others) >= 6 else [*others, *np.linspace(0.2, 1.0, 6)])
    inside = np.median(light[mask], axis=0) if mask.any() else light.reshape(-1, 3).mean(axis=0)
    lit = float(
        np.clip(
            (inside.mean() - float(np.median(light[best.cells].mean(axis=1))))
            / max(best.depth, 0.1),
            0,
            1,
        )
    )
    pixels = cv2.resize(
        best.cells.astype(np.uint8), window.mask.shape[::-1], interpolation=cv2.INTER_NEAREST
    )
    cut = cut_at_outline(window, pixels, best.depth, side)
    value = best.quality * (0.15 + 0.15 * lit + 0.7 * min(lit, cut))
    # Of all dark places that happen to touch a region only some are its shadow: the score of a hint
    # stays low.
    score = 0.8 * float(score_of(excess(np.array(value), null, 0.25), _HALF, _WIDTH)) * weight
    (x, y, w, h), ring = outlined(window, pixels)
    lab = window.lab_result[..., 0]
    ring_around = cv2.dilate(pixels, np.ones((25, 25), np.uint8)).astype(bool) & ~pixels.astype(
        bool
    )
    step = (
        abs(float(lab[ring_around].mean()) - float(lab[pixels.astype(bool)].mean()))
        if ring_around.any() and pixels.any()
        else 0.0
    )
    return _reading(
        score,
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        step,
        float(max(w, h, 2)),
        float(pixels.sum()),
        Measure(
            "like a cast shadow",
            value,
            "times the picture's unrest",
            Natural(float(np.percentile(null, 5)), float(np.percentile(null, 95)), len(null), NULL),
        ),
        Shadow(
            darker=float(1 - np.exp(-best.depth)),
            neutral=best.neutral,
            fill_is_lit=lit,
            ends_at_outline=cut,
            crossing=0.0,
            across_rim=False,
        ),
    )
