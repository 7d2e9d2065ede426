"""The aids that are made of the pixels alone. All take uint8 (height, width, 3) sRGB and the
original's ground, and give the same shape.

Every filter here looks no farther than its margin, so that a tile with that margin around it is
drawn as the whole frame would be.
"""

from __future__ import annotations

import cv2
import numpy as np

from .ground import Ground

_FINE, _EDGE = 1.6, 1.3
#: Sides of three running means, pixels: together nearly a Gaussian of 14 and of 16 pixels (Wells
#: 1986), whatever its width at the same price.
_BROAD, _LOCAL = (27, 29, 29), (31, 33, 33)
#: Gaussians are cut here, in deviations; margins follow from it.
_CUT = 3
FINE_MARGIN = int(np.ceil(_CUT * _FINE)) + 1
TONE_MARGIN = sum(side // 2 for side in _BROAD) + 1
LOCAL_MARGIN = 2 * (sum(side // 2 for side in _LOCAL) + 1)
SHARPENED_MARGIN = int(np.ceil(_CUT * _EDGE)) + 1
#: A wider window lets structure through; of white noise this one, with its threshold below, passes
#: this share.
_GUIDE, _PASSED = 1, 0.72
GRAIN_MARGIN = 2 * _GUIDE + 2
_CHROMA = 2.0
_SPLINE = np.array([1, 4, 6, 4, 1], np.float32) / 16
#: White noise of deviation 1 has these deviations in the planes of the wavelet transform with that
#: spline (Starck and Murtagh 1994).
_NOISE = (0.889, 0.200, 0.086)
#: Taken out: what varies by less than this many deviations of the grain.
_STRONG = 1.6
DENOISED_MARGIN = max(
    sum(2 << scale for scale in range(len(_NOISE))) + 3 * (1 << (len(_NOISE) - 1)) // 2 + 1,
    int(np.ceil(_CUT * _CHROMA)) + 1,
)
#: The deviation that the original's grain is shown with, levels.
SHOWN_GRAIN = 16.0


def _gauss(values: np.ndarray, sigma: float) -> np.ndarray:
    side = 2 * int(np.ceil(_CUT * sigma)) + 1
    return cv2.GaussianBlur(values, (side, side), sigma, borderType=cv2.BORDER_REFLECT_101)


def _means(values: np.ndarray, sides: tuple[int, ...]) -> np.ndarray:
    for side in sides:
        values = cv2.blur(values, (side, side), borderType=cv2.BORDER_REFLECT_101)
    return values


def _luma(patch: np.ndarray) -> np.ndarray:
    luma: np.ndarray = cv2.cvtColor(np.ascontiguousarray(patch), cv2.COLOR_RGB2GRAY).astype(
        np.float32
    )
    return luma


def _levels(values: np.ndarray) -> np.ndarray:
    """Rounded and held to 0..255, three channels whatever comes in."""
    # A sum with another type rounds and saturates in one pass; the same in numpy takes ten times as
    # long.
    clipped: np.ndarray = cv2.addWeighted(values, 1.0, values, 0.0, 0.0, dtype=cv2.CV_8U)
    return clipped if clipped.ndim == 3 else cv2.cvtColor(clipped, cv2.COLOR_GRAY2RGB)


def fine_detail(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Luma less its Gaussian of 1.6 pixels, fourfold about middle grey."""
    luma = _luma(patch)
    return _levels(128 + 4 * (luma - _gauss(luma, _FINE)))


def grain(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Luma less what a guided filter (He, Sun and Tang 2013) keeps of it, which is edges well above
    the original's grain; scaled so that the
    original's grain would show with a deviation of 16 levels."""
    luma = _luma(patch)
    # What varies by less than twice the grain is smoothed away, what varies by more is structure
    # and stays out of the residual.
    eps = (2.0 * ground.grain) ** 2
    side = (2 * _GUIDE + 1, 2 * _GUIDE + 1)
    mean = cv2.blur(luma, side, borderType=cv2.BORDER_REFLECT_101)
    variance = np.maximum(
        cv2.blur(luma * luma, side, borderType=cv2.BORDER_REFLECT_101) - mean * mean, 0
    )
    slope = variance / (variance + eps)
    kept = cv2.blur(slope, side, borderType=cv2.BORDER_REFLECT_101) * luma + cv2.blur(
        mean * (1 - slope), side, borderType=cv2.BORDER_REFLECT_101
    )
    return _levels(128 + (luma - kept) * (SHOWN_GRAIN / (_PASSED * ground.grain)))


def tone(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """A Gaussian of 14 pixels, as running means, threefold about the original's mean."""
    # 64ths of a level in whole numbers: exact to a hundredth of one, and half the time of means of
    # floats.
    broad = _means(patch.astype(np.uint16) << 6, _BROAD)
    return _levels(
        cv2.addWeighted(broad, 3 / 64, broad, 0, 0, dtype=cv2.CV_32F)
        - 2 * np.array(ground.mean, np.float32)
    )


def _curve(patch: np.ndarray, curve: np.ndarray) -> np.ndarray:
    drawn: np.ndarray = cv2.LUT(
        np.ascontiguousarray(patch), np.clip(np.rint(curve), 0, 255).astype(np.uint8)
    )
    return drawn


_X = np.arange(256) / 255.0


def darks(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Levels up to a third take four fifths of the range, with a soft shoulder above."""
    return _curve(patch, 255 * np.where(_X < 1 / 3, 2.4 * _X, 1 - 0.2 * ((1 - _X) * 1.5) ** 8))


def lights(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Levels from two thirds take four fifths of the range, with a soft toe below."""
    return _curve(patch, 255 * np.where(_X > 2 / 3, 1 - 2.4 * (1 - _X), 0.2 * (_X * 1.5) ** 8))


def local_contrast(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Luma less its local mean, over its local deviation (Gaussians of 16 pixels, as running
    means); places flatter than the grain are not blown up.
    """
    luma = _luma(patch)
    mean = _means(luma, _LOCAL)
    spread = np.sqrt(np.maximum(_means((luma - mean) ** 2, _LOCAL), 0))
    return _levels(128 + 44 * (luma - mean) / (spread + 1.5 * ground.grain + 1.0))


def denoised(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Luma by shrinking each plane of an undecimated wavelet transform where it varies no more than
    the original's grain does (local Wiener
    shrinkage: Mihcak, Kozintsev, Ramchandran and Moulin 1999); colour by a Gaussian, as its detail
        is seen far less.
    """
    # Luma and chroma of the encoded levels (ITU-R BT.601): the grain was measured in them, and
    # turning there and back costs a tenth of CIELAB.
    split = cv2.cvtColor(np.ascontiguousarray(patch), cv2.COLOR_RGB2YCrCb)
    rest: np.ndarray = split[..., 0].astype(np.float32)
    kept = np.zeros_like(rest)
    for scale, passed in enumerate(_NOISE):
        step = 1 << scale
        taps = np.zeros(4 * step + 1, np.float32)
        taps[::step] = _SPLINE
        smooth = cv2.sepFilter2D(rest, -1, taps, taps, borderType=cv2.BORDER_REFLECT_101)
        plane = rest - smooth
        around = cv2.blur(
            plane * plane, (3 * step | 1, 3 * step | 1), borderType=cv2.BORDER_REFLECT_101
        )
        kept += plane * (
            np.maximum(around - (_STRONG * passed * ground.grain) ** 2, 0)
            / np.maximum(around, 1e-6)
        )
        rest = smooth
    split[..., 0] = cv2.add(rest, kept, dtype=cv2.CV_8U)
    split[..., 1:] = _gauss(np.ascontiguousarray(split[..., 1:]), _CHROMA)
    drawn: np.ndarray = cv2.cvtColor(split, cv2.COLOR_YCrCb2RGB)
    return drawn


def sharpened(patch: np.ndarray, ground: Ground) -> np.ndarray:
    """Two and a half times what is finer than 1.3 pixels added back."""
    values = patch.astype(np.float32)
    return _levels(values + 2.5 * (values - _gauss(values, _EDGE)))
