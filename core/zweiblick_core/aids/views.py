"""The aids that are made of the pixels alone. All take uint8 (height, width, 3) sRGB and the original's ground, and give the same shape.

Every filter here looks no farther than its margin, so that a tile with that margin around it is drawn as the whole frame would be.
"""

from __future__ import annotations

import cv2
import numpy as np

from .ground import Ground

_FINE, _BROAD, _LOCAL, _EDGE = 1.6, 14.0, 16.0, 1.3
#: Gaussians are cut here, in deviations; margins follow from it.
_CUT = 3
FINE_MARGIN = int(np.ceil(_CUT * _FINE)) + 1
TONE_MARGIN = int(np.ceil(_CUT * _BROAD)) + 1
LOCAL_MARGIN = 2 * (int(np.ceil(_CUT * _LOCAL)) + 1)
SHARPENED_MARGIN = int(np.ceil(_CUT * _EDGE)) + 1
#: A wider window lets structure through; of white noise this one, with its threshold below, passes this share.
_GUIDE, _PASSED = 1, 0.72
GRAIN_MARGIN = 2 * _GUIDE + 2
_TEMPLATE, _SEARCH, _CHROMA = 5, 11, 2.0
DENOISED_MARGIN = max((_TEMPLATE + _SEARCH) // 2 + 2, int(np.ceil(_CUT * _CHROMA)) + 1)
#: The deviation that the original's grain is shown with, levels.
SHOWN_GRAIN = 16.0


def _gauss(values: np.ndarray, sigma: float) -> np.ndarray:
    side = 2 * int(np.ceil(_CUT * sigma)) + 1
    return cv2.GaussianBlur(values, (side, side), sigma, borderType=cv2.BORDER_REFLECT_101)


def _luma(patch: np.ndarray) -> np.ndarray:
    luma: np.ndarray = cv2.cvtColor(np.ascontiguousarray(patch), cv2.COLOR_RGB2GRAY).astype(np.float32)
    return luma


def _levels(values: np.ndarray) -> np.ndarray:
    clipped: np.ndarray = np.clip(np.rint(values), 0, 255).astype(np.uint8)
    return clipped if clipped.ndim == 3 else np.repeat(clipped[..., None], 3, axis=2)


def fine_detail(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Luma less its Gaussian of 1.6 pixels, fourfold about middle grey."""
    luma = _luma(patch)
    return _levels(128 + 4 * (luma - _gauss(luma, _FINE)))


def grain(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Luma less what a guided filter (He, Sun and Tang 2013) keeps of it, which is edges well above the original's grain; scaled so that the
    original's grain would show with a deviation of 16 levels."""
    luma = _luma(patch)
    # What varies by less than twice the grain is smoothed away, what varies by more is structure and stays out of the residual.
    eps = (2.0 * ground.grain) ** 2
    side = (2 * _GUIDE + 1, 2 * _GUIDE + 1)
    mean = cv2.blur(luma, side, borderType=cv2.BORDER_REFLECT_101)
    variance = np.maximum(cv2.blur(luma * luma, side, borderType=cv2.BORDER_REFLECT_101) - mean * mean, 0)
    slope = variance / (variance + eps)
    kept = cv2.blur(slope, side, borderType=cv2.BORDER_REFLECT_101) * luma + cv2.blur(mean * (1 - slope), side, borderType=cv2.BORDER_REFLECT_101)
    return _levels(128 + (luma - kept) * (SHOWN_GRAIN / (_PASSED * ground.grain)))


def tone(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """A Gaussian of 14 pixels, threefold about the original's mean."""
    mean = np.array(ground.mean, np.float32)
    return _levels(mean + 3 * (_gauss(patch.astype(np.float32), _BROAD) - mean))


def _curve(patch: np.ndarray, curve: np.ndarray) -> np.ndarray:
    drawn: np.ndarray = cv2.LUT(np.ascontiguousarray(patch), np.clip(np.rint(curve), 0, 255).astype(np.uint8))
    return drawn


_X = np.arange(256) / 255.0


def darks(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Levels up to a third take four fifths of the range, with a soft shoulder above."""
    return _curve(patch, 255 * np.where(_X < 1 / 3, 2.4 * _X, 1 - 0.2 * ((1 - _X) * 1.5) ** 8))


def lights(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Levels from two thirds take four fifths of the range, with a soft toe below."""
    return _curve(patch, 255 * np.where(_X > 2 / 3, 1 - 2.4 * (1 - _X), 0.2 * (_X * 1.5) ** 8))


def local_contrast(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Luma less its local mean, over its local deviation (Gaussians of 16 pixels); places flatter than the grain are not blown up."""
    luma = _luma(patch)
    mean = _gauss(luma, _LOCAL)
    spread = np.sqrt(np.maximum(_gauss((luma - mean) ** 2, _LOCAL), 0))
    return _levels(128 + 44 * (luma - mean) / (spread + 1.5 * ground.grain + 1.0))


def denoised(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Lightness by non-local means (Buades, Coll and Morel 2005) at one and a half times the original's grain; colour by a Gaussian, as its detail is
    seen far less."""
    lab = cv2.cvtColor(np.ascontiguousarray(patch), cv2.COLOR_RGB2LAB)
    lab[..., 0] = cv2.fastNlMeansDenoising(np.ascontiguousarray(lab[..., 0]), None, 1.5 * ground.grain + 1.0, _TEMPLATE, _SEARCH)
    lab[..., 1:] = _gauss(lab[..., 1:], _CHROMA)
    drawn: np.ndarray = cv2.cvtColor(lab, cv2.COLOR_LAB2RGB)
    return drawn


def sharpened(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Two and a half times what is finer than 1.3 pixels added back."""
    values = patch.astype(np.float32)
    return _levels(values + 2.5 * (values - _gauss(values, _EDGE)))
