"""Embedded colour profiles to sRGB."""

from __future__ import annotations

import io

import cv2
import numpy as np
from PIL import Image, ImageCms


def _profile(profile_bytes: bytes) -> ImageCms.ImageCmsProfile | None:
    try:
        return ImageCms.ImageCmsProfile(io.BytesIO(profile_bytes))
    except (OSError, ImageCms.PyCMSError):
        return None


def _profile_name(profile: ImageCms.ImageCmsProfile) -> str:
    try:
        return ImageCms.getProfileDescription(profile).strip() or "unnamed"
    except ImageCms.PyCMSError:
        return "unnamed"


def to_srgb(image: Image.Image, profile_bytes: bytes) -> tuple[Image.Image, str]:
    """Convert by the embedded profile; a profile that cannot be used is named as such and the
    numbers are taken as sRGB.
    """
    profile = _profile(profile_bytes)
    if profile is None:
        return image, "unreadable"
    name = _profile_name(profile)
    if "srgb" in name.lower():
        return image, name
    try:
        exif = image.getexif()
        converted = ImageCms.profileToProfile(
            image, profile, ImageCms.createProfile("sRGB"), outputMode="RGB"
        )
        assert converted is not None
        converted.getexif().update(exif)
        return converted, name
    except (ImageCms.PyCMSError, ValueError):
        return image, f"{name} (could not be applied)"


def deep_to_srgb(pixels: np.ndarray, profile_bytes: bytes) -> tuple[np.ndarray, str]:
    """Pillow's colour engine handles 8 bits; the conversion's *difference* is smooth, so it is
    applied to the 16 bit values.
    """
    profile = _profile(profile_bytes)
    if profile is None:
        return pixels, "unreadable"
    coarse = Image.fromarray((pixels >> 8).astype(np.uint8), "RGB")
    converted, name = to_srgb(coarse, profile_bytes)
    shift = np.asarray(converted, np.int32) - (pixels >> 8).astype(np.int32)
    smooth = cv2.blur(shift.astype(np.float32), (3, 3)) * 257
    return np.clip(pixels + smooth, 0, 65535).round().astype(np.uint16), name
