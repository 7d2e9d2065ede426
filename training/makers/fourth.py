"""A fourth hand's flaws: fills that a person sees at a glance. What they are made of belongs
somewhere else, and all of it is blended in, so that no step of tone gives it away.

Under one form with `third`: a maker takes a strength, and gives a function (truth, original, mask,
rng) -> result; None where the place has no room for it, or what was found is not plainly unlike.
"""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from scipy import sparse
from scipy.sparse.linalg import spsolve

from ..photographs import names, photograph
from .third import Flaw, Made, between, pasted

#: Octaves at which grounds are compared, pixels; places that are tried; how unlike, natural
#: logarithm of contrast at one of them, at strengths 0 and 1.
_OCTAVES, _TRIED, _UNLIKE = (1.0, 2.0, 4.0, 8.0), 24, (0.8, 1.6)


def membrane(rim: np.ndarray, mask: np.ndarray) -> np.ndarray:
    """What lies around a mask, spread evenly through it: the Laplace equation with the values at
    its rim (Perez and others 2003).

    Args:
        rim: float (height, width, channels), read outside the mask. mask: bool; not at the frame.

    Returns:
        As `rim`, 0 outside the mask.
    """
    ys, xs = np.nonzero(mask)
    number = np.full(mask.shape, -1)
    number[ys, xs] = np.arange(len(ys))
    known = np.zeros((len(ys), rim.shape[2]))
    rows, columns = [], []
    for dy, dx in ((0, 1), (0, -1), (1, 0), (-1, 0)):
        other = number[ys + dy, xs + dx]
        inside = other >= 0
        rows.append(np.flatnonzero(inside))
        columns.append(other[inside])
        known[~inside] += rim[ys[~inside] + dy, xs[~inside] + dx]
    at = (np.concatenate(rows), np.concatenate(columns))
    size = (len(ys), len(ys))
    system = 4 * sparse.eye(len(ys)) - sparse.csr_matrix((np.ones(len(at[0])), at), size)
    spread = np.zeros(rim.shape)
    spread[ys, xs] = spsolve(sparse.csc_matrix(system), known).reshape(len(ys), -1)
    return spread


def _contrasts(pixels: np.ndarray, mask: np.ndarray) -> np.ndarray:
    """Logarithm of the mean contrast of luma in a mask, at `_OCTAVES`."""
    luma = pixels.astype(np.float32) @ np.array([0.299, 0.587, 0.114], np.float32)
    blurred = lambda sigma: cv2.GaussianBlur(luma, (0, 0), sigma)
    return np.array(
        [
            np.log(np.abs(blurred(octave) - blurred(2 * octave))[mask].mean() + 0.7)
            for octave in _OCTAVES
        ]
    )


def blended(source: np.ndarray | None, strength: float) -> Flaw:
    """Of the places of a source, the one most unlike the fill's surroundings, blended in.

    Args:
        source: uint8 (height, width, 3); None: the photograph itself, off the mask.
        strength: 0..1, how unlike it is at least.
    """

    def made(
        truth: np.ndarray, original: np.ndarray, mask: np.ndarray, rng: np.random.Generator
    ) -> Made:
        x, y, w, h = cv2.boundingRect(mask.view(np.uint8))
        height, width = mask.shape
        pixels = truth if source is None else source
        if x < 1 or y < 1 or x + w >= width or y + h >= height:
            return None
        room = (pixels.shape[1] - w - 2, pixels.shape[0] - h - 2)
        if min(room) < 1:
            return None
        around = cv2.dilate(mask.view(np.uint8), np.ones((61, 61), np.uint8)).astype(bool) & ~mask
        usual, best, most = _contrasts(truth, around), None, between(*_UNLIKE, strength)
        here = np.pad(mask[y : y + h, x : x + w], 1)
        for _ in range(_TRIED):
            left, top = int(rng.integers(room[0])), int(rng.integers(room[1]))
            if source is None and abs(left + 1 - x) < w and abs(top + 1 - y) < h:
                continue
            part = pixels[top : top + h + 2, left : left + w + 2]
            unlike = float(np.abs(_contrasts(part, here) - usual).max())
            if unlike > most:
                best, most = part, unlike
        if best is None:
            return None
        fill = truth.astype(float)
        fill[y - 1 : y + h + 1, x - 1 : x + w + 1] = best
        return pasted(truth, fill + membrane(truth - fill, mask), mask, rng)

    return made


def another_ground(strength: float) -> Flaw:
    """Ground of another sort, from the same photograph."""
    return blended(None, strength)


def another_picture(strength: float) -> Flaw:
    """A part of another photograph."""

    def made(
        truth: np.ndarray, original: np.ndarray, mask: np.ndarray, rng: np.random.Generator
    ) -> Made:
        source = photograph(str(rng.choice(names())))
        return blended(source, strength)(truth, original, mask, rng)

    return made


def smooth_patch(strength: float) -> Flaw:
    """Nothing but the colours of the rim, with grain of its own."""

    def made(
        truth: np.ndarray, original: np.ndarray, mask: np.ndarray, rng: np.random.Generator
    ) -> Made:
        x, y, w, h = cv2.boundingRect(mask.view(np.uint8))
        if x < 1 or y < 1 or x + w >= mask.shape[1] or y + h >= mask.shape[0]:
            return None
        around = cv2.dilate(mask.view(np.uint8), np.ones((61, 61), np.uint8)).astype(bool) & ~mask
        if _contrasts(truth, around).max() < between(0.8, 1.6, strength):
            return None
        return pasted(truth, membrane(truth.astype(float), mask), mask, rng, noise=1.0)

    return made


#: Of each maker what its flaws may rightly be called, the likeliest first.
MAKERS: dict[Callable[[float], Flaw], tuple[str, ...]] = {
    another_ground: ("invented", "repeat", "smear", "soft", "tone", "grain", "line"),
    another_picture: ("invented", "smear", "soft", "tone", "grain", "line"),
    smooth_patch: ("smear", "soft", "invented", "grain"),
}
