"""Residue: bits of the removed thing: slivers, above all at the frame's edge, dots, ghosts of
translucent lettering.

*Bits*. Where the result kept the original's pixels beside pixels that it replaced, one of two
things lies there: untouched ground, or a piece of the thing.
Along the border between kept and replaced, ground goes on smoothly in the result and stood off from
the thing in the original; a piece of the thing is the
other way round. The two steps are compared along the border, and what is kept must look like the
thing rather than like the surroundings.

*Ghost*. Where pixels were replaced, the fill knows nothing of the thing. Its fine detail, evened
out so that no single edge rules (whitening), is
correlated with the thing's own at its very place and at many others; the place itself must not
stand out. So in brightness, and in brightness and colour together, down to the
grain where compression left it: grounds have less detail in colour, and a trace of the thing is a
    trace of its grain too.
"""

from __future__ import annotations

import cv2
import numpy as np

from ..evidence import Ghost, Kept
from ..features.detail.cells import broadly
from ..features.detail.drawn import outlined
from ..features.residues.bits import (
    LARGE,
    LEAST_AREA,
    LEAST_BIT,
    bits_of,
    nearby,
    replaced,
    usual_step_of,
)
from ..features.residues.ghost import (
    Sight,
    beyond_elsewhere,
    ground_in_other_light,
    lag_correlations,
    where_differs,
    whitened_by,
)
from ..null import score_of
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "lag"
_GHOST_HALF, _GHOST_WIDTH = 4.6, 0.5
#: What several ways together must stand out by more than brightness alone: broad colours go
#: together by chance more often.
_MANY_WAYS = 1.0
_BIT_HALF, _BIT_WIDTH = 2.6, 0.6


def _bits(window: Window, changed: np.ndarray, sight: Sight) -> list[Reading]:
    bits = bits_of(window, changed, sight.lab if sight.part == 2 else None)
    if bits is None:
        return []
    hot = (bits.value > 0.8).astype(np.uint8)
    count, labels = cv2.connectedComponents(
        cv2.dilate(hot, np.ones((3, 3), np.uint8)), connectivity=8
    )
    found = []
    for label in range(1, min(count, 60)):
        here = (labels == label) & (hot > 0)
        if here.sum() < LEAST_BIT:
            continue
        # A long border of it is surer than a short one of the same contrast.
        amount = float(bits.value[here].mean()) * (float(here.sum()) / 12) ** 0.25
        found.append((amount, here))
    found.sort(key=lambda one: -one[0])
    readings = []
    for amount, here in found[:5]:
        pixels = np.zeros(window.mask.shape, np.uint8)
        x0, y0 = bits.corner
        grown = cv2.dilate(here.astype(np.uint8), np.ones((5, 5), np.uint8)) & bits.kept.astype(
            np.uint8
        )
        pixels[y0 : y0 + here.shape[0], x0 : x0 + here.shape[1]] = grown
        (x, y, w, h), ring = outlined(window, pixels)
        step, size = float(bits.step[here].mean()), float(max(w, h, 2))
        edge = (
            x <= 1
            or y <= 1
            or x + w >= window.frame[1] - window.origin[0] - 1
            or y + h >= window.frame[0] - window.origin[1] - 1
        )
        bands = tuple(
            (min(0.5, factor / (2 * size)), step * part, 0.0)
            for factor, part in ((0.5, 0.5), (1.0, 1.0), (2.0, 0.5))
        )
        score = float(
            score_of(np.array(amount), _BIT_HALF * (1.25 if window.lossy else 1.0), _BIT_WIDTH)
        )
        measure_of = Measure(
            "step beside pixels that were kept",
            step,
            "CIELAB",
            Natural(0.0, usual_step_of(window), int(bits.border.sum()), "surround"),
        )
        readings.append(
            Reading(
                "residue",
                score,
                window.box_to_frame(x, y, w, h),
                window.to_frame(ring),
                Signal(bands, size, float(pixels.sum())),
                measure_of,
                Kept(
                    what="sliver at the frame's edge"
                    if edge
                    else "dot"
                    if size <= 12
                    else "sliver",
                    pixels=int(grown.sum()),
                    times_natural=amount,
                ),
            )
        )
    return readings


