"""Picture files to upright sRGB arrays.

Reads JPEG, PNG and TIFF, applies the EXIF orientation, converts an embedded profile to sRGB, and
lays transparency
over mid-grey. What cannot be read is refused with one plain line and nothing half-read is returned.
"""

from __future__ import annotations

import hashlib
import io
import struct
import warnings
import weakref
import zlib
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageCms, ImageOps

from .errors import Refused

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


@dataclass(frozen=True)
class Saving:
    """What makes a JPEG encoder's result: quantisation tables by number, and the chroma
    subsampling (0: none, 1: 4:2:2, 2: 4:2:0).
    """

    tables: dict[int, list[int]]
    subsampling: int


@dataclass(frozen=True)
class Picture:
    """One decoded picture.

    Attributes:
        pixels: uint8 or uint16 array (height, width, 3), sRGB, upright; uint16 uses the full
            0..65535.
        sha256: hash of the file's bytes, hex.
        format: "jpeg", "png" or "tiff".
        depth: bits a channel in the file, 8 or 16.
        profile: name of the embedded profile, or "none".
        mode: how the file stored colour, for instance "RGB", "L", "CMYK", "RGBA".
        jpeg_quality: estimated quality 1..100 from the quantisation table, or None.
        pages: pages or frames in the file, of which the first was read.
        saving: how a JPEG was compressed, where its pixels are as they were stored (neither turned
            nor converted from another profile); None for all others.
    """

    pixels: np.ndarray
    sha256: str
    format: str
    depth: int
    profile: str
    mode: str
    jpeg_quality: int | None
    pages: int = 1
    saving: Saving | None = None

    @property
    def width(self) -> int:
        """Pixels."""
        return int(self.pixels.shape[1])

    @property
    def height(self) -> int:
        """Pixels."""
        return int(self.pixels.shape[0])

    def facts(self) -> dict[str, object]:
        """What the report says about this input."""
        return {
            "sha256": self.sha256,
            "width": self.width,
            "height": self.height,
            "format": self.format,
            "depth": self.depth,
            "profile": self.profile,
            "mode": self.mode,
            "jpeg_quality": self.jpeg_quality,
            **({"pages": self.pages} if self.pages > 1 else {}),
        }


def jpeg_quality(tables: dict[int, list[int]]) -> int | None:
    """Quality 1..100 whose scaled luminance table (ITU-T T.81, annex K, as scaled by libjpeg) comes
    nearest.

    Args:
        tables: quantisation tables by number, 64 integers each.
    """
    if not tables:
        return None
    table = np.sort(np.asarray(tables[min(tables)], dtype=float))
    base = np.sort(
        np.array(
            [
                16,
                11,
                10,
                16,
                24,
                40,
                51,
                61,
                12,
                12,
                14,
                19,
                26,
                58,
                60,
                55,
                14,
                13,
                16,
                24,
                40,
                57,
                69,
                56,
                14,
                17,
                22,
                29,
                51,
                87,
                80,
                62,
                18,
                22,
                37,
                56,
                68,
                109,
                103,
                77,
                24,
                35,
                55,
                64,
                81,
                104,
                113,
                92,
                49,
                64,
                78,
                87,
                103,
                121,
                120,
                101,
                72,
                92,
                95,
                98,
                112,
                100,
                103,
                99,
            ],
            dtype=float,
        )
    )
    qualities = np.arange(1, 101)
    scale = np.where(qualities < 50, 5000 / qualities, 200 - 2 * qualities)
    candidates = np.clip(np.floor((base[None, :] * scale[:, None] + 50) / 100), 1, 255)
    return int(qualities[np.argmin(np.abs(candidates - table[None, :]).sum(1))])


def read(source: Path | str | bytes, most_pixels: int = MOST_PIXELS) -> Picture:
    """Read one picture file.

    Args:
        source: path of the file, or its bytes.
        most_pixels: refuse larger pictures, in pixels.

    Raises:
        Refused: not a picture, truncated, a format we do not read, or too many pixels.
    """
    if isinstance(source, bytes):
        data, name = source, "the file"
    else:
        name = Path(source).name
        try:
            data = Path(source).read_bytes()
        except OSError as error:
            raise Refused(f"{name}: cannot be opened ({error.strerror or error})") from error
    if not data:
        raise Refused(f"{name}: is empty")
    digest = hashlib.sha256(data).hexdigest()
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        with _opened(data, name) as image:
            kind = _accepted(image, name, most_pixels)
            return _decode(image, kind, data, name, digest)


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
        with _opened(data, "the file") as image:
            kind = _accepted(image, "the file", most_pixels)
            return Header(image.width, image.height, kind)


