"""A finding's evidence as a small picture, so that a person sees it rather than reads it."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np
from skimage.color import deltaE_ciede2000

from ..evidence import Copy, Departs, Detail, Evidence
from ..regions.masks import Region

#: Width of a picture at most, pixels; how far a rim is shown to either side; the side of a crop at
#: most.
WIDTH, HALF, SIDE = 540, 18, 240
_GAP, _BAR, _GREY = 4, 6, 128
#: Kinds that are seen at the rim, and of them those that are a step in tone.
RIM_KINDS = ("seam", "halo", "tone")
_STEP_KINDS = ("seam", "tone")
#: How far to either side of the rim a step is averaged, and where outside it the parallels run that
#: say what is natural; pixels.
_NEAR, _PARALLELS = 6, (14, 20, 26, 32)
#: How far around a region detail is compared with; sides of the squares whose spectra are averaged,
#: the largest that fits first; pixels.
_AROUND, _SQUARES = 96, (64, 32, 16)


@dataclass(frozen=True)
class Curve:
    """A measure along a line of places or sizes, with what is natural there.

    Attributes:
        what: "step": CIEDE2000 across the rim, at shares of the way around it; "spectrum": contrast
            of detail (RMS of L*), at wavelengths in pixels.
        at, value, low, high: of one length; low to high is the 5th to the 95th percentile of the
            surroundings.
        found: for each place, whether the finding covers it.
    """

    what: str
    unit: str
    at: tuple[float, ...]
    value: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]
    found: tuple[bool, ...]


@dataclass(frozen=True)
class Shown:
    """`pixels`: uint8 (height, width, 3); `says`: what is where, in one line; `agreement`: of the
    grain of a copy and its source, -1..1, else None.
    """

    pixels: np.ndarray
    says: str
    agreement: float | None = None
    curve: Curve | None = None


def _ring(mask: np.ndarray) -> tuple[np.ndarray, np.ndarray] | None:
    """The outline of a bool mask: points (n, 2) as x, y and unit normals (n, 2) that look outward;
    None where it has none.
    """
    contours, _ = cv2.findContours(
        np.ascontiguousarray(mask, np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE
    )
    if not contours:
        return None
    points = max(contours, key=len)[:, 0].astype(np.float32)
    # Smooth along the ring, so that the normals do not jump from pixel to pixel.
    ring = np.concatenate([points[-8:], points, points[:8]])
    smooth: np.ndarray = (
        cv2.GaussianBlur(ring.reshape(1, -1, 2), (0, 0), 2.5)[0][8:-8]
        if len(points) > 16
        else points
    )
    signed: np.ndarray = cv2.distanceTransform(
        np.ascontiguousarray(~mask, np.uint8), cv2.DIST_L2, 5
    ) - cv2.distanceTransform(np.ascontiguousarray(mask, np.uint8), cv2.DIST_L2, 5)
    signed = cv2.GaussianBlur(signed, (0, 0), 2.0)
    gx, gy = cv2.Sobel(signed, cv2.CV_32F, 1, 0), cv2.Sobel(signed, cv2.CV_32F, 0, 1)
    at = (
        np.clip(smooth[:, 1].round().astype(int), 0, mask.shape[0] - 1),
        np.clip(smooth[:, 0].round().astype(int), 0, mask.shape[1] - 1),
    )
    normal = np.stack([gx[at], gy[at]], 1)
    return smooth, normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-6)


def _strip(
    patch: np.ndarray, points: np.ndarray, normal: np.ndarray, first: int, last: int
) -> np.ndarray:
    """Samples of a patch along a ring, `first` to `last` pixels outward: (last - first + 1, n,
    ...).
    """
    off = np.arange(first, last + 1, dtype=np.float32)[:, None]
    sampled: np.ndarray = cv2.remap(
        patch,
        (points[None, :, 0] + off * normal[None, :, 0]).astype(np.float32),
        (points[None, :, 1] + off * normal[None, :, 1]).astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return sampled


def unrolled(
    patch: np.ndarray, mask: np.ndarray, half: int = HALF, width: int = WIDTH
) -> np.ndarray:
    """The outline of a mask as a straight line, the inside above it and the outside below.

    Args:
        patch: uint8 (height, width, 3). mask: bool of the same size.

    Returns:
        uint8 (2 half + 1, n, 3), n at most `width`; empty where the mask has no outline.
    """
    ring = _ring(mask)
    if ring is None:
        return np.zeros((2 * half + 1, 0, 3), np.uint8)
    strip = _strip(patch, *ring, -half, half)
    return (
        cv2.resize(strip, (width, strip.shape[0]), interpolation=cv2.INTER_AREA)
        if strip.shape[1] > width
        else strip
    )


def _covered(shape: tuple[int, ...], polygon: list[list[float]], margin: int) -> np.ndarray:
    """Bool (height, width): where a polygon lies, widened by a margin."""
    drawn = np.zeros(shape[:2], np.uint8)
    cv2.fillPoly(
        drawn, [np.asarray(polygon, np.float64).round().astype(np.int32).reshape(-1, 1, 2)], 1
    )
    widened: np.ndarray = cv2.dilate(
        drawn, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * margin + 1, 2 * margin + 1))
    )
    return widened > 0


def _lab(pixels: np.ndarray) -> np.ndarray:
    converted: np.ndarray = cv2.cvtColor(
        np.ascontiguousarray(pixels, np.float32) / 255.0, cv2.COLOR_RGB2LAB
    )
    return converted


def rim_steps(
    patch: np.ndarray, mask: np.ndarray, found: np.ndarray | None = None, places: int = 128
) -> Curve | None:
    """Colour steps from just inside to just outside all along a mask's outline, CIEDE2000 (CIE
    142-2001), beside the same across parallels farther out.

    Args:
        patch: uint8 (height, width, 3); what lies outside it is taken for its edge. mask: bool of
            the same size. found: bool, where the finding lies.
        places: at most so many along the outline.
    """
    ring = _ring(mask)
    if ring is None:
        return None
    points, normal = ring
    n = len(points)
    # A step that is one runs on along the rim; what is crossed by an edge of the picture's own does
    # not.
    along = max(9, n // 24) | 1
    strip = _strip(_lab(patch), points, normal, -_NEAR, max(_PARALLELS) + _NEAR)
    mean = lambda first, last: cv2.blur(
        np.concatenate(
            [part := strip[first + _NEAR : last + _NEAR + 1].mean(0)[None], part, part], axis=1
        ),
        (along, 1),
    )[0, n : 2 * n]
    step = lambda at: deltaE_ciede2000(mean(at - _NEAR, at - 2), mean(at + 2, at + _NEAR))
    beside = np.stack([step(at) for at in _PARALLELS])
    low, high = np.percentile(beside, [5, 95])
    every = np.linspace(0, n - 1, min(n, places)).astype(int)
    value = step(0)[every]
    covered = (
        found[
            np.clip(points[every, 1].round().astype(int), 0, mask.shape[0] - 1),
            np.clip(points[every, 0].round().astype(int), 0, mask.shape[1] - 1),
        ]
        if found is not None
        else np.zeros(len(every), bool)
    )
    same = lambda one: (round(float(one), 2),) * len(every)
    return Curve(
        "step",
        "CIEDE2000",
        tuple(round(float(at) / n, 4) for at in every),
        tuple(round(float(one), 2) for one in value),
        same(low),
        same(high),
        tuple(bool(one) for one in covered),
    )


def spectrum(patch: np.ndarray, inside: np.ndarray, around: np.ndarray) -> Curve | None:
    """Contrast of detail by its size inside a place against its surroundings: periodograms (Welch
    1967) of squares that lie in each, radially summed by half
    octaves.

    Args:
        patch: uint8 (height, width, 3). inside, around: bool of the same size; a square counts
            where half of it is covered, and is weighted by what is.
    """
    lightness = _lab(patch)[..., 0]
    for side in _SQUARES:
        of_inside, of_around = (_periodograms(lightness, where, side) for where in (inside, around))
        if len(of_inside) and len(of_around) >= 6:
            break
    else:
        return None
    edges = 2.0 * np.sqrt(2.0) ** np.arange(int(2 * np.log2(side / 2 / 2)) + 1)
    fx, fy = np.meshgrid(np.fft.fftfreq(side), np.fft.fftfreq(side))
    wavelength = 1 / np.maximum(np.hypot(fx, fy), 1e-9)
    bands = [(wavelength >= low) & (wavelength < high) for low, high in pairwise(edges)]
    power = lambda squares: np.stack([squares[:, band].sum(1) for band in bands], 1)
    value = np.sqrt(power(of_inside).mean(0))
    low, high = np.percentile(np.sqrt(power(of_around)), [5, 95], axis=0)
    rounded = lambda row: tuple(round(float(one), 3) for one in row)
    return Curve(
        "spectrum",
        "L*",
        rounded(np.sqrt(edges[:-1] * edges[1:])),
        rounded(value),
        rounded(low),
        rounded(high),
        (False,) * len(value),
    )


def _periodograms(
    lightness: np.ndarray, where: np.ndarray, side: int, most: int = 400
) -> np.ndarray:
    """Variance by frequency, float (n, side, side), of squares that are at least half covered."""
    height, width = lightness.shape
    hann = np.outer(np.hanning(side), np.hanning(side))
    corners = [
        (y, x)
        for y in range(0, height - side + 1, side // 2)
        for x in range(0, width - side + 1, side // 2)
        if where[y : y + side, x : x + side].mean() >= 0.5
    ]
    found = []
    for y, x in corners[:: max(1, len(corners) // most)]:
        weight = hann * where[y : y + side, x : x + side]
        square = lightness[y : y + side, x : x + side]
        weighted = (square - (square * weight).sum() / weight.sum()) * weight
        found.append(np.abs(np.fft.fft2(weighted)) ** 2 / (side * side * (weight**2).sum()))
    return np.array(found).reshape(-1, side, side)


def _stacked(rows: list[np.ndarray]) -> np.ndarray:
    width = max(row.shape[1] for row in rows)
    padded = [
        np.pad(
            row,
            ((0, _GAP if i < len(rows) - 1 else 0), (0, width - row.shape[1]), (0, 0)),
            constant_values=_GREY,
        )
        for i, row in enumerate(rows)
    ]
    return np.concatenate(padded)


def _beside(pictures: list[np.ndarray]) -> np.ndarray:
    height = max(one.shape[0] for one in pictures)
    return np.concatenate(
        [
            np.pad(
                one,
                ((0, height - one.shape[0]), (0, _GAP if i < len(pictures) - 1 else 0), (0, 0)),
                constant_values=_GREY,
            )
            for i, one in enumerate(pictures)
        ],
        axis=1,
    )


def _box(
    box: tuple[float, float, float, float], frame: tuple[int, int], margin: int = 12
) -> tuple[int, int, int, int]:
    """A box with a margin, at most `SIDE` wide and high about its middle, within a frame of (width,
    height).
    """
    x, y, w, h = box
    w, h = min(w + 2 * margin, SIDE), min(h + 2 * margin, SIDE)
    left, top = (
        int(np.clip(x + box[2] / 2 - w / 2, 0, max(0, frame[0] - w))),
        int(np.clip(y + box[3] / 2 - h / 2, 0, max(0, frame[1] - h))),
    )
    return left, top, max(1, int(min(w, frame[0] - left))), max(1, int(min(h, frame[1] - top)))


def _grain(pixels: np.ndarray) -> np.ndarray:
    luma = cv2.cvtColor(np.ascontiguousarray(pixels), cv2.COLOR_RGB2GRAY).astype(np.float32)
    fine: np.ndarray = luma - cv2.GaussianBlur(luma, (0, 0), 1.5)
    return fine


def _shown_grain(fine: np.ndarray, spread: float) -> np.ndarray:
    return np.repeat(
        np.clip(128 + fine * (40 / max(spread, 0.5)), 0, 255).astype(np.uint8)[..., None], 3, axis=2
    )


def show(
    kind: str,
    bbox: tuple[float, float, float, float],
    evidence: Evidence,
    original: np.ndarray,
    result: np.ndarray,
    region: Region,
    polygon: list[list[float]] | None = None,
) -> Shown:
    """The picture of one finding.

    Args:
        kind, bbox, evidence, polygon: as of a `Finding`. original, result: uint8 (height, width, 3)
            in one frame. region: that it was found in.

    A copy is shown beside its source with the grain of both under them; what is seen at the rim, as
    the rim unrolled in both pictures, with the stretch that
    was found and the steps across it; what is a matter of detail, with its spectrum; all else as
    the place itself in both.
    """
    height, width = result.shape[:2]
    if not polygon:
        polygon = [
            [bbox[0], bbox[1]],
            [bbox[0] + bbox[2], bbox[1]],
            [bbox[0] + bbox[2], bbox[1] + bbox[3]],
            [bbox[0], bbox[1] + bbox[3]],
        ]
    copied = evidence if isinstance(evidence, Copy) else Copy()
    offset, mirrored, box = copied.offset_px, bool(copied.mirrored), copied.source
    if kind == "repeat" and box is not None and (mirrored or copied.turned_degrees is not None):
        # What was turned over or round has no pixel in its source's place: the two are shown, their
        # grain is not overlaid.
        x, y, w, h = _box(bbox, (width, height))
        sx, sy, sw, sh = _box(
            (float(box[0]), float(box[1]), float(box[2]), float(box[3])), (width, height)
        )
        source = result[sy : sy + sh, sx : sx + sw]
        pair = _beside([result[y : y + h, x : x + w], source[:, ::-1] if mirrored else source])
        return Shown(
            pair, f"left the copy, right its source{', flipped as the copy is' if mirrored else ''}"
        )
    if kind == "repeat" and offset is not None:
        x, y, w, h = _box(bbox, (width, height), 0)
        sx, sy = round(x + float(offset[0])), round(y + float(offset[1]))
        if sx >= 0 and sy >= 0 and sx + w <= width and sy + h <= height:
            copy, source = result[y : y + h, x : x + w], result[sy : sy + h, sx : sx + w]
            a, b = _grain(copy), _grain(source)
            agreement = float(
                (a * b).mean() / max(1e-6, float(np.sqrt((a * a).mean() * (b * b).mean())))
            )
            spread = float(b.std())
            return Shown(
                _stacked(
                    [
                        _beside([copy, source]),
                        _beside([_shown_grain(a, spread), _shown_grain(b, spread)]),
                    ]
                ),
                "left the copy, right its source; below, the grain of both",
                round(agreement, 3),
            )
    if kind in RIM_KINDS:
        rx, ry, rw, rh = region.bbox
        left, top, right, bottom = (
            max(0, rx - HALF - 4),
            max(0, ry - HALF - 4),
            min(width, rx + rw + HALF + 4),
            min(height, ry + rh + HALF + 4),
        )
        mask = np.zeros((bottom - top, right - left), bool)
        mask[ry - top : ry - top + rh, rx - left : rx - left + rw] = region.mask
        first, second = (
            unrolled(picture[top:bottom, left:right], mask) for picture in (original, result)
        )
        # Fields of tone reach inward: where they end at the rim is what is seen there.
        found = _covered(mask.shape, [[x - left, y - top] for x, y in polygon], 6)
        curve = rim_steps(result[top:bottom, left:right], mask, found)
        if second.shape[1] and curve is not None:
            bar = np.full((_BAR, second.shape[1], 3), _GREY, np.uint8)
            bar[
                1:-1,
                cv2.resize(
                    np.array(curve.found, np.uint8)[None],
                    (second.shape[1], 1),
                    interpolation=cv2.INTER_NEAREST,
                )[0]
                > 0,
            ] = 255
            return Shown(
                np.concatenate([first, bar, second]),
                "the rim unrolled, inside above the middle and outside below it: the original, and this attempt under it; "
                "the white bar between them is the stretch that was found",
                None,
                curve if kind in _STEP_KINDS and evidence.what != "cut" else None,
            )
    x, y, w, h = _box(bbox, (width, height))
    places = [original[y : y + h, x : x + w], result[y : y + h, x : x + w]]
    if isinstance(evidence, (Detail, Departs)):
        rx, ry, rw, rh = region.bbox
        inside = np.zeros((height, width), bool)
        inside[ry : ry + rh, rx : rx + rw] = region.mask
        near: np.ndarray = cv2.distanceTransform(
            np.ascontiguousarray(~inside, np.uint8), cv2.DIST_L2, 5
        )
        curve = spectrum(
            result, inside & _covered(inside.shape, polygon, 1), (near > 2) & (near < _AROUND)
        )
        fine = [_grain(place) for place in places]
        # One scale for both, from what surrounds the region: the thing itself may be of any detail.
        outside = _grain(result)[(near > 2) & (near < _AROUND)]
        spread = float(outside.std()) if outside.size else float(fine[1].std())
        return Shown(
            _stacked([_beside(places), _beside([_shown_grain(one, spread) for one in fine])]),
            "the place in the original, and in this attempt; below, their fine detail on one scale",
            None,
            curve,
        )
    return Shown(_beside(places), "the place in the original, and in this attempt")
