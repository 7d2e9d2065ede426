"""A finding's evidence as a small picture, so that a person sees it rather than reads it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from .regions.masks import Region

#: Width of a picture at most, pixels; how far a rim is shown to either side; the side of a crop at most.
WIDTH, HALF, SIDE = 540, 18, 240
_GAP, _GREY = 4, 128
#: Kinds that are seen at the rim.
RIM_KINDS = ("seam", "halo", "tone")


@dataclass(frozen=True)
class Shown:
    """`pixels`: uint8 (height, width, 3); `says`: what is where, in one line; `agreement`: of the grain of a copy and its source, -1..1, else None."""

    pixels: np.ndarray
    says: str
    agreement: float | None = None


def unrolled(patch: np.ndarray, mask: np.ndarray, half: int = HALF, width: int = WIDTH) -> np.ndarray:
    """The outline of a mask as a straight line, the inside above it and the outside below.

    Args:
        patch: uint8 (height, width, 3). mask: bool of the same size.

    Returns:
        uint8 (2 half + 1, n, 3), n at most `width`; empty where the mask has no outline.
    """
    contours, _ = cv2.findContours(np.ascontiguousarray(mask, np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not contours:
        return np.zeros((2 * half + 1, 0, 3), np.uint8)
    points = max(contours, key=len)[:, 0].astype(np.float32)
    # Smooth along the ring, so that the normals do not jump from pixel to pixel.
    ring = np.concatenate([points[-8:], points, points[:8]])
    smooth: np.ndarray = cv2.GaussianBlur(ring.reshape(1, -1, 2), (0, 0), 2.5)[0][8:-8] if len(points) > 16 else points
    signed: np.ndarray = cv2.distanceTransform(np.ascontiguousarray(~mask, np.uint8), cv2.DIST_L2, 5) - cv2.distanceTransform(np.ascontiguousarray(mask, np.uint8), cv2.DIST_L2, 5)
    signed = cv2.GaussianBlur(signed, (0, 0), 2.0)
    gx, gy = cv2.Sobel(signed, cv2.CV_32F, 1, 0), cv2.Sobel(signed, cv2.CV_32F, 0, 1)
    at = (np.clip(smooth[:, 1].round().astype(int), 0, mask.shape[0] - 1), np.clip(smooth[:, 0].round().astype(int), 0, mask.shape[1] - 1))
    normal = np.stack([gx[at], gy[at]], 1)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-6)
    off = np.arange(-half, half + 1, dtype=np.float32)[:, None]
    strip: np.ndarray = cv2.remap(patch, (smooth[None, :, 0] + off * normal[None, :, 0]).astype(np.float32), (smooth[None, :, 1] + off * normal[None, :, 1]).astype(np.float32),
                                  cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return cv2.resize(strip, (width, strip.shape[0]), interpolation=cv2.INTER_AREA) if strip.shape[1] > width else strip


def _stacked(rows: list[np.ndarray]) -> np.ndarray:
    width = max(row.shape[1] for row in rows)
    padded = [np.pad(row, ((0, _GAP if i < len(rows) - 1 else 0), (0, width - row.shape[1]), (0, 0)), constant_values=_GREY) for i, row in enumerate(rows)]
    return np.concatenate(padded)


def _beside(pictures: list[np.ndarray]) -> np.ndarray:
    height = max(one.shape[0] for one in pictures)
    return np.concatenate([np.pad(one, ((0, height - one.shape[0]), (0, _GAP if i < len(pictures) - 1 else 0), (0, 0)), constant_values=_GREY)
                           for i, one in enumerate(pictures)], axis=1)


def _box(box: tuple[float, float, float, float], frame: tuple[int, int], margin: int = 12) -> tuple[int, int, int, int]:
    """A box with a margin, at most `SIDE` wide and high about its middle, within a frame of (width, height)."""
    x, y, w, h = box
    w, h = min(w + 2 * margin, SIDE), min(h + 2 * margin, SIDE)
    left, top = int(np.clip(x + box[2] / 2 - w / 2, 0, max(0, frame[0] - w))), int(np.clip(y + box[3] / 2 - h / 2, 0, max(0, frame[1] - h)))
    return left, top, max(1, int(min(w, frame[0] - left))), max(1, int(min(h, frame[1] - top)))


def _grain(pixels: np.ndarray) -> np.ndarray:
    luma = cv2.cvtColor(np.ascontiguousarray(pixels), cv2.COLOR_RGB2GRAY).astype(np.float32)
    fine: np.ndarray = luma - cv2.GaussianBlur(luma, (0, 0), 1.5)
    return fine


def _shown_grain(fine: np.ndarray, spread: float) -> np.ndarray:
    return np.repeat(np.clip(128 + fine * (40 / max(spread, 0.5)), 0, 255).astype(np.uint8)[..., None], 3, axis=2)


def show(kind: str, bbox: tuple[float, float, float, float], evidence: dict, original: np.ndarray, result: np.ndarray, region: Region) -> Shown:
    """The picture of one finding.

    Args:
        kind, bbox, evidence: as in the report. original, result: uint8 (height, width, 3) in one frame. region: that it was found in.

    A copy is shown beside its source with the grain of both under them; what is seen at the rim, as the rim unrolled in both pictures; all else as the place
    itself in both.
    """
    height, width = result.shape[:2]
    offset = evidence.get("offset_px")
    mirrored, box = bool(evidence.get("mirrored")), evidence.get("source")
    if kind == "repeat" and box and (mirrored or "turned_degrees" in evidence):
        # What was turned over or round has no pixel in its source's place: the two are shown, their grain is not laid on each other.
        x, y, w, h = _box(bbox, (width, height))
        sx, sy, sw, sh = _box((float(box[0]), float(box[1]), float(box[2]), float(box[3])), (width, height))
        source = result[sy:sy + sh, sx:sx + sw]
        pair = _beside([result[y:y + h, x:x + w], source[:, ::-1] if mirrored else source])
        return Shown(pair, f"left the copy, right its source{', flipped as the copy is' if mirrored else ''}")
    if kind == "repeat" and offset:
        x, y, w, h = _box(bbox, (width, height), 0)
        sx, sy = round(x + float(offset[0])), round(y + float(offset[1]))
        if sx >= 0 and sy >= 0 and sx + w <= width and sy + h <= height:
            copy, source = result[y:y + h, x:x + w], result[sy:sy + h, sx:sx + w]
            a, b = _grain(copy), _grain(source)
            agreement = float((a * b).mean() / max(1e-6, float(np.sqrt((a * a).mean() * (b * b).mean()))))
            spread = float(b.std())
            return Shown(_stacked([_beside([copy, source]), _beside([_shown_grain(a, spread), _shown_grain(b, spread)])]),
                         "left the copy, right its source; below, the grain of both", round(agreement, 3))
    if kind in RIM_KINDS:
        rx, ry, rw, rh = region.bbox
        left, top, right, bottom = max(0, rx - HALF - 4), max(0, ry - HALF - 4), min(width, rx + rw + HALF + 4), min(height, ry + rh + HALF + 4)
        mask = np.zeros((bottom - top, right - left), bool)
        mask[ry - top:ry - top + rh, rx - left:rx - left + rw] = region.mask
        first, second = (unrolled(picture[top:bottom, left:right], mask) for picture in (original, result))
        if second.shape[1]:
            return Shown(_stacked([first, second]), "the rim unrolled, inside above the middle and outside below it: the original, and this attempt under it")
    x, y, w, h = _box(bbox, (width, height))
    return Shown(_beside([original[y:y + h, x:x + w], result[y:y + h, x:x + w]]), "the place in the original, and in this attempt")