#: What Pillow raises for files that are cut short, damaged or made to do harm.
_BROKEN = (
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


def _opened(data: bytes, name: str) -> Image.Image:
    try:
        return Image.open(io.BytesIO(data))
    except _BROKEN as error:
        raise Refused(f"{name}: is not a picture that can be read (JPEG, PNG or TIFF)") from error


def _accepted(image: Image.Image, name: str, most_pixels: int) -> str:
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


def _decode(image: Image.Image, kind: str, data: bytes, name: str, digest: str) -> Picture:
    mode, profile_bytes = image.mode, image.info.get("icc_profile")
    profile_name = "none"
    try:
        quality = (
            jpeg_quality(getattr(image, "quantization", None) or {}) if kind == "jpeg" else None
        )
        saving = _saving(image) if kind == "jpeg" else None
        deep = _is_deep(image, kind, data)
        pages = int(getattr(image, "n_frames", 1))
        orientation = _orientation(image)
        if deep:
            pixels = _decode_deep(data, kind, name)
            if profile_bytes:
                pixels, profile_name = _deep_to_srgb(pixels, profile_bytes)
            pixels = _turn(pixels, orientation)
        else:
            image.load()
            image = _over_grey(image)
            if profile_bytes:
                image, profile_name = _to_srgb(image, profile_bytes)
            # Either makes a copy, even where there is nothing to do.
            upright = ImageOps.exif_transpose(image) if orientation != 1 else image
            pixels = np.asarray(upright if upright.mode == "RGB" else upright.convert("RGB"))
    except Refused:
        raise
    except _BROKEN as error:
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


def _orientation(image: Image.Image) -> int:
    """EXIF 2.32, tag 0x0112; 1 where it is missing or no orientation."""
    try:
        found = int(image.getexif().get(0x0112, 1) or 1)
    except _BROKEN:
        return 1
    return found if 1 <= found <= 8 else 1


def _is_deep(image: Image.Image, kind: str, data: bytes) -> bool:
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


def _to_srgb(image: Image.Image, profile_bytes: bytes) -> tuple[Image.Image, str]:
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


def _deep_to_srgb(pixels: np.ndarray, profile_bytes: bytes) -> tuple[np.ndarray, str]:
    """Pillow's colour engine handles 8 bits; the conversion's *difference* is smooth, so it is
    applied to the 16 bit values.
    """
    profile = _profile(profile_bytes)
    if profile is None:
        return pixels, "unreadable"
    coarse = Image.fromarray((pixels >> 8).astype(np.uint8), "RGB")
    converted, name = _to_srgb(coarse, profile_bytes)
    shift = np.asarray(converted, np.int32) - (pixels >> 8).astype(np.int32)
    smooth = cv2.blur(shift.astype(np.float32), (3, 3)) * 257
    return np.clip(pixels + smooth, 0, 65535).round().astype(np.uint16), name


def _turn(pixels: np.ndarray, orientation: int) -> np.ndarray:
    """EXIF 2.32, tag 0x0112."""
    if orientation in (2, 4, 5, 7):
        pixels = pixels[:, ::-1] if orientation in (2, 5, 7) else pixels[::-1]
    turns = {3: 2, 5: 1, 6: 3, 7: 3, 8: 1}.get(orientation, 0)
    return np.rot90(pixels, turns) if turns else pixels


def eight_bit(pixels: np.ndarray) -> np.ndarray:
    """Any crop as float32 0..255, whatever its depth: uint8, uint16 of 0..65535, or float32 that is
    so already.
    """
    return (
        pixels.astype(np.float32, copy=False)
        if pixels.dtype != np.uint16
        else pixels.astype(np.float32) / 257.0
    )


#: Pictures of more pixels than this are averaged by four once, for all that look at less of them.
_LARGE = 4_000_000
_quarters: dict[int, tuple[weakref.ref[np.ndarray], np.ndarray]] = {}


def _quarter(pixels: np.ndarray) -> np.ndarray:
    """A decoded picture at a quarter of its width and height, kept as long as the picture itself
    is. Decoded pixels are never written to.
    """
    known = _quarters.get(id(pixels))
    if known is not None and known[0]() is pixels:
        return known[1]
    rows, columns = pixels.shape[0] // 4, pixels.shape[1] // 4
    small = pixels[: rows * 4, : columns * 4]
    # Twice by half: that is twice as quick as once by four.
    for part in (2, 1):
        small = cv2.resize(small, (columns * part, rows * part), interpolation=cv2.INTER_AREA)
    key = id(pixels)
    _quarters[key] = (weakref.ref(pixels, lambda _: _quarters.pop(key, None)), small)
    return small


def share_of(mask: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """How much of each place of (width, height) is True in a bool mask of at least that size, uint8
    0..255; by whole blocks first, which is quick.
    """
    block = max(1, min(mask.shape[0] // size[1], mask.shape[1] // size[0]))
    rows, columns = mask.shape[0] // block, mask.shape[1] // block
    plane = np.full((rows, columns), 255, np.uint8)
    # Most masks are True all over but for a region or two: only there is anything to count.
    here = _blocks(np.asarray(~mask[: rows * block, : columns * block].all(axis=1)), block)
    there = _blocks(
        np.asarray(~mask[here.start * block : here.stop * block, : columns * block].all(axis=0)),
        block,
    )
    if there.stop:
        part = mask[
            here.start * block : here.stop * block, there.start * block : there.stop * block
        ].view(np.uint8) * np.uint8(255)
        plane[here, there] = cv2.resize(
            part, (there.stop - there.start, here.stop - here.start), interpolation=cv2.INTER_AREA
        )
    return (
        plane
        if plane.shape[1::-1] == size
        else cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
    )


def _blocks(some: np.ndarray, block: int) -> slice:
    """The blocks from the first to the last of some (bool) places in a row; slice(0, 0) for none."""
    at = np.flatnonzero(some)
    return slice(int(at[0]) // block, int(at[-1]) // block + 1) if len(at) else slice(0, 0)


def shrunk(pixels: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """A picture averaged down to (width, height), uint8 or uint16 as it is: by whole blocks first,
    which is quick, then to the exact size.

    A larger size than the picture's is given back as it is.
    """
    if size[0] >= pixels.shape[1] and size[1] >= pixels.shape[0]:
        return pixels
    if (
        pixels.shape[0] * pixels.shape[1] > _LARGE
        and size[0] * 4 <= pixels.shape[1]
        and size[1] * 4 <= pixels.shape[0]
    ):
        pixels = _quarter(pixels)
    block = max(1, min(pixels.shape[0] // size[1], pixels.shape[1] // size[0]))
    if block > 1:
        height, width = pixels.shape[0] // block * block, pixels.shape[1] // block * block
        pixels = cv2.resize(
            pixels[:height, :width], (width // block, height // block), interpolation=cv2.INTER_AREA
        )
    return (
        pixels
        if pixels.shape[1::-1] == size
        else cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    )


def read_mask(
    source: Path | str | bytes, shape: tuple[int, int], most_pixels: int = MOST_PIXELS
) -> np.ndarray:
    """A mask file as a bool array: white (at least half) is where something was to be removed.

    Args:
        source: path or bytes of a picture file.
        shape: (height, width) it must have.
        most_pixels: refuse larger ones, in pixels.

    Raises:
        Refused: unreadable, another size, or nothing marked.
    """
    picture = read(source, most_pixels)
    name = "the mask" if isinstance(source, bytes) else Path(source).name
    if picture.pixels.shape[:2] != shape:
        raise Refused(
            f"{name}: is {picture.width}x{picture.height}, the original is {shape[1]}x{shape[0]}"
        )
    top = 65535 if picture.depth == 16 else 255
    mask = picture.pixels.max(axis=2) >= top / 2
    if not mask.any():
        raise Refused(f"{name}: marks nothing")
    return mask
