"""Whether two pictures lie in the same frame. Others are reported as `unmatched`, with the reason."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from .reading import Picture


@dataclass(frozen=True)
class Alignment:
    """Attributes: kind: "same" or "unmatched"; offset, scale, angle, matrix (2x3, original to result); residual_px; reason."""

    kind: str
    offset: tuple[float, float]
    scale: float
    angle: float
    matrix: tuple[tuple[float, float, float], tuple[float, float, float]]
    residual_px: float
    reason: str | None


_IDENTITY = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0))


def _unmatched(reason: str) -> Alignment:
    return Alignment("unmatched", (0.0, 0.0), 1.0, 0.0, _IDENTITY, 0.0, reason)


def _coarse(pixels: np.ndarray, side: int = 512) -> np.ndarray:
    height, width = pixels.shape[:2]
    factor = min(1.0, side / max(height, width))
    size = (max(1, round(width * factor)), max(1, round(height * factor)))
    if pixels.dtype == np.uint16:
        pixels = (pixels[:: max(1, int(1 / factor) // 2), :: max(1, int(1 / factor) // 2)] >> 8).astype(np.uint8)
    return cv2.cvtColor(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), cv2.COLOR_RGB2GRAY).astype(np.float32)


def register(original: Picture, result: Picture, outside: np.ndarray | None = None) -> Alignment:
    """Decide whether the result lies in the original's frame.

    Args:
        original, result: the pictures.
        outside: bool (height, width), False where something was to be removed; compared only where True.
    """
    if original.pixels.shape != result.pixels.shape:
        return _unmatched(f"the result is {result.width}x{result.height}, the original {original.width}x{original.height}; results that were cropped, "
                          "turned or resized cannot be judged yet")
    first, second = _coarse(original.pixels), _coarse(result.pixels)
    keep = np.ones(first.shape, bool) if outside is None else cv2.resize(outside.astype(np.uint8), first.shape[::-1], interpolation=cv2.INTER_AREA) > 0
    if keep.sum() < 64:
        return Alignment("same", (0.0, 0.0), 1.0, 0.0, _IDENTITY, 0.0, None)
    a, b = first[keep] - first[keep].mean(), second[keep] - second[keep].mean()
    power = float(np.sqrt((a * a).sum() * (b * b).sum()))
    if power > 1e-6 * len(a):
        likeness = float((a * b).sum()) / power
        if likeness < 0.5 and float(np.abs(a - b).mean()) > 4:
            return _unmatched("the two pictures do not show the same thing")
    window = cv2.createHanningWindow(first.shape[::-1], cv2.CV_32F) if min(first.shape) > 8 else None
    if window is not None and first.std() > 1 and second.std() > 1:
        # What was removed stands still in neither picture; it is faded out so that its edges do not hold the shift at nought.
        weight = (window * cv2.GaussianBlur(keep.astype(np.float32), (0, 0), 6)).astype(np.float32)
        level = float(first[keep].mean())
        (dx, dy), _ = cv2.phaseCorrelate(first - level, second - level, weight)
        unit = original.width / first.shape[1]
        here = float(np.abs(first - second)[keep].mean())
        moved = cv2.warpAffine(first, np.array([[1, 0, dx], [0, 1, dy]], np.float32), first.shape[::-1], borderMode=cv2.BORDER_REPLICATE)
        if max(abs(dx), abs(dy)) * unit > 0.8 and float(np.abs(moved - second)[keep].mean()) < 0.6 * here and here > 1.0:
            return _unmatched(f"the result is shifted by about {dx * unit:.0f}, {dy * unit:.0f} pixels against the original; shifted results cannot be judged yet")
    return Alignment("same", (0.0, 0.0), 1.0, 0.0, _IDENTITY, 0.0, None)