def _ghost(window: Window, sight: Sight) -> Reading | None:
    """The fill's detail against the thing's own, at its place and beside it."""
    apart = cv2.GaussianBlur(sight.apart_levels, (0, 0), sight.across(2.0))
    area = (
        (apart > (9.0 if not window.lossy else 12.0))
        & sight.filled
        & cv2.morphologyEx(sight.changed.astype(np.uint8), cv2.MORPH_CLOSE, sight.box(5)).astype(
            bool
        )
    )
    # Only what really differs is the thing's.
    differs = where_differs(sight)
    area &= differs
    # Within a feathered rim the thing shows through by design; that is a halo's matter.
    feather = int(sight.across(np.clip(float(np.sqrt(float(window.filled.sum()))) / 8, 7, 15))) | 1
    area &= cv2.erode(
        sight.filled.astype(np.uint8),
        cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (feather, feather)),
        borderValue=1,
    ).astype(bool)
    ground = ground_in_other_light(sight, differs) & sight.filled
    shown = area & ~ground
    # Fine detail is what is left of some pixels around: beside ground, some of it is the ground's,
    # grain above all.
    area &= ~(
        ground if window.lossy else cv2.dilate(ground.view(np.uint8), sight.box(9)).astype(bool)
    )
    # Where some of the region is ground in other light, more of it may be that was not distinguished from
    # it.
    half = (
        _GHOST_HALF
        + (0.6 if ground.sum() > 0.02 * sight.filled.sum() else 0.0)
        + (0.8 if window.lossy else 0.0)
    )
    pixels = int(area.sum()) * sight.part**2
    if pixels < LEAST_AREA:
        return None
    x, y, w, h = cv2.boundingRect(area.astype(np.uint8))
    margin = 12 // sight.part
    crop = (slice(max(0, y - margin), y + h + margin), slice(max(0, x - margin), x + w + margin))
    weight = area[crop].astype(np.float32)
    before, after = (
        [luma[crop], *(np.ascontiguousarray(lab[crop][..., c]) for c in (1, 2))]
        for luma, lab in zip(sight.luma, sight.lab, strict=True)
    )
    wide = sight.part * min(w, h)
    if wide > LARGE:
        # A large thing by half or less: there is enough of it, and lettering that can be read is no
        # finer.
        part = int(np.ceil(wide / LARGE))
        less = (weight.shape[1] * sight.part // part, weight.shape[0] * sight.part // part)
        weight = cv2.resize(weight, less, interpolation=cv2.INTER_AREA)
        before, after = (
            [cv2.resize(plane, less, interpolation=cv2.INTER_AREA) for plane in planes]
            for planes in (before, after)
        )
    # Brightness; and colour, in which grounds have less detail of their own. Grain is detail too,
    # where compression left it.
    ways = [
        (0, 4.0, 0.6),
        (1, 4.0, 0.3),
        (2, 4.0, 0.3),
        *([] if window.lossy else [(1, 1.0, 0.1), (2, 1.0, 0.1)]),
    ]
    here, elsewhere = lag_correlations(
        [whitened_by(before[k], sigma, floor) * weight for k, sigma, floor in ways],
        [whitened_by(after[k], sigma, floor) for k, sigma, floor in ways],
        weight,
    )
    if not len(elsewhere):
        return None
    spread = elsewhere.std(axis=0) + 1e-4
    joined = [(one / spread).mean(axis=1) * float(spread.mean()) for one in (here, elsewhere)]
    by_light, by_all = (
        beyond_elsewhere(here[:, 0], elsewhere[:, 0]),
        beyond_elsewhere(*joined) - _MANY_WAYS,
    )
    sure = max(by_light, by_all)
    null = elsewhere[:, 0] if by_light >= by_all else joined[1]
    peak = float((here[:, 0] if by_light >= by_all else joined[0]).max())
    (bx, by, bw, bh), ring = outlined(
        window,
        shown.astype(np.uint8)
        if sight.part == 1
        else cv2.resize(
            shown.view(np.uint8), window.mask.shape[::-1], interpolation=cv2.INTER_NEAREST
        ),
    )
    alpha = float(np.clip(peak, 0, 1))
    light, broad = np.ascontiguousarray(sight.lab[0][crop][..., 0]), sight.across(8.0)
    contrast = float(np.std((light - broadly(light, broad, broad))[area[crop]]))
    bands = tuple((2.0**-k, alpha * contrast, 0.0) for k in (2, 3, 4))
    return Reading(
        "residue",
        float(score_of(np.array(sure), half, _GHOST_WIDTH)),
        window.box_to_frame(bx, by, bw, bh),
        window.to_frame(ring),
        Signal(bands, float(max(bw, bh)), float(pixels)),
        Measure(
            "likeness of the fill's detail to the thing's",
            peak,
            "correlation",
            Natural(
                float(np.percentile(null, 5)), float(np.percentile(null, 95)), int(null.size), NULL
            ),
        ),
        Ghost(
            what="ghost",
            correlation=peak,
            spreads=sure,
            elsewhere=np.round(null, 4),
            seen_in="brightness" if by_light >= by_all else "brightness and colour",
        ),
    )


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """Readings for bits that were kept and for a ghost of the whole. See the module's docstring for
    the methods.
    """
    window = nearby(window)
    changed = replaced(window)
    sight = Sight.of(window, changed)
    ghost = _ghost(window, sight)
    readings = _bits(window, changed, sight) + ([ghost] if ghost else [])
    if not readings and ghost is None and (changed & window.mask).sum() < 40:
        return Abstention("too little was replaced here to tell what was left")
    return readings
