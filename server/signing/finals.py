"""The final picture: the result in the original's geometry, depth, profile and metadata."""

from __future__ import annotations

import io
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pyvips
import tifffile

from images.decoding import blob_bytes, decoded
from images.models import Image
from zweiblick_core import __version__ as core_version
from zweiblick_core.align import Alignment, resampled_onto

from .exif_folder import with_exif

#: Blocks of metadata that go over as they are.
_BLOCKS = ("exif-data", "xmp-data", "iptc-data")
_PROFILE = "icc-profile-data"
#: Tags of a camera's and an author's that TIFF holds itself; vips' name, the tag's number.
_TIFF_TAGS = {
    "exif-ifd0-Make": 271,
    "exif-ifd0-Model": 272,
    "exif-ifd0-Artist": 315,
    "exif-ifd0-Copyright": 33432,
}


@dataclass(frozen=True)
class Final:
    """A picture that leaves.

    Attributes:
        image: as pyvips holds it, upright, with the original's profile and metadata.
        done: what was done to the result to bring it there, one clause each; empty: nothing.
    """

    image: Any
    done: tuple[str, ...]

    @property
    def pixels(self) -> np.ndarray:
        """uint8 or uint16 (height, width, 3), in the original's own profile."""
        made: np.ndarray = self.image.numpy()
        return made


def final_of(original: Image, result: Image, alignment: Alignment) -> Final:
    """A result as it leaves: where it lies in the original's frame, has its depth and its profile,
    its pixels are the result's to the bit.
    """
    model = pyvips.Image.new_from_buffer(blob_bytes(original.blob), "").autorot()
    done: list[str] = []
    if alignment.kind == "same":
        made = pyvips.Image.new_from_buffer(blob_bytes(result.blob), "").autorot()
    else:
        placed = resampled_onto(decoded(original.blob), decoded(result.blob), alignment)
        made = pyvips.Image.new_from_array(placed).copy(
            interpretation="rgb16" if placed.dtype == np.uint16 else "srgb"
        )
        done.append("resampled into the original's frame")
    made = _three_bands(made, done)
    made = _in_profile(made, model, done)
    made = _in_depth(made, model, done)
    return Final(_described(made, model), tuple(done))


def _three_bands(image: Any, done: list[str]) -> Any:
    if image.hasalpha():
        image = image.flatten(background=[119 if image.format == "uchar" else 119 * 257])
        done.append("transparency laid over mid-grey")
    if image.bands == 1:
        wide = image.bandjoin([image, image])
        image = wide.copy(interpretation="rgb16" if image.format == "ushort" else "srgb")
    return image


def _block(image: Any, name: str) -> bytes | None:
    return bytes(image.get(name)) if name in image.get_fields() else None


def _in_profile(image: Any, model: Any, done: list[str]) -> Any:
    """In the original's profile; in sRGB where that is not one of RGB."""
    mine, wanted = _block(image, _PROFILE), _block(model, _PROFILE)
    if model.bands != 3 and not (model.bands == 4 and model.hasalpha()):
        wanted = None
    if mine == wanted or (mine is None and image.bands == 3 and wanted is None):
        return image
    with tempfile.NamedTemporaryFile(suffix=".icc") as file:
        if wanted is not None:
            Path(file.name).write_bytes(wanted)
        depth = 16 if image.format == "ushort" else 8
        moved = image.icc_transform(
            file.name if wanted is not None else "srgb",
            embedded=mine is not None,
            input_profile="srgb",
            intent="relative",
            depth=depth,
        ).copy_memory()
    done.append(f"converted to {'the original’s profile' if wanted else 'sRGB'}")
    return moved


def _in_depth(image: Any, model: Any, done: list[str]) -> Any:
    if image.format == model.format or model.format not in ("uchar", "ushort"):
        return image
    if model.format == "ushort":
        done.append("given 16 bits; it was made with 8")
        return (image * 257).cast("ushort").copy(interpretation="rgb16")
    done.append("rounded to the original's 8 bits")
    return (image / 257).rint().cast("uchar").copy(interpretation="srgb")


