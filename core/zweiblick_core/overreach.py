"""Overreach: something outside every region changed: a face, a neighbour's edge, a patch of sky.

Both pictures are reduced by area to a quarter, where compression's errors average out and a change
of tone does not. Three things are looked at, each against what
this pair does elsewhere: the *signed* mean difference over small and large places (a re-encoding
    has no sign), detail that was lost or grew,
and, where the result is lossless, any pixel that is not the same. A whole-picture change of tone
was taken off before (`base`).
"""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np

from .evidence import Levels, Outside
from .io import Picture, eight_bit, share_of, shrunk
from .null import score_of
from .report import Measure, Natural, Reading, Signal
from .scene.carriers import Carriers

NULL = "surround"
#: A fill may feather this far beyond its region, original pixels.
FEATHER = 14
#: The reduction, and the places looked at, in reduced pixels.
REDUCE, PLACES = 4, (5, 13)
_MOST = 6
#: What a move of one channel alone counts for, behind an encoding that loses.
_ALONE = 0.5


def measure(
    original: Picture, result: Picture, outside: np.ndarray, carriers: Carriers, resampled: bool
) -> list[Reading]:
    """Readings anywhere outside the regions.

    Args:
        original, result: of one frame, the base taken off.
        outside: bool (height, width), False in every region and where either picture shows nothing.
        resampled: whether one of them was resampled, so that no pixel is exactly the same.

    Returns:
        A reading for each place over the threshold, or one for the strongest below it; none if
        nothing lies outside.
    """
    height, width = original.pixels.shape[:2]
    # A larger picture is looked at as closely for its size, not for its pixels.
    reduce = max(REDUCE, round(REDUCE * np.sqrt(height * width / 8e6)))
    # Twice what all reductions of a large picture begin with: nothing more is resampled.
    reduce = reduce if reduce <= 5 else 8
    size = (max(1, width // reduce), max(1, height // reduce))
    reach = 2 * int(np.ceil(FEATHER / reduce)) + 1
    keep = share_of(outside, size) >= 254
    keep = cv2.erode(keep.astype(np.uint8), np.ones((reach, reach), np.uint8), borderValue=1) > 0
    if keep.sum() < 64:
        return []
    first, second = (eight_bit(shrunk(picture.pixels, size)) for picture in (original, result))
    difference = cv2.subtract(second, first)
    lossy = result.format == "jpeg" or resampled
    counts = _unclipped(first, second) if lossy else None
    maps = [
        _tones(difference, counts, keep, lossy, resampled, _busy(first.astype(np.uint8))),
        _details(first, second, counts, keep, resampled),
    ]
    if (result.format != "jpeg" and original.format != "jpeg" and not resampled) or (
        result.format != "jpeg" and not resampled
    ):
        maps.append(_exact(original.pixels, result.pixels, keep, size))
    strongest = np.argmax(np.stack([score for score, _, _ in maps]), axis=0)
    best = np.max(np.stack([score for score, _, _ in maps]), axis=0)
    best[~keep] = 0
    hot = (best >= 0.5).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(
        cv2.morphologyEx(hot, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8)), connectivity=8
    )
    # A change fills the place that it is averaged over; what is smaller than half of that is an
    # edge that an encoding drew otherwise.
    order = sorted(
        (
            k
            for k in range(1, count)
            if not lossy or stats[k, cv2.CC_STAT_AREA] > PLACES[0] ** 2 // 2
        ),
        key=lambda k: -int(stats[k, cv2.CC_STAT_AREA]),
    )[:_MOST]
    if not order and count > 1:
        best = np.minimum(best, 0.3)
    places = [labels == k for k in order] or [best == best.max()]
    return [
        _reading(
            place & keep if (place & keep).any() else place,
            best,
            strongest,
            maps,
            difference,
            (width / size[0], height / size[1]),
        )
        for place in places
    ]


_Map = tuple[np.ndarray, np.ndarray, str]
#: What is usual over a picture is estimated from about so many places.
_SAMPLES = 40_000


def _sampled(keep: np.ndarray) -> np.ndarray:
    """Flat indices of evenly spread places that are kept."""
    places = np.flatnonzero(keep)
    return places[:: max(1, len(places) // _SAMPLES)]


def _unclipped(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """Channels that say something of tone, bool (height, width, 3): what lies at an end of its
    range is moved by every encoding, always inward.
    """
    return (np.minimum(first, second) > 6) & (np.maximum(first, second) < 249)


#: Steps to a level, in what `_busy` gives.
_FINE = 4


def _busy(pixels: np.ndarray) -> np.ndarray:
    """How much goes on at a place, in quarters of a level, int16 (height, width): an encoding errs
    along edges, and more where colours change.
    """
    red, green, blue = cv2.split(
        cv2.morphologyEx(pixels, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
    )
    steps = cv2.max(cv2.max(red, green), blue)
    found: np.ndarray = cv2.boxFilter(steps, cv2.CV_32F, (5, 5))
    return (found * _FINE + 0.5).astype(np.int16)


def _usual(level: np.ndarray, busy: np.ndarray, some: np.ndarray, part: float) -> np.ndarray:
    """What a level is by nature at places as busy as each, (height, width): the percentile `part`
    among a tenth of the places, no more than three times that of
    all or .6 levels, so that a change of the one busy thing in a picture is not taken for nature.
    """
    of_all = float(np.percentile(level.ravel()[some], part))
    here, there = level.ravel()[some], busy.ravel()[some]
    edges = np.quantile(there, np.linspace(0, 1, 11))
    middles, usual = [], []
    for low, high in pairwise(edges):
        among = here[(there >= low) & (there <= high)]
        if len(among) >= 20:
            middles.append((low + high) / 2)
            usual.append(min(max(3 * of_all, 0.6), float(np.percentile(among, part))))
    if not middles:
        return np.full(level.shape, of_all, np.float32)
    usual_here = np.maximum(
        np.interp(np.arange(255 * _FINE + 2), middles, np.maximum.accumulate(usual)), of_all
    ).astype(np.float32)
    at: np.ndarray = usual_here[busy]
    return at


def _tones(
    difference: np.ndarray,
    counts: np.ndarray | None,
    keep: np.ndarray,
    lossy: bool,
    resampled: bool,
    busy: np.ndarray,
) -> _Map:
    """Signed means over places, in spreads of the same over places as busy; (score, value in
    levels, what).
    """
    weight = keep.astype(np.float32)
    some = _sampled(keep)
    clean = np.where(keep[..., None], difference, 0).astype(np.float32)
    said = None if counts is None else counts.view(np.uint8) * np.uint8(255)
    best, value = np.zeros(keep.shape, np.float32), np.zeros(keep.shape, np.float32)
    for side in PLACES:
        near = cv2.boxFilter(weight, -1, (side, side), borderType=cv2.BORDER_CONSTANT)
        mean: np.ndarray = cv2.boxFilter(clean, -1, (side, side), borderType=cv2.BORDER_CONSTANT)
        mean *= (1 / np.maximum(near, 1e-3))[..., None]
        if said is not None:
            # What a channel gains on one side of an edge it loses on the other: with one side
            # clipped it says nothing.
            mean *= cv2.boxFilter(said, -1, (side, side)) >= 247
        red, green, blue = (
            np.abs(channel - np.median(channel.ravel()[some])) for channel in cv2.split(mean)
        )
        level = cv2.max(cv2.max(red, green), blue)
        if lossy:
            # Colour is stored coarser than brightness: what moves one channel alone must move it by
            # more.
            second = cv2.max(cv2.min(red, green), cv2.min(cv2.max(red, green), blue))
            level = cv2.max(second, _ALONE * level)
        usual = (
            _usual(level, busy, some, 97 if resampled else 75)
            if lossy
            else np.zeros((), np.float32)
        )
        # An encoding's errors average out the less the smaller the place.
        least = 2.0 if resampled else (1.35 if side < 8 else 0.85) if lossy else 0.45
        score = score_of(level / np.maximum(least, 4.5 * usual) - 1.0, 0.0, 0.22).astype(np.float32)
        score[near < 0.3] = 0
        better = score > best
        best, value = np.where(better, score, best), np.where(better, level, value)
    return best, value, "tone"


def _details(
    first: np.ndarray,
    second: np.ndarray,
    counts: np.ndarray | None,
    keep: np.ndarray,
    resampled: bool,
) -> _Map:
    """Detail lost or grown: energy of what differs between about 8 and 30 px against the original's
    own, and the picture's usual.
    """
    grey = lambda pixels: cv2.transform(pixels, np.full((1, 3), 1 / 3, np.float32))
    one = grey(first)
    other = one + grey(
        second - first if counts is None else np.where(counts, second - first, np.float32(0))
    )
    fine = lambda plane: plane - cv2.GaussianBlur(plane, (0, 0), 2.0)
    # What a region changed must not leak out of it through the filter.
    a, b = fine(one), fine(one + np.where(keep, other - one, 0).astype(np.float32))
    side = 7
    energy = lambda plane: np.maximum(cv2.boxFilter(plane * plane, -1, (side, side)), 0)
    ea, apart = energy(a), energy(b - a)
    share = np.sqrt(apart / (ea + 0.8))
    # A resampled pair differs along every edge, the most along the sharpest.
    usual = max(
        float(np.percentile(share.ravel()[_sampled(keep)], 99.5 if resampled else 90)), 0.06
    )
    amount = np.sqrt(apart)
    score = np.minimum(
        score_of(share / usual - 3.2, 0.0, 0.5), score_of(amount - 1.1, 0.0, 0.2)
    ).astype(np.float32)
    return score, amount.astype(np.float32), "detail"


def _exact(first: np.ndarray, second: np.ndarray, keep: np.ndarray, size: tuple[int, int]) -> _Map:
    """Lossless: pixels that are not the same, where they lie together. A difference nobody could
    see counts for little.
    """
    if first.dtype != second.dtype:
        first, second = (
            (pixels >> 8).astype(np.uint8) if pixels.dtype == np.uint16 else pixels
            for pixels in (first, second)
        )
    shrink = 1 if first.dtype == np.uint8 else 257
    red, green, blue = cv2.split(cv2.absdiff(first, second))
    apart = cv2.max(cv2.max(red, green), blue)
    seen = (apart > 2.5 * shrink).view(np.uint8)
    share = np.where(
        keep,
        cv2.resize(seen * np.uint8(255), size, interpolation=cv2.INTER_AREA).astype(np.float32)
        / 255,
        0,
    )
    if float(share.mean()) > 0.25:
        # Most of the picture differs: that is a grading or another encoding, not a place.
        return np.zeros(share.shape, np.float32), share, "pixels"
    level = np.where(
        keep,
        cv2.resize(
            (np.minimum(apart // shrink, 255) * seen).astype(np.uint8),
            size,
            interpolation=cv2.INTER_AREA,
        ).astype(np.float32),
        0,
    )
    near = cv2.boxFilter(share, -1, (5, 5))
    amount = cv2.boxFilter(level, -1, (5, 5))
    return (
        np.minimum(
            score_of((near - 0.25) / 0.07, 0.0, 1.0), score_of((amount - 1.6) / 0.4, 0.0, 1.0)
        ).astype(np.float32),
        amount,
        "pixels",
    )


def _reading(
    place: np.ndarray,
    best: np.ndarray,
    strongest: np.ndarray,
    maps: list[_Map],
    difference: np.ndarray,
    unit: tuple[float, float],
) -> Reading:
    at = np.unravel_index(int(np.argmax(np.where(place, best, -1))), best.shape)
    _, value, what = maps[int(strongest[at])]
    # Means reach half their width beyond what they tell of.
    place = place & (value >= 0.5 * value[at])
    pixels = place.astype(np.uint8)
    x, y, w, h = cv2.boundingRect(pixels)
    rings, _ = cv2.findContours(
        cv2.dilate(pixels, np.ones((3, 3), np.uint8)), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE
    )
    ring = cv2.approxPolyDP(max(rings, key=len), 1.0, True)[:, 0].astype(float)
    if len(ring) < 3:
        ring = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], float)
    scale = np.array(unit)
    moved = np.array(cv2.mean(difference, pixels)[:3])
    lightness = float(abs(moved @ np.array([0.299, 0.587, 0.114]))) * 0.39
    chroma = float(np.ptp(moved)) * 0.3
    across = float(max(w * unit[0], h * unit[1]))
    own = float(value[at])
    detail = own * 0.39 if what != "tone" else 0.0
    bands = (
        (min(0.5, 1 / (2 * across)), lightness, chroma),
        (min(0.5, 1 / across), 0.6 * lightness, 0.6 * chroma),
        (0.0625, detail, 0.0),
        (0.125, detail, 0.0),
    )
    usual = (
        np.percentile(value[best < 0.5][:: max(1, value.size // _SAMPLES)], (5, 95)).tolist()
        if (best < 0.5).any()
        else [0.0, 0.0]
    )
    words = {
        "tone": "change of tone outside every region",
        "detail": "change of detail outside every region",
        "pixels": "pixels changed outside every region",
    }[what]
    return Reading(
        "overreach",
        float(best[at]),
        [round(float(v), 1) for v in (x * unit[0], y * unit[1], w * unit[0], h * unit[1])],
        np.round((ring + 0.5) * scale, 1).tolist(),
        Signal(tuple(bands), across, float(place.sum() * unit[0] * unit[1])),
        Measure(
            words, own, "levels of 255", Natural(usual[0], usual[1], int((best < 0.5).sum()), NULL)
        ),
        Outside(what=what, difference=Levels(float(moved[0]), float(moved[1]), float(moved[2]))),
    )
