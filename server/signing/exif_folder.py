"""Putting an EXIF folder into a TIFF that was written without one.

A TIFF is a header that points to a directory of tags, each of which holds its value or says where in
the file it lies (TIFF 6.0, 1992, section 2). EXIF is a directory of its own that one tag points to
(Exif 2.32, CIPA DC-008-2019, 4.6.3). Everything that was there keeps its place: the EXIF folder and
a directory with one tag more are put at the end, and the header points to that.
"""

from __future__ import annotations

import io
import struct
from typing import Any

from PIL import Image
from PIL.TiffImagePlugin import ImageFileDirectory_v2

_EXIF, _GPS, _INTEROPERABILITY = 0x8769, 0x8825, 0xA005
_LONG = 4
#: What describes the encoding of a JPEG rather than the photograph, or points into its own file.
_LEFT_OUT = {0xA002, 0xA003, 0x927C, _INTEROPERABILITY}


def with_exif(tiff: bytes, exif: bytes) -> bytes:
    """A TIFF with the EXIF and GPS folders of an EXIF block. Maker's notes are left out: their
    addresses hold only in the file that they were written in.

    Args:
        tiff: a classic TIFF (below 4 gigabytes) of one picture.
        exif: as JPEG and PNG carry it, with or without "Exif" and two zeros before it.

    Returns: the TIFF as it was where the block is empty or cannot be read.
    """
    folders = _folders(exif)
    order = {b"II": "<", b"MM": ">"}.get(tiff[:2])
    if not folders or order is None or struct.unpack_from(f"{order}H", tiff, 2)[0] != 42:
        return tiff
    made = bytearray(tiff)
    tags = []
    for tag, folder in folders.items():
        _even(made)
        at = len(made)
        made += _packed(folder, order, at)
        tags.append(struct.pack(f"{order}HHLL", tag, _LONG, 1, at))
    _even(made)
    where = len(made)
    (first,) = struct.unpack_from(f"{order}L", tiff, 4)
    (count,) = struct.unpack_from(f"{order}H", tiff, first)
    known = [tiff[first + 2 + 12 * n : first + 14 + 12 * n] for n in range(count)]
    kept = [row for row in known if struct.unpack_from(f"{order}H", row)[0] not in folders]
    rows = sorted((*kept, *tags), key=lambda row: int(struct.unpack_from(f"{order}H", row)[0]))
    following = tiff[first + 2 + 12 * count : first + 6 + 12 * count]
    made += struct.pack(f"{order}H", len(rows)) + b"".join(rows) + following
    struct.pack_into(f"{order}L", made, 4, where)
    return bytes(made)


def _even(made: bytearray) -> None:
    """Directories begin at even addresses."""
    if len(made) % 2:
        made.append(0)


def _folders(exif: bytes) -> dict[int, dict[int, Any]]:
    """The folders of an EXIF block that hold anything, by the tag that points to them."""
    known = Image.Exif()
    try:
        known.load(exif)
        found = {tag: dict(known.get_ifd(tag)) for tag in (_EXIF, _GPS)}
    except (SyntaxError, ValueError, TypeError, struct.error, KeyError, io.UnsupportedOperation):
        return {}
    kept = {
        tag: {name: value for name, value in folder.items() if name not in _LEFT_OUT}
        for tag, folder in found.items()
    }
    return {tag: folder for tag, folder in kept.items() if folder}


def _packed(folder: dict[int, Any], order: str, at: int) -> bytes:
    """A folder's bytes as they stand at an address of a file."""
    made = ImageFileDirectory_v2(b"II*\0\0\0\0\0" if order == "<" else b"MM\0*\0\0\0\0")
    for tag, value in folder.items():
        made[tag] = value
    packed: bytes = made.tobytes(at)
    return packed