def _described(image: Any, model: Any) -> Any:
    """With the original's profile, metadata and resolution, and a line of where it comes from."""
    made = image.copy(xres=model.xres, yres=model.yres)
    for name in made.get_fields():
        if name.startswith(("exif-", "png-", "xmp-", "iptc-")) or name in _BLOCKS:
            made.remove(name)
    profile = _block(model, _PROFILE)
    if model.bands < 3 or (model.bands == 4 and not model.hasalpha()):
        profile = None
    if profile is not None:
        made.set_type(pyvips.GValue.blob_type, _PROFILE, profile)
    elif _PROFILE in made.get_fields():
        made.remove(_PROFILE)
    for name in _BLOCKS:
        block = _block(model, name)
        if block is not None:
            made.set_type(pyvips.GValue.blob_type, name, block)
    for name in model.get_fields():
        if name.startswith("exif-ifd"):
            made.set_type(pyvips.GValue.gstr_type, name, str(model.get(name)))
    made.set_type(pyvips.GValue.gstr_type, "exif-ifd0-Software", _software())
    made.set_type(pyvips.GValue.gint_type, "orientation", 1)
    return made


def _software() -> str:
    return f"Zweiblick {core_version}: things removed, examined and signed off"


def as_tiff(final: Final) -> bytes:
    """TIFF of the original's depth, deflated, with its profile, EXIF and XMP; camera, author and
    rights stand in TIFF's own tags.
    """
    image = final.image
    extra: list[tuple[int, str, int, Any, bool]] = []
    for name, tag in _TIFF_TAGS.items():
        if name in image.get_fields():
            # vips adds what it makes of a value in brackets.
            extra.append((tag, "s", 0, str(image.get(name)).split(" (")[0], True))
    packet = _block(image, "xmp-data")
    if packet:
        extra.append((700, "B", len(packet), packet, True))
    made = io.BytesIO()
    tifffile.imwrite(
        made,
        final.pixels,
        photometric="rgb",
        compression="zlib",
        predictor=True,
        iccprofile=_block(image, _PROFILE),
        resolution=(image.xres * 25.4, image.yres * 25.4),
        resolutionunit="INCH",
        software=_software(),
        extratags=extra,
        metadata=None,
    )
    exif = _block(image, "exif-data")
    return with_exif(made.getvalue(), exif) if exif else made.getvalue()


def as_png(final: Final) -> bytes:
    """PNG of the original's depth, with its profile, EXIF and XMP."""
    return bytes(final.image.pngsave_buffer(compression=6))


def as_jpeg(final: Final, quality: int) -> bytes:
    """JPEG, 8 bits, without chroma subsampling, with the original's profile, EXIF and XMP."""
    image = final.image
    if image.format == "ushort":
        image = (image / 257).rint().cast("uchar").copy(interpretation="srgb")
    return bytes(image.jpegsave_buffer(Q=quality, subsample_mode="off", optimize_coding=True))


def resized(final: Final, scale: float, dpi: float) -> Any:
    """In sRGB, 8 bits, at a delivery size: resampled in linear light (Lanczos); never enlarged.

    Args:
        scale: output pixels for one of the original.
        dpi: output pixels an inch, written as the resolution; 0: as the original's.
    """
    image = final.image
    if _PROFILE in image.get_fields():
        image = image.icc_transform("srgb", embedded=True, intent="relative", depth=16)
    linear = image.colourspace("scrgb")
    if scale < 1:
        linear = linear.resize(scale, kernel="lanczos3")
    made = linear.colourspace("srgb").cast("uchar").copy()
    for name in made.get_fields():
        if name == _PROFILE or name.startswith(("exif-", "xmp-", "iptc-")):
            made.remove(name)
    return made.copy(xres=dpi / 25.4, yres=dpi / 25.4) if dpi else made
