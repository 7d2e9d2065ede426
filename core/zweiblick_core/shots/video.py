"""Frames of a video file, decoded by FFmpeg's libraries through PyAV; R'G'B' by the matrix and range
that the file states.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.container.input import InputContainer
from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace, VideoReformatter

from ..errors import Refused
from .frames import Shot, counted_to

#: Containers that are read, by what their files begin with. Anything else is refused unopened: some
#: that FFmpeg knows are lists of further files and addresses.
_CONTAINERS = (
    (re.compile(rb"....ftyp|....(?:moov|mdat|wide|free|skip)", re.DOTALL), "mov"),
    (re.compile(rb"\x1a\x45\xdf\xa3"), "matroska"),
    (re.compile(rb"RIFF....AVI ", re.DOTALL), "avi"),
)
#: So many bytes tell a container.
BEGINNING = 16
#: Matrices as ITU-T H.273 numbers them (MatrixCoefficients), as FFmpeg's scaler knows them.
_MATRICES = {1: Colorspace.ITU709, 5: Colorspace.ITU601, 6: Colorspace.ITU601, 9: Colorspace.BT2020}
_CALLED = {
    Colorspace.ITU709: "BT.709",
    Colorspace.ITU601: "BT.601",
    Colorspace.BT2020: "BT.2020",
}
#: Pictures of fewer rows are taken for BT.601 where a file does not say (as players do).
_HIGH_DEFINITION = 720
#: How far a frame may come from its turn, parts of a frame's time.
_JITTER = 0.6


@dataclass(frozen=True)
class Decoded:
    """The frames of one file's first video stream.

    Attributes:
        matrix, scale: as is said by the file, or as players take it to be.
        deep: whether frames have more than 8 bits.
        times: when each frame is shown, ascending, in the stream's unit.
    """

    path: Path
    matrix: Colorspace
    scale: ColorRange
    deep: bool
    times: tuple[int, ...]

    def __iter__(self) -> Iterator[np.ndarray]:
        reformatter = VideoReformatter()
        try:
            with _opened(self.path) as container:
                stream = container.streams.video[0]
                stream.thread_type = "AUTO"
                for frame in container.decode(stream):
                    yield self._rgb(reformatter, frame)
        except av.FFmpegError as error:
            raise Refused(f"{self.path.name}: cannot be decoded ({error.strerror})") from error

    def at(self, number: int) -> np.ndarray:
        """One frame, counted from 0: decoded from the key frame before it.

        Raises:
            IndexError: there is none. Refused: it cannot be decoded.
        """
        wanted = self.times[number]
        try:
            with _opened(self.path) as container:
                stream = container.streams.video[0]
                container.seek(wanted, stream=stream)
                for frame in container.decode(stream):
                    if frame.pts == wanted:
                        return self._rgb(VideoReformatter(), frame)
                    if frame.pts is not None and frame.pts > wanted:
                        break
        except av.FFmpegError as error:
            raise Refused(f"{self.path.name}: cannot be decoded ({error.strerror})") from error
        # Where an index of key frames is wrong the frame is met all the same from the beginning.
        return counted_to(self, number)

    def _rgb(self, reformatter: VideoReformatter, frame: VideoFrame) -> np.ndarray:
        wanted = "rgb48le" if self.deep else "rgb24"
        if frame.format.is_rgb:
            return reformatter.reformat(frame, format=wanted).to_ndarray()
        return reformatter.reformat(
            frame,
            format=wanted,
            src_colorspace=self.matrix,
            dst_colorspace=self.matrix,
            src_color_range=self.scale,
            dst_color_range=ColorRange.JPEG,
        ).to_ndarray()


def container_of(start: bytes) -> str | None:
    """The container of a file that begins so, as FFmpeg calls its reader; None if it is none that is
    read. Args: start: at least its first `BEGINNING` bytes.
    """
    return next((name for begins, name in _CONTAINERS if begins.match(start)), None)


def _opened(path: Path) -> InputContainer:
    """Raises: Refused: it is no video that is read."""
    with path.open("rb") as file:
        container = container_of(file.read(BEGINNING))
    if container is None:
        raise Refused(f"{path.name}: is no video; MP4, QuickTime, Matroska and AVI files are read")
    return av.open(str(path), format=container)


def open_video(path: Path) -> Shot:
    """A shot from a video file. Its frames are counted by their packets, without being decoded.

    Raises:
        Refused: it is no video, has no frames, or frames of varying length.
    """
    try:
        with _opened(path) as container:
            if not container.streams.video:
                raise Refused(f"{path.name}: has no video")
            stream = container.streams.video[0]
            context = stream.codec_context
            rate = stream.average_rate or stream.guessed_rate
            if not rate:
                raise Refused(f"{path.name}: does not say how many frames a second it has")
            times = sorted(
                packet.pts for packet in container.demux(stream) if packet.pts is not None
            )
            base = stream.time_base or Fraction(1, 1)
            if context.format is None:
                raise Refused(f"{path.name}: does not say how its pixels are stored")
            depth = max((part.bits for part in context.format.components), default=8)
            matrix, said = _matrix_of(int(context.colorspace), context.height)
            scale, in_words = _range_of(int(context.color_range), context.format.name)
            form = context.name
            width, height = context.width, context.height
    except av.FFmpegError as error:
        raise Refused(f"{path.name}: is no video that can be read ({error.strerror})") from error
    except OSError as error:
        raise Refused(f"{path.name}: cannot be opened ({error.strerror or error})") from error
    if len(times) < 2:
        raise Refused(f"{path.name}: is a single picture, not a shot")
    _refuse_varying(path.name, times, float(base * rate))
    facts = (f"matrix: {said}", f"range: {in_words}")
    frames = Decoded(path, matrix, scale, depth > 8, tuple(times))
    return Shot(path.name, form, len(times), width, height, depth, Fraction(rate), 0, facts, frames)


def _matrix_of(stated: int, height: int) -> tuple[Colorspace, str]:
    if stated in _MATRICES:
        return _MATRICES[stated], _CALLED[_MATRICES[stated]]
    taken = Colorspace.ITU709 if height >= _HIGH_DEFINITION else Colorspace.ITU601
    return taken, f"not stated, taken for {_CALLED[taken]}"


def _range_of(stated: int, form: str) -> tuple[ColorRange, str]:
    if stated == 2 or form.startswith("yuvj"):
        return ColorRange.JPEG, "full"
    if stated == 1:
        return ColorRange.MPEG, "limited"
    return ColorRange.MPEG, "not stated, taken for limited"


def _refuse_varying(name: str, times: list[int], in_frames: float) -> None:
    """Refuse a shot whose frames do not follow each other at one rate.

    Args:
        times: presentation times, ascending. in_frames: frames in one unit of them.
    """
    turn = (np.asarray(times, float) - times[0]) * in_frames
    off = turn - np.arange(len(times))
    if np.abs(off - np.median(off)).max() > _JITTER:
        raise Refused(
            f"{name}: its frames are not evenly spaced in time; make it of constant frame rate first"
        )
