"""The best of several: each region from the attempt that holds there, put together so that no new
seam arises.

One attempt gives the ground; of the others only what they changed at their regions comes over.
Where the attempts differ in tone as wholes, what
comes over is brought to the ground's tone first, by the levels that both have in untouched places.
Joins run where both show the same pixels; if there is no such place around
a region, nothing is put together and the reason is given.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from ..align import Alignment, register, resampled_onto
from ..errors import Refused
from ..io import Picture
from ..regions.masks import Region

#: How far around a region its fill may reach, and how wide the join is, pixels.
REACH, JOIN = 40, 6
#: Two sides of a join are the same if they differ by less than this, levels of 255; compressed
#: pictures by more, since they are never equal.
_SAME, _SAME_LOSSY = 2.0, 6.0
#: A whole-picture change of tone is one if it explains what differs to within this, levels of 255.
_EXPLAINED = 2.5
#: Regions nearer than this touch; their fills must then meet to within so many levels.
_TOUCH, _MEET = 2 * JOIN, 8.0


@dataclass(frozen=True)
class Part:
    """One region and the attempt it comes from. `name`: how the attempt is called in words."""

    region: Region
    attempt: int
    picture: Picture
    name: str


@dataclass(frozen=True)
class Assembled:
    """`pixels`: the ground's dtype (height, width, 3); `ground`: the attempt that gave everything
    else; `done`: in words, one clause each.
    """

    pixels: np.ndarray
    ground: int
    done: tuple[str, ...]


def _brought(original: Picture, part: Part, alignment: Alignment) -> np.ndarray:
    """An attempt in the original's frame, without resampling.

    Raises:
        Refused: it was resized or turned, or moved by part of a pixel, or cannot be matched.
    """
    if alignment.kind == "unmatched":
        raise Refused(f"{part.name} cannot be matched with the original: {alignment.reason}")
    if alignment.kind in ("scaled", "turned"):
        raise Refused(
            f"{part.name} was {'turned' if alignment.kind == 'turned' else 'resized'}; put in place it would be softer than what is beside it"
        )
    matrix = np.array(alignment.matrix, float)
    whole = np.rint(matrix[:, 2])
    if np.abs(matrix[:, :2] - np.eye(2)).max() > 2e-4 or np.abs(matrix[:, 2] - whole).max() > 0.12:
        raise Refused(
            f"{part.name} lies {matrix[0, 2]:.1f}, {matrix[1, 2]:.1f} px off the original; moved by parts of a pixel it would be softer than what is beside it"
        )
    if alignment.kind == "same" and not whole.any():
        return resampled_onto(original, part.picture, alignment)
    height, width = part.picture.pixels.shape[:2]
    out = np.zeros((original.height, original.width, 3), part.picture.pixels.dtype)
    dx, dy = int(whole[0]), int(whole[1])
    # The matrix leads from the original to the result.
    x0, y0 = max(0, -dx), max(0, -dy)
    x1, y1 = min(original.width, width - dx), min(original.height, height - dy)
    if x0 >= x1 or y0 >= y1:
        raise Refused(f"{part.name} shows nothing of the original's frame")
    out[y0:y1, x0:x1] = part.picture.pixels[y0 + dy : y1 + dy, x0 + dx : x1 + dx]
    x, y, w, h = part.region.bbox
    if x < x0 or y < y0 or x + w > x1 or y + h > y1:
        raise Refused(
            f"{part.name} was cropped and does not show the whole of region {part.region.id}"
        )
    return out


def _covers(original: Picture, picture: Picture, alignment: Alignment) -> bool:
    return alignment.kind == "same" and picture.pixels.shape[:2] == (
        original.height,
        original.width,
    )


def _as(pixels: np.ndarray, dtype: np.dtype) -> np.ndarray:
    if pixels.dtype == dtype:
        return pixels
    return (
        (pixels.astype(np.uint16) * 257)
        if dtype == np.uint16
        else np.rint(pixels / 257.0).astype(np.uint8)
    )


def _tone(
    source: np.ndarray,
    ground: np.ndarray,
    untouched: np.ndarray,
    unit: float,
    name: str,
    same: float,
) -> list[np.ndarray] | None:
    """How a source's levels come to be the ground's, one curve a channel over 256 steps of its
    range; None where they are the same.

    Raises:
        Refused: what differs is no change of tone.
    """
    ys, xs = np.nonzero(untouched[::3, ::3])
    if len(ys) < 400:
        raise Refused(
            f"too little around the regions is untouched to bring {name} to the others' tone"
        )
    keep = np.random.default_rng(20271).permutation(len(ys))[:120_000]
    a, b = (
        source[ys[keep] * 3, xs[keep] * 3].astype(np.float32) / unit,
        ground[ys[keep] * 3, xs[keep] * 3].astype(np.float32) / unit,
    )
    if (
        np.median(np.abs(a - b).max(axis=1)) <= same * 0.5
        and np.abs((a - b).mean(axis=0)).max() <= 0.35
    ):
        return None
    curves = []
    for channel in range(3):
        level = np.clip(np.rint(a[:, channel]), 0, 255).astype(int)
        seen, medians, counts = [], [], []
        order = np.argsort(level, kind="stable")
        edges = np.searchsorted(level[order], np.arange(257))
        for value in range(256):
            some = b[order[edges[value] : edges[value + 1]], channel]
            if len(some) >= 12:
                seen.append(value)
                medians.append(float(np.median(some)))
                counts.append(len(some))
        if len(seen) < 4:
            raise Refused(f"{name} differs from the others in more than tone")
        curve = np.interp(np.arange(256), seen, np.maximum.accumulate(medians))
        # Beyond what was seen the change goes on as it ended.
        curve[: seen[0]] = medians[0] + (np.arange(seen[0]) - seen[0])
        curve[seen[-1] :] = max(medians) + (np.arange(seen[-1], 256) - seen[-1])
        curves.append(
            np.clip(
                cv2.GaussianBlur(
                    curve.reshape(1, -1).astype(np.float32),
                    (0, 0),
                    3,
                    borderType=cv2.BORDER_REPLICATE,
                )[0],
                0,
                255,
            )
        )
    left = np.abs(
        np.stack([np.interp(a[:, k], np.arange(256), curves[k]) for k in range(3)], 1) - b
    ).max(axis=1)
    if np.median(left) > max(_EXPLAINED, same):
        raise Refused(
            f"{name} differs from the others in more than tone: {np.median(left):.1f} levels are left when tone is taken out"
        )
    return curves


def _toned(pixels: np.ndarray, curves: list[np.ndarray], unit: float) -> np.ndarray:
    values = pixels.astype(np.float32) / unit
    return (
        np.stack(
            [np.interp(values[..., k], np.arange(256), curves[k]) for k in range(3)], axis=2
        ).astype(np.float32)
        * unit
    )


def _aligned(
    original: Picture, parts: Sequence[Part], known: Mapping[int, Alignment]
) -> dict[int, Alignment]:
    """How each attempt lies to the original; what is not known is registered."""
    found = dict(known)
    for part in parts:
        if part.attempt not in found:
            found[part.attempt] = register(original, part.picture)
    return found


def assemble(
    original: Picture,
    parts: Sequence[Part],
    regions: Sequence[Region],
    known: Mapping[int, Alignment] | None = None,
) -> Assembled:
    """Put the parts together.

    Args:
        original: the picture that all belong to. parts: one for each region that is wanted.
            regions: all of the picture's.
        known: how attempts lie to the original, as far as that is known; others are registered.

    Returns:
        A picture in the original's frame. Where the attempts were the same but for their regions,
        what was taken is pixel for pixel the attempt's own.

    Raises:
        Refused: an attempt cannot be brought into place or to the others' tone, no join is possible
            around a region, touching fills do not meet.
    """
    if not parts:
        raise Refused("nothing was chosen to be put together")
    alignments = _aligned(original, parts, known or {})
    area: dict[int, int] = {}
    for part in parts:
        area[part.attempt] = area.get(part.attempt, 0) + int(part.region.mask.sum())
    whole = [part for part in parts if _covers(original, part.picture, alignments[part.attempt])]
    if not whole:
        raise Refused(
            "none of the chosen attempts shows the whole frame as the original does, so none can give the ground"
        )
    first = max(whole, key=lambda part: area[part.attempt])
    dtype = first.picture.pixels.dtype
    unit = 1.0 if dtype == np.uint8 else 257.0
    ground = first.picture.pixels
    out = ground.copy()
    done = [f"everything outside the regions from {first.name}"]
    frame = (original.height, original.width)
    near = np.zeros(frame, np.uint8)
    for region in regions:
        x, y, w, h = region.bbox
        near[y : y + h, x : x + w] |= region.mask
    owned = near.copy()
    untouched = cv2.dilate(near, np.ones((2 * REACH + 1, 2 * REACH + 1), np.uint8)) == 0
    brought: dict[int, np.ndarray] = {first.attempt: ground.astype(np.float32) / unit}
    exact: dict[int, np.ndarray | None] = {first.attempt: ground}
    for part in parts:
        if part.attempt in brought:
            continue
        alignment = alignments[part.attempt]
        pixels = _as(_brought(original, part, alignment), dtype)
        shown = (
            untouched & (pixels.any(axis=2) | ~original.pixels.any(axis=2))
            if alignment.kind != "same"
            else untouched
        )
        lossy = part.picture.format == "jpeg" or first.picture.format == "jpeg"
        curves = _tone(pixels, ground, shown, unit, part.name, _SAME_LOSSY if lossy else _SAME)
        if curves is None:
            brought[part.attempt], exact[part.attempt] = pixels.astype(np.float32) / unit, pixels
        else:
            brought[part.attempt], exact[part.attempt] = _toned(pixels, curves, unit) / unit, None
            done.append(f"{part.name} brought to the tone of {first.name}")
        if alignment.kind != "same":
            done.append(f"{part.name} moved back in place by whole pixels")
    for part in parts:
        if part.attempt != first.attempt:
            lossy = (
                part.picture.format == "jpeg"
                or first.picture.format == "jpeg"
                or exact[part.attempt] is None
            )
            _join(
                out,
                part,
                brought[part.attempt],
                exact[part.attempt],
                ground,
                owned,
                unit,
                _SAME_LOSSY if lossy else _SAME,
            )
            done.append(f"region {part.region.id} from {part.name}")
    _must_meet(parts, brought, frame)
    return Assembled(out, first.attempt, tuple(done))


def _join(
    out: np.ndarray,
    part: Part,
    source: np.ndarray,
    exact: np.ndarray | None,
    ground: np.ndarray,
    owned: np.ndarray,
    unit: float,
    same: float,
) -> None:
    """Lay one region over the ground: all that either changed there, with a soft join where both
    are the same.
    """
    height, width = out.shape[:2]
    x, y, w, h = part.region.bbox
    reach = REACH + 2 * JOIN
    left, top, right, bottom = (
        max(0, x - reach),
        max(0, y - reach),
        min(width, x + w + reach),
        min(height, y + h + reach),
    )
    here = np.zeros((bottom - top, right - left), np.uint8)
    here[y - top : y - top + h, x - left : x - left + w] = part.region.mask
    box = np.s_[top:bottom, left:right]
    mine, theirs = source[box], ground[box].astype(np.float32) / unit
    # Single noisy pixels are no change; a place that differs is.
    apart = cv2.blur(np.abs(mine - theirs).max(axis=2), (3, 3))
    others = (owned[box] > 0) & (here == 0)
    ring = (
        cv2.dilate(
            here, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * REACH + 1, 2 * REACH + 1))
        )
        > 0
    )
    differs = ((apart > same) & ring & ~others) | (here > 0)
    count, labels = cv2.connectedComponents(
        cv2.morphologyEx(differs.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
    )
    taken = (
        np.isin(labels, np.unique(labels[here > 0])) & (labels > 0) & ~others
        if count > 1
        else here > 0
    )
    # Where what was changed runs out of reach there is no place where both are the same.
    rim = (
        ring
        & (cv2.erode(ring.astype(np.uint8), np.ones((3, 3), np.uint8), borderValue=1) == 0)
        & ~others
    )
    if rim.any() and (taken & rim).sum() > 0.02 * rim.sum():
        raise Refused(
            f"around region {part.region.id} {part.name} and the ground differ for more than {REACH} px: there is no place to join them"
        )
    away = cv2.distanceTransform((~taken).astype(np.uint8), cv2.DIST_L2, 5)
    alpha = np.clip(1 - away / JOIN, 0, 1) * ~others
    alpha[taken] = 1.0
    mixed = alpha[..., None] * mine + (1 - alpha[..., None]) * (out[box].astype(np.float32) / unit)
    result = out[box]
    soft = (alpha > 0) & (alpha < 1)
    result[soft] = np.clip(np.rint(mixed[soft] * unit), 0, 255 * unit).astype(out.dtype)
    result[taken] = (
        exact[box][taken]
        if exact is not None
        else np.clip(np.rint(mine[taken] * unit), 0, 255 * unit).astype(out.dtype)
    )


def _must_meet(
    parts: Sequence[Part], brought: Mapping[int, np.ndarray], frame: tuple[int, int]
) -> None:
    """Where two regions touch, the two attempts must show the same along their border."""
    for i, one in enumerate(parts):
        for other in parts[i + 1 :]:
            if one.attempt == other.attempt:
                continue
            masks, either = [], np.zeros(frame, bool)
            for part in (one, other):
                mask = np.zeros(frame, np.uint8)
                x, y, w, h = part.region.bbox
                mask[y : y + h, x : x + w] = part.region.mask
                either |= mask > 0
                masks.append(cv2.dilate(mask, np.ones((_TOUCH + 1, _TOUCH + 1), np.uint8)) > 0)
            # What neither was to change is the same in both and says nothing.
            border = masks[0] & masks[1] & either
            if not border.any():
                continue
            apart = float(
                np.median(
                    np.abs(brought[one.attempt][border] - brought[other.attempt][border]).max(
                        axis=1
                    )
                )
            )
            if apart > _MEET:
                raise Refused(
                    f"regions {one.region.id} and {other.region.id} touch, and there {one.name} and {other.name} differ by {apart:.0f} levels: "
                    "take both from one attempt"
                )
