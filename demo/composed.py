"""Pictures composed of the rendered ones: lettering on a wall, a thing cut by the frame, a crowd, and
one motif taken three times. Nothing is rendered anew; truth is known as it is there.
"""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np

from demo.rendered import rendered

#: Saved as a camera would.
QUALITY = 92


def _grown(mask: np.ndarray, pixels: int) -> np.ndarray:
    side = 2 * pixels + 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    return cv2.dilate(mask.astype(np.uint8), kernel) > 0


#: What a composed picture is made of: original and truth, uint8, and the regions' masks.
Composed = tuple[np.ndarray, np.ndarray, list[np.ndarray]]


#: The translucent words: text, where it begins, its size.
WORDS = ("muster", (230, 440), 4.2)


def strokes(shape: tuple[int, int], words: str, at: tuple[int, int], size: float) -> np.ndarray:
    """Lettering, 0..1, its edges smoothed."""
    drawn = np.zeros(shape, np.uint8)
    thick = round(6 * size)
    cv2.putText(drawn, words, at, cv2.FONT_HERSHEY_DUPLEX, size, 255, thick, cv2.LINE_AA)
    return cv2.GaussianBlur(drawn, (0, 0), 0.8).astype(np.float32) / 255


def lettering() -> Composed:
    """Solid lettering that was painted on the wall, and translucent words that lie over it."""
    truth = rendered("jetty").truth[20:620, 60:960].copy()
    shape = (truth.shape[0], truth.shape[1])
    solid = strokes(shape, "ANLEGER 4", (70, 190), 3.2)
    thin = strokes(shape, *WORDS)
    # Paint keeps a little of the stone's relief; the translucent words let all of it through.
    relief = truth.astype(np.float32).mean(axis=2, keepdims=True) / 190
    paint = np.array([52, 70, 96], np.float32) * np.clip(relief, 0.6, 1.3)
    first = truth * (1 - 0.94 * solid[..., None]) + paint * 0.94 * solid[..., None]
    white = np.array([250, 250, 246], np.float32)
    both = first * (1 - 0.5 * thin[..., None]) + white * 0.5 * thin[..., None]
    original = np.clip(both, 0, 255).round().astype(np.uint8)
    return original, truth, [_grown(solid > 0.05, 3), _grown(thin > 0.05, 3)]


def at_the_frame() -> Composed:
    """A cart that the frame cuts in two."""
    part = np.s_[480:1180, 900:1800]
    it = rendered("quay")
    return it.original[part].copy(), it.truth[part].copy(), [it.regions[1][part]]


def crowded() -> Composed:
    """A barrel, a small buoy and a buoy, each right beside the next."""
    part = np.s_[520:1200, 200:1240]
    it = rendered("jetty")
    original, truth = it.original[part].copy(), it.truth[part].copy()
    barrel, buoy = (region[part] for region in it.regions)
    # The buoy again, smaller, as it differs from what lies behind it.
    ys, xs = np.nonzero(np.abs(original.astype(int) - truth).max(axis=2) * buoy > 40)
    top, bottom, left, right = ys.min(), ys.max() + 1, xs.min(), xs.max() + 1
    thing = original[top:bottom, left:right]
    solid = np.zeros(buoy.shape, np.uint8)
    orange = (original[..., 0].astype(int) - original[..., 2] > 60) & buoy
    solid[_filled(orange)] = 255
    alpha = solid[top:bottom, left:right]
    size = (round(0.62 * thing.shape[1]), round(0.62 * thing.shape[0]))
    thing = cv2.resize(thing, size, interpolation=cv2.INTER_AREA)
    alpha = cv2.GaussianBlur(cv2.resize(alpha, size, interpolation=cv2.INTER_AREA), (0, 0), 0.8)
    x0, y0 = 440, 370
    here = np.s_[y0 : y0 + size[1], x0 : x0 + size[0]]
    share = alpha[..., None].astype(np.float32) / 255
    # A contact shadow, so that it stands on the deck.
    shade = np.zeros(buoy.shape, np.float32)
    middle = (x0 + size[0] // 2 - 14, y0 + size[1] - 6)
    cv2.ellipse(shade, middle, (size[0] // 2, 16), 0, 0, 360, 0.55, -1)
    shade = cv2.GaussianBlur(shade, (0, 0), 9)
    stood = original * (1 - shade[..., None])
    stood[here] = stood[here] * (1 - share) + thing * share
    placed = np.zeros(buoy.shape, bool)
    placed[here] = alpha > 12
    small = _grown(placed | (shade > 0.03), 4) & ~barrel & ~buoy
    original = np.clip(stood, 0, 255).round().astype(np.uint8)
    return original, truth, [barrel, small, buoy]


def _filled(mask: np.ndarray) -> np.ndarray:
    """The convex outline of a thing's parts, filled."""
    ys, xs = np.nonzero(cv2.morphologyEx(mask.astype(np.uint8), cv2.MORPH_OPEN, np.ones((5, 5))))
    outline = cv2.convexHull(np.stack([xs, ys], axis=1).astype(np.int32))
    drawn = np.zeros(mask.shape, np.uint8)
    cv2.fillPoly(drawn, [outline], 1)
    return drawn > 0


def _shot(dx: int, dy: int, gain: float, seed: int) -> Composed:
    """The sign before the shed as another exposure a moment later saw it."""
    part = np.s_[380 + dy : 1190 + dy, 220 + dx : 1280 + dx]
    noise = np.random.default_rng(seed).normal(0, 0.6, (810, 1060, 3))
    it = rendered("boatshed")
    shown = [
        np.clip(pixels[part] * gain + noise, 0, 255).round().astype(np.uint8)
        for pixels in (it.original, it.truth)
    ]
    return shown[0], shown[1], [it.regions[0][part]]


COMPOSED: dict[str, Callable[[], Composed]] = {
    "wall": lettering,
    "corner": at_the_frame,
    "deck": crowded,
    "door-1": lambda: _shot(0, 0, 1.0, 1),
    "door-2": lambda: _shot(7, -4, 1.01, 2),
    "door-3": lambda: _shot(-9, 6, 0.99, 3),
}
