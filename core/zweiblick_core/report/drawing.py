"""A marked picture: the attempt in its original's frame, with what was found on it, for looking at
without a server.
"""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np

from ..align import Alignment, resampled_onto
from ..io import Picture
from ..report import Report

_FONT = cv2.FONT_HERSHEY_DUPLEX


def _ring(canvas: np.ndarray, points: list[list[float]], thick: int, dashed: bool = False) -> None:
    """A ring in black and white, so that it is seen on any ground."""
    ring = np.round(np.asarray(points, float) * 8).astype(np.int32)
    if len(ring) < 2:
        return
    if not dashed:
        cv2.polylines(canvas, [ring], True, (0, 0, 0), 3 * thick, cv2.LINE_AA, 3)
        cv2.polylines(canvas, [ring], True, (255, 255, 255), thick, cv2.LINE_AA, 3)
        return
    closed = np.vstack([points, points[:1]]).astype(float)
    for start, end in pairwise(closed):
        length = float(np.hypot(*(end - start)))
        for at in np.arange(0, length, 14 * thick):
            a, b = (
                start + (end - start) * min(1.0, t / max(length, 1e-6))
                for t in (at, at + 7 * thick)
            )
            for colour, wide in (((0, 0, 0), 3 * thick), ((255, 255, 255), thick)):
                cv2.line(
                    canvas,
                    tuple(np.round(a).astype(int)),
                    tuple(np.round(b).astype(int)),
                    colour,
                    wide,
                    cv2.LINE_AA,
                )


def ringed(pixels: np.ndarray, polygon: list[list[float]], thick: int = 1) -> np.ndarray:
    """A copy of uint8 pixels with one polygon drawn on it."""
    canvas = np.ascontiguousarray(pixels.copy())
    _ring(canvas, polygon, thick)
    return canvas


#: Left, top, right and bottom of words that stand already.
_Box = tuple[int, int, int, int]


def put_label(
    canvas: np.ndarray, words: str, at: tuple[float, float], size: float, taken: list[_Box]
) -> None:
    """Words at a place, or below what stands there already while there is room."""
    (width, height), below = cv2.getTextSize(words, _FONT, size, 1)
    x = int(np.clip(at[0], 2, max(2, canvas.shape[1] - width - 4)))
    y = first = int(np.clip(at[1], height + 4, canvas.shape[0] - 4))
    while any(
        x < right and left < x + width and y - height < bottom and top < y + below
        for left, top, right, bottom in taken
    ):
        y += 2
        if y > canvas.shape[0] - 4:
            y = first
            break
    taken.append((x, y - height, x + width, y + below))
    thick, rim = max(1, round(1.6 * size)), max(1, round(1.7 * size))
    # A rim by the same letters all around: thicker ones run wider.
    for dx, dy in ((-1, -1), (-1, 0), (-1, 1), (0, -1), (0, 1), (1, -1), (1, 0), (1, 1)):
        cv2.putText(
            canvas, words, (x + dx * rim, y + dy * rim), _FONT, size, (0, 0, 0), thick, cv2.LINE_AA
        )
    cv2.putText(canvas, words, (x, y), _FONT, size, (255, 255, 255), thick, cv2.LINE_AA)


def marked(original: Picture, result: Picture, report: Report) -> np.ndarray:
    """Draw a report on the attempt.

    Args:
        original, result: as they were examined.
        report: of those two; an `unmatched` one is drawn as the result with its reason.

    Returns:
        uint8 (height, width, 3), sRGB, in the original's frame: regions by a dashed box, findings
        by their polygon and words, changes outside every
        region by a dashed polygon.
    """
    alignment = Alignment(**report.alignment)
    pixels = resampled_onto(original, result, alignment)
    canvas = np.ascontiguousarray(
        (pixels >> 8).astype(np.uint8) if pixels.dtype == np.uint16 else pixels.copy()
    )
    size = max(0.45, min(canvas.shape[:2]) / 1400)
    thick = max(1, round(min(canvas.shape[:2]) / 900))
    taken: list[_Box] = []
    if alignment.kind == "unmatched":
        put_label(canvas, f"unmatched: {alignment.reason}", (8, 30 * size), size, taken)
        return canvas
    for region in report.regions:
        x, y, w, h = region.bbox
        _ring(canvas, [[x, y], [x + w, y], [x + w, y + h], [x, y + h]], thick, dashed=True)
        for finding in reversed(region.findings):
            _ring(canvas, finding.polygon, thick)
        # Words stand on top of all rings, the worst finding's first.
        put_label(canvas, f"{region.id}: {region.overall:.2f}", (x, y - 6), size, taken)
        for finding in region.findings:
            left, top, _, high = finding.bbox
            put_label(
                canvas,
                f"{finding.kind}, {finding.word}, {finding.confidence:.0%}",
                (left + 4, top + min(high, 40) * 0.5 + 8),
                size * 0.85,
                taken,
            )
    for finding in report.overreach["findings"]:
        _ring(canvas, finding.polygon, thick, dashed=True)
        put_label(
            canvas,
            f"{finding.kind}, {finding.word}",
            (finding.bbox[0], finding.bbox[1] - 4),
            size,
            taken,
        )
    return canvas
