"""Picture files to upright sRGB arrays.

Reads JPEG, PNG and TIFF, applies the EXIF orientation, converts an embedded profile to sRGB, and
lays transparency over mid-grey. What cannot be read is refused with one plain line, and nothing
half-read is returned.
"""

from __future__ import annotations

import hashlib
import io
import struct
import warnings
import zlib
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageOps

from ..errors import Refused
from .jpeg import jpeg_quality
from .picture import Picture, Saving
from .profiles import deep_to_srgb, to_srgb

#: More pixels than this are refused before any is decoded (a decompression bomb looks like a small
#: file).
MOST_PIXELS = 250_000_000

#: Longer sides than this are refused too: a strip one pixel high passes any limit on pixels.
MOST_SIDE = 60_000

# Ours is the one limit: Pillow's own, lower one would refuse in its place and name another.
Image.MAX_IMAGE_PIXELS = None
FORMATS = {"JPEG": "jpeg", "MPO": "jpeg", "PNG": "png", "TIFF": "tiff"}

#: What shows through transparent pixels, sRGB.
UNDER_ALPHA = 119


def content(source: Path | str | bytes, otherwise: str) -> tuple[bytes, str]:
    """A file's bytes, and what it is called. Raises: Refused: it cannot be opened, or is empty."""
    if isinstance(source, bytes):
        data, name = source, otherwise
    else:
        name = Path(source).name
        try:
            data = Path(source).read_bytes()
        except OSError as error:
            raise Refused(f"{name}: cannot be opened ({error.strerror or error})") from error
    if not data:
        raise Refused(f"{name}: is empty")
    return data, name


def read(source: Path | str | bytes, most_pixels: int = MOST_PIXELS) -> Picture:
    """Read one picture file.

    Args:
        source: path of the file, or its bytes.
        most_pixels: refuse larger pictures, in pixels.

    Raises:
        Refused: not a picture, truncated, a format we do not read, or too many pixels.
    """
    data, name = content(source, "the file")
    digest = hashlib.sha256(data).hexdigest()
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        with opened(data, name) as image:
            kind = accepted(image, name, most_pixels)
            return decoded(image, kind, data, name, digest)


@dataclass(frozen=True)
class Header:
    """What a file says of itself before any pixel is decoded.

    Attributes:
        width, height: as stored, before orientation.
        format: "jpeg", "png" or "tiff".
    """

    width: int
    height: int
    format: str


def read_header(data: bytes, most_pixels: int = MOST_PIXELS) -> Header:
    """Read a picture file's header alone: cheap, whatever the picture's size.

    Raises:
        Refused: as `read`, as far as a header tells.
    """
    if not data:
        raise Refused("the file: is empty")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        with opened(data, "the file") as image:
            kind = accepted(image, "the file", most_pixels)
            return Header(image.width, image.height, kind)


#: What Pillow raises for files that are cut short, damaged or made to do harm.
BROKEN = (
    OSError,
    ValueError,
    SyntaxError,
    EOFError,
    MemoryError,
    ArithmeticError,
    LookupError,
    TypeError,
    AttributeError,
    struct.error,
    zlib.error,
    cv2.error,
    Image.DecompressionBombError,
)


def opened(data: bytes, name: str) -> Image.Image:
    """A file as Pillow opens it, nothing decoded yet. Raises: Refused: it is no picture."""
    try:
        return Image.open(io.BytesIO(data))
    except BROKEN as error:
        raise Refused(f"{name}: is not a picture that can be read (JPEG, PNG or TIFF)") from error


def accepted(image: Image.Image, name: str, most_pixels: int) -> str:
    """The picture's format. Raises: Refused: one that is not read, or too many pixels."""
    kind = FORMATS.get(image.format or "")
    if kind is None:
        raise Refused(f"{name}: is a {image.format} file; JPEG, PNG and TIFF are read")
    if max(image.size) > MOST_SIDE:
        raise Refused(
            f"{name}: is {image.width} by {image.height} pixels; the limit is {MOST_SIDE} a side"
        )
    if image.width * image.height > most_pixels:
        raise Refused(
            f"{name}: has {image.width * image.height / 1e6:.0f} million pixels; the limit is {most_pixels / 1e6:.0f} million"
        )
    return kind


