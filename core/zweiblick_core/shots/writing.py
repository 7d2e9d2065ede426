"""Frames written as a video that loses nothing: FFV1 (RFC 9043) in Matroska (RFC 9559), as R'G'B'."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np


def write_shot(path: Path, frames: Iterable[np.ndarray], rate: Fraction) -> int:
    """Write frames, which read back equal to the bit.

    Args:
        path: of the file, which ends with .mkv.
        frames: uint8 or uint16 (height, width, 3), all of one kind.
        rate: frames a second.

    Returns:
        How many were written.
    """
    count = 0
    with av.open(str(path), "w", format="matroska") as container:
        stream = None
        for pixels in frames:
            deep = pixels.dtype == np.uint16
            if stream is None:
                stream = container.add_stream(
                    "ffv1", rate=rate, options={"level": "3", "slicecrc": "1", "g": "1"}
                )
                stream.height, stream.width = pixels.shape[:2]
                stream.pix_fmt = "gbrp16le" if deep else "bgr0"
                stream.thread_type = "AUTO"
            given = av.VideoFrame.from_ndarray(
                np.ascontiguousarray(pixels), format="rgb48le" if deep else "rgb24"
            )
            container.mux(stream.encode(given.reformat(format=stream.pix_fmt)))
            count += 1
        if stream is not None:
            container.mux(stream.encode())
    return count
