"""Across the Quay: the demo's shot. A camera is carried along the quay wall by hand while the light changes
and a mast passes in front; a buoy has to go. Four attempts, each with another fault.
"""

from __future__ import annotations

import io
import zipfile
from dataclasses import dataclass
from functools import lru_cache

import av
import cv2
import numpy as np

from demo.filmed import Made, Scene, filmed
from demo.rendered import PICTURES
from zweiblick_core.io import read

NAME = "Across the quay"
RATE = 24
_SCENE = Scene(
    frames=72,
    shape=(360, 640),
    pan=1.5,
    shake=0.9,
    grain=1.4,
    light=0.18,
    radius=42,
    wave=1.5,
    seed=11,
)
#: Rate factor of x264: nearly without loss.
_CRF = "13"


@dataclass(frozen=True)
class Attempt:
    """One of the demo's attempts: who made it how, and what is wrong with it."""

    file: str
    method: str
    maker: str
    fault: str
    amount: float


ATTEMPTS = (
    Attempt("quay-shot_tracked-fill.mp4", "tracked fill", "Mona Reiff", "drift", 2.0),
    Attempt("quay-shot_frame-by-frame.mp4", "frame by frame", "Fortnimm", "flicker", 2.5),
    Attempt("quay-shot_clean-plate.mp4", "clean plate", "Mona Reiff", "light", 1.5),
    Attempt("quay-shot_by-hand.mp4", "painted by hand", "Mona Reiff", "occlusion", 1.0),
)
ORIGINAL = "quay-shot_original.mp4"
MASKS = "quay-shot_mask.zip"


@lru_cache(maxsize=1)
def _ground() -> np.ndarray:
    pixels = read(str(PICTURES / "quay-truth.jpg")).pixels
    return cv2.resize(pixels, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)


@lru_cache(maxsize=2)
def _made(fault: str, amount: float) -> Made:
    return filmed(_ground(), _SCENE, fault, amount)


def attempt_file(number: int) -> bytes:
    """The video of an attempt, counted from 0."""
    attempt = ATTEMPTS[number]
    return video(_made(attempt.fault, attempt.amount).result)


def original_file() -> bytes:
    """The video of the original."""
    return video(_made("", 1.0).original)


def masks_file() -> bytes:
    """A ZIP with the mask of the first frame."""
    mask = _made("", 1.0).masks[0].astype(np.uint8) * 255
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        file.writestr("quay-shot_mask.0000.png", cv2.imencode(".png", mask)[1].tobytes())
    return out.getvalue()


def video(frames: list[np.ndarray]) -> bytes:
    """Frames as an H.264 video."""
    out = io.BytesIO()
    with av.open(out, "w", format="mp4") as container:
        stream = container.add_stream("libx264", rate=RATE, options={"crf": _CRF})
        stream.height, stream.width = frames[0].shape[:2]
        stream.pix_fmt = "yuv420p"
        for frame in frames:
            container.mux(stream.encode(av.VideoFrame.from_ndarray(frame, format="rgb24")))
        container.mux(stream.encode())
    return out.getvalue()