def decoded(image: Image.Image, kind: str, data: bytes, name: str, digest: str) -> Picture:
    """An opened file's first page. Raises: Refused: it is damaged or cut short."""
    mode, profile_bytes = image.mode, image.info.get("icc_profile")
    profile_name = "none"
    try:
        quality = (
            jpeg_quality(getattr(image, "quantization", None) or {}) if kind == "jpeg" else None
        )
        saving = _saving(image) if kind == "jpeg" else None
        deep = is_deep(image, kind, data)
        pages = int(getattr(image, "n_frames", 1))
        orientation = orientation_of(image)
        if deep:
            pixels = _decode_deep(data, kind, name)
            if profile_bytes:
                pixels, profile_name = deep_to_srgb(pixels, profile_bytes)
            pixels = _turn(pixels, orientation)
        else:
            image.load()
            image = _over_grey(image)
            if profile_bytes:
                image, profile_name = to_srgb(image, profile_bytes)
            # Either makes a copy, even where there is nothing to do.
            upright = ImageOps.exif_transpose(image) if orientation != 1 else image
            pixels = np.asarray(upright if upright.mode == "RGB" else upright.convert("RGB"))
    except Refused:
        raise
    except BROKEN as error:
        raise Refused(f"{name}: is damaged or cut short") from error
    return Picture(
        np.ascontiguousarray(pixels),
        digest,
        kind,
        16 if deep else 8,
        profile_name,
        mode,
        quality,
        pages,
        saving if orientation == 1 and not profile_bytes else None,
    )


def _saving(image: Image.Image) -> Saving | None:
    """How a JPEG in colour was compressed; None for any that is not common."""
    from PIL import JpegImagePlugin

    tables = getattr(image, "quantization", None)
    sampling = JpegImagePlugin.get_sampling(image) if image.mode == "RGB" else -1
    if not tables or sampling not in (0, 1, 2):
        return None
    return Saving({int(number): list(table) for number, table in tables.items()}, sampling)


def orientation_of(image: Image.Image) -> int:
    """EXIF 2.32, tag 0x0112; 1 where it is missing or no orientation."""
    try:
        found = int(image.getexif().get(0x0112, 1) or 1)
    except BROKEN:
        return 1
    return found if 1 <= found <= 8 else 1


def is_deep(image: Image.Image, kind: str, data: bytes) -> bool:
    """Whether a file has 16 bits a channel."""
    if kind == "png":
        # Byte 24 of a PNG is the bit depth of its header; Pillow reads 16 bit colour down to 8
        # without a word.
        return data[24:25] == b"\x10"
    if kind == "tiff":
        bits = image.tag_v2.get(258, (8,))  # type: ignore[attr-defined]
        return max(bits if isinstance(bits, tuple) else (bits,)) > 8
    return False


def _decode_deep(data: bytes, kind: str, name: str) -> np.ndarray:
    flat = cv2.imdecode(
        np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED | cv2.IMREAD_IGNORE_ORIENTATION
    )
    if flat is None:
        raise Refused(f"{name}: is damaged or cut short")
    if flat.dtype != np.uint16:
        raise Refused(f"{name}: has {flat.dtype} samples; 8 and 16 bit integers are read")
    if flat.ndim == 2:
        return np.repeat(flat[..., None], 3, axis=2)
    if flat.shape[2] == 4:
        alpha = flat[..., 3:].astype(np.float32) / 65535
        return (
            (flat[..., 2::-1] * alpha + UNDER_ALPHA * 257 * (1 - alpha)).round().astype(np.uint16)
        )
    return flat[..., ::-1]


def _over_grey(image: Image.Image) -> Image.Image:
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        profile = image.info.get("icc_profile")
        rgba = image.convert("RGBA")
        under = Image.new("RGBA", rgba.size, (UNDER_ALPHA,) * 3 + (255,))
        exif = image.getexif()
        image = Image.alpha_composite(under, rgba).convert("RGB")
        if profile:
            image.info["icc_profile"] = profile
        image.getexif().update(exif)
    return image if image.mode in ("RGB", "L", "CMYK") else image.convert("RGB")


def _turn(pixels: np.ndarray, orientation: int) -> np.ndarray:
    """EXIF 2.32, tag 0x0112."""
    if orientation in (2, 4, 5, 7):
        pixels = pixels[:, ::-1] if orientation in (2, 5, 7) else pixels[::-1]
    turns = {3: 2, 5: 1, 6: 3, 7: 3, 8: 1}.get(orientation, 0)
    return np.rot90(pixels, turns) if turns else pixels
