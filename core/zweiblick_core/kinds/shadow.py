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

from dataclasses import dataclass, replace

import cv2
import numpy as np

from ..evidence import Shadow
from ..features.detail import outlined
from ..features.rim.nulls import LEAST_CONTROLS, controls_of
from ..null import excess, natural_range, score_of
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..scene.boundary import REACH, ribbon
from ..scene.carriers import Carriers
from ..scene.planes import reduced_of
from ..scene.window import Window

NULL = "surround"
#: How much darker than around, as a natural logarithm of linear light.
DEPTHS = (0.2, 0.4, 0.7)
_HALF, _WIDTH = 1.55, 0.5
#: From and up to how much darker (natural logarithm of linear light) a dark place is less and less
#: likely a shadow: a clear sky gives a tenth to a quarter of the sun's light
#: (0.7 to 2.3), and rooms more; what is darker than that is black.
_BLACK = (1.7, 2.6)


@dataclass(frozen=True)
class Dark:
    """One dark part. `quality`: how much like a cast shadow, 0 and up."""

    cells: np.ndarray
    depth: float
    neutral: float
    quality: float


def _light(window: Window, side: int) -> tuple[np.ndarray, np.ndarray]:
    """(rows, columns, 3) logarithm of linear light, and (rows, columns) relative contrast of fine
    texture.
    """
    height, width = window.mask.shape
    size = (max(1, width // side), max(1, height // side))
    small = reduced_of(window.result, min(3, width, height))
    linear = cv2.pow(small * np.float32(1 / 255), 2.2)
    mean = cv2.resize(linear, size, interpolation=cv2.INTER_AREA)
    luma = np.log(linear @ np.array([0.2126, 0.7152, 0.0722], np.float32) + 0.004)
    fine = np.abs(luma - cv2.GaussianBlur(luma, (0, 0), 2.0))
    return np.log(mean + 0.004), cv2.resize(fine, size, interpolation=cv2.INTER_AREA)


def _middle(values: np.ndarray) -> np.ndarray:
    """The median of (n, ...) over the first axis; of few values a sort is quicker than `np.median`."""
    ranked = np.sort(values, axis=0)
    return np.asarray((ranked[(len(ranked) - 1) // 2] + ranked[len(ranked) // 2]) / 2)


def darks(light: np.ndarray, contrast: np.ndarray, usable: np.ndarray, reach: float) -> list[Dark]:
    """Dark parts of (rows, columns, 3) light over `usable` cells, no larger than a square of side
    `reach` cells.
    """
    value = light.mean(axis=2)
    weight = usable.astype(np.float32)
    sigma = max(2.0, reach * 0.7)
    near = np.maximum(cv2.GaussianBlur(weight, (0, 0), sigma), 1e-3)
    around = cv2.GaussianBlur(value * weight, (0, 0), sigma) / near
    unrest = np.sqrt(cv2.GaussianBlur((value - around) ** 2 * weight, (0, 0), sigma) / near)
    found = []
    for depth in DEPTHS:
        dark = ((value < around - depth * 0.6) & usable).astype(np.uint8)
        count, labels, stats, _ = cv2.connectedComponentsWithStats(
            cv2.morphologyEx(dark, cv2.MORPH_OPEN, np.ones((2, 2), np.uint8)), connectivity=4
        )
        for label in range(1, count):
            area = int(stats[label, cv2.CC_STAT_AREA])
            if not 6 <= area <= reach * reach * 2.5:
                continue
            x, y, w, h = (int(v) for v in stats[label, :4])
            part = (slice(max(0, y - 4), y + h + 4), slice(max(0, x - 4), x + w + 4))
            cells = labels[part] == label
            beyond = (
                cv2.dilate(cells.view(np.uint8), np.ones((7, 7), np.uint8)).astype(bool)
                & usable[part]
            )
            beyond &= cv2.dilate(cells.view(np.uint8), np.ones((3, 3), np.uint8)) == 0
            if beyond.sum() < 6:
                continue
            drop = _middle(light[part][beyond]) - _middle(light[part][cells])
            deep = float(drop.mean())
            if deep < 0.1:
                continue
            neutral = float(np.exp(-np.ptp(drop) / (0.25 * deep + 0.05)))
            # Under a shadow texture keeps its relative contrast; another material has its own.
            same = float(
                np.exp(
                    -abs(
                        np.log(
                            (_middle(contrast[part][cells]) + 0.01)
                            / (_middle(contrast[part][beyond]) + 0.01)
                        )
                    )
                    / 0.5
                )
            )
            spread = float(_middle(unrest[part][cells])) + 0.08
            whole = np.zeros(usable.shape, bool)
            whole[part] = cells
            light_left = float(np.clip((_BLACK[1] - deep) / (_BLACK[1] - _BLACK[0]), 0, 1))
            found.append(
                Dark(
                    whole,
                    deep,
                    neutral,
                    deep / spread * (0.25 + neutral) * (0.3 + same) * light_left,
                )
            )
    return found


def _cut_at_outline(window: Window, dark: np.ndarray, depth: float, side: int) -> float:
    """How much of a dark part's depth (natural logarithm of linear light) is gone just inside the
    fill where the two meet, 0..1.

    A shadow that was left ends where the outline was drawn. A dark place that belongs here goes on
    into the fill, or has an edge of its own somewhere else.
    """
    x, y, w, h = cv2.boundingRect(cv2.dilate(dark, np.ones((41, 41), np.uint8)))
    crop = (slice(y, y + h), slice(x, x + w))
    fill, dark = window.filled[crop].astype(np.uint8), dark[crop]
    disc = lambda size: cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
    grown = lambda plane, size: cv2.dilate(plane.astype(np.uint8), disc(size)).astype(bool)
    outer = grown(fill, 13) & ~grown(fill, 3) & grown(dark, 2 * side + 1)
    inner = (
        fill.astype(bool)
        & ~cv2.erode(fill, disc(13), borderValue=1).astype(bool)
        & grown(outer, 17)
    )
    if outer.sum() < 20 or inner.sum() < 20:
        return 0.0
    light = lambda area: np.log((window.luma_result[crop][area] / 255.0) ** 2.2 + 0.004)
    return float(
        np.clip((np.median(light(inner)) - np.median(light(outer))) / max(depth, 0.1), 0, 1)
    )


#: Bands on either side of the boundary where the light of what lies there is read, pixels, inner
#: ones negative; and what shares of a boundary a shadow may cross.
_INSIDE, _OUTSIDE = (-10, -4), (2, 8)
_SHARES = (0.12, 0.2, 0.3, 0.4, 0.5, 0.62)
#: How far that must stand out for a half of what a hint may score, and the width.
_CROSSED_HALF, _CROSSED_WIDTH = 2.4, 0.4
#: Places of the outline from which on it is known how light falls off here by nature; of fewer,
#: what stands out counts for less (training photographs: of nine false ones
#: eight had five to seven).
_WELL_KNOWN = 12
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


def _across_rim(window: Window) -> tuple[Crossing, np.ndarray] | None:
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


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """At most one reading. See the module's docstring for the method."""
    side = int(np.clip(np.sqrt(float(window.mask.sum())) / 12, 4, 16))
    light, contrast = _light(window, side)
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
    across = _across_rim(window)
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
        * float(np.clip((_BLACK[1] - own.fall) / (_BLACK[1] - _BLACK[0]), 0, 1))
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
    cut = _cut_at_outline(window, pixels, best.depth, side)
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
