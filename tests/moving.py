"""Shots for tests: frames in memory, on disk, and in video files."""

from __future__ import annotations

from fractions import Fraction
from functools import cache
from pathlib import Path

import av
import cv2
import numpy as np
from builders import png

from demo.filmed import Made, Scene, filmed
from zweiblick_core.io import read
from zweiblick_core.shots.frames import Shot

WALL = Path(__file__).parent.parent / "demo" / "pictures" / "quay-truth.jpg"


def shot_of(frames: list[np.ndarray], name: str = "shot", rate: int = 24) -> Shot:
    """Frames in memory as a shot."""
    height, width = frames[0].shape[:2]
    return Shot(name, "pictures", len(frames), width, height, 8, Fraction(rate), 0, (), frames)


def numbered_in(folder: Path, frames: list[np.ndarray], first: int = 1) -> Path:
    """Frames as numbered PNGs."""
    folder.mkdir(parents=True, exist_ok=True)
    for number, frame in enumerate(frames, first):
        (folder / f"quay.{number:04}.png").write_bytes(png(frame))
    return folder


def video_in(path: Path, frames: list[np.ndarray], codec: str, form: str, **options: str) -> Path:
    """Frames as a video file; `options` of the codec, and `colorspace` and `color_range` by number."""
    stated = {name: options.pop(name) for name in ("colorspace", "color_range") if name in options}
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=24, options=options)
        stream.height, stream.width = frames[0].shape[:2]
        stream.pix_fmt = form
        for name, value in stated.items():
            setattr(stream.codec_context, name, int(value))
        for frame in frames:
            given = av.VideoFrame.from_ndarray(frame, format="rgb24")
            if stated:
                given = given.reformat(
                    format=form,
                    dst_colorspace=int(stated.get("colorspace", 1)),
                    dst_color_range=int(stated.get("color_range", 1)),
                )
            container.mux(stream.encode(given))
        container.mux(stream.encode())
    return path


@cache
def wall() -> np.ndarray:
    """What the camera pans over, uint8."""
    pixels = read(str(WALL)).pixels
    half = cv2.resize(pixels, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    return half[200:480, 300:720]


@cache
def film(fault: str = "", amount: float = 1.0, **scene: float) -> Made:
    """A short shot over the wall with one fault, or none."""
    given = {"frames": 36, "shape": (200, 260), "radius": 26, "passing": False, **scene}
    return filmed(wall(), Scene(**given), fault, amount)
