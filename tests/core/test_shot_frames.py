"""Shots are read as streams of frames, from numbered pictures and from videos, in their true colours."""

from __future__ import annotations

from fractions import Fraction

import cv2
import numpy as np
import pytest
import tifffile
from builders import png
from moving import film, numbered_in, video_in

from zweiblick_core.errors import Refused
from zweiblick_core.shots import open_shot

#: Patches of plain colours, as a camera's test chart has them.
COLOURS = np.array(
    [[200, 40, 40], [40, 180, 60], [50, 70, 200], [230, 230, 230], [16, 16, 16], [120, 120, 60]],
    np.uint8,
)


def chart() -> np.ndarray:
    return np.repeat(np.repeat(COLOURS.reshape(2, 3, 3), 48, axis=0), 64, axis=1)


def patches(frame: np.ndarray) -> np.ndarray:
    """The middle of each patch, mean of (6, 3)."""
    parts = [
        frame[48 * row + 14 : 48 * row + 34, 64 * column + 20 : 64 * column + 44]
        for row in range(2)
        for column in range(3)
    ]
    return np.array([part.reshape(-1, 3).mean(axis=0) for part in parts])


def test_numbered_pictures_are_read_in_the_order_of_their_numbers(tmp_path):
    frames = [np.full((40, 60, 3), 10 * number, np.uint8) for number in range(12)]
    shot = open_shot(str(numbered_in(tmp_path / "a", frames, first=98)), Fraction(25))
    assert (shot.count, shot.first, shot.width, shot.height) == (12, 98, 60, 40)
    assert shot.rate == 25 and [int(one[0, 0, 0]) for one in shot] == list(range(0, 120, 10))
    # It can be read again.
    assert sum(1 for _ in shot) == 12


@pytest.mark.parametrize("kind", ["jpg", "tif"])
def test_jpegs_and_sixteen_bit_tiffs_are_read_too(tmp_path, kind):
    frame = film().original[0]
    for number in range(3):
        if kind == "jpg":
            data = cv2.imencode(".jpg", frame[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 95])[1]
            (tmp_path / f"a{number}.jpg").write_bytes(data.tobytes())
        else:
            tifffile.imwrite(tmp_path / f"a{number}.tif", frame.astype(np.uint16) * 257)
    shot = open_shot(str(tmp_path))
    first = next(iter(shot))
    if kind == "tif":
        assert shot.depth == 16 and np.array_equal(first, frame.astype(np.uint16) * 257)
    else:
        assert np.abs(first.astype(int) - frame).mean() < 3


def test_what_is_no_shot_is_refused_in_words(tmp_path):
    frames = [np.full((40, 60, 3), 10, np.uint8)] * 4
    missing = numbered_in(tmp_path / "missing", frames)
    (missing / "quay.0002.png").unlink()
    with pytest.raises(Refused, match="missing: lacks frame 2"):
        open_shot(str(missing))
    mixed = numbered_in(tmp_path / "mixed", frames)
    (mixed / "other.0009.png").write_bytes(png(frames[0]))
    with pytest.raises(Refused, match="several names"):
        open_shot(str(mixed))
    sizes = numbered_in(tmp_path / "sizes", frames)
    (sizes / "quay.0003.png").write_bytes(png(np.zeros((41, 60, 3), np.uint8)))
    with pytest.raises(Refused, match=r"quay\.0003\.png: is 60 x 41, the first frame 60 x 40"):
        list(open_shot(str(sizes)))
    with pytest.raises(Refused, match="no numbered pictures"):
        open_shot(str(tmp_path))
    words = tmp_path / "words.mp4"
    words.write_text("no video")
    with pytest.raises(Refused, match=r"words\.mp4: is no video"):
        open_shot(str(words))
    with pytest.raises(Refused, match=r"nothing\.mp4: (cannot be opened|is no video)"):
        open_shot(str(tmp_path / "nothing.mp4"))


def test_a_list_of_other_files_is_not_opened_whatever_it_is_called(tmp_path):
    """FFmpeg would follow what such files name."""
    secret = video_in(tmp_path / "secret.mkv", film().original[:4], "ffv1", "bgr0")
    for name, words in (
        ("shot.m3u8", f"#EXTM3U\n#EXTINF:1,\n{secret}\n#EXT-X-ENDLIST\n"),
        ("shot.mp4", f"ffconcat version 1.0\nfile {secret}\n"),
    ):
        (tmp_path / name).write_text(words)
        with pytest.raises(Refused, match=f"{name}: is no video; MP4, QuickTime, Matroska and AVI"):
            open_shot(str(tmp_path / name))
    assert open_shot(str(secret)).count == 4


@pytest.mark.parametrize(
    ("codec", "form", "name", "depth", "near"),
    [
        ("libx264", "yuv420p", "a.mp4", 8, 4.0),
        ("libx264", "yuv420p10le", "b.mp4", 10, 4.0),
        ("ffv1", "yuv444p", "c.mkv", 8, 1.5),
        ("ffv1", "yuv444p10le", "d.mkv", 10, 1.0),
        ("prores_ks", "yuv422p10le", "e.mov", 10, 4.0),
    ],
)
def test_each_codec_gives_as_many_frames_in_their_true_colours(
    tmp_path, codec, form, name, depth, near
):
    frames = [np.roll(chart(), 2 * number, axis=1) for number in range(7)]
    shot = open_shot(str(video_in(tmp_path / name, frames, codec, form)))
    found = list(shot)
    assert (shot.count, len(found), shot.depth, shot.rate) == (7, 7, depth, 24)
    eight = [one / 257 if one.dtype == np.uint16 else one for one in found]
    assert found[0].dtype == (np.uint16 if depth > 8 else np.uint8)
    for before, after in zip(frames[:3], eight, strict=False):
        assert np.abs(patches(after) - patches(before)).max() < near


@pytest.mark.parametrize("matrix", ["1", "5"])
@pytest.mark.parametrize("scale", ["1", "2"])
def test_matrix_and_range_are_the_files_own(tmp_path, matrix, scale):
    frames = [chart()] * 3
    path = video_in(
        tmp_path / "a.mkv", frames, "ffv1", "yuv444p", colorspace=matrix, color_range=scale
    )
    shot = open_shot(str(path))
    assert np.abs(patches(next(iter(shot))) - COLOURS).max() < 2.5
    words = {"1": "BT.709", "5": "BT.601"}[matrix], {"1": "limited", "2": "full"}[scale]
    assert shot.facts == (f"matrix: {words[0]}", f"range: {words[1]}")


def test_frames_that_do_not_follow_each_other_evenly_are_refused(tmp_path):
    import av

    path = tmp_path / "a.mkv"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("ffv1", rate=24)
        stream.height, stream.width, stream.pix_fmt = 96, 192, "yuv444p"
        for at in (0, 1, 2, 5, 9, 10, 12):
            frame = av.VideoFrame.from_ndarray(chart(), format="rgb24")
            frame.pts, frame.time_base = at, Fraction(1, 24)
            container.mux(stream.encode(frame))
        container.mux(stream.encode())
    with pytest.raises(Refused, match="not evenly spaced"):
        open_shot(str(path))


@pytest.mark.parametrize(
    ("codec", "form", "options"),
    [
        # Frames that are kept in another order than they are shown in.
        ("libx264", "yuv420p", {"bf": "3", "g": "8"}),
        ("libx264", "yuv420p", {"bf": "2", "g": "250", "x264-params": "open-gop=1"}),
        ("ffv1", "bgr0", {}),
    ],
)
@pytest.mark.parametrize("ending", ["mp4", "mkv"])
def test_one_frame_is_the_same_as_when_all_are_read(tmp_path, codec, form, options, ending):
    frames = film(frames=24).original
    shot = open_shot(str(video_in(tmp_path / f"a.{ending}", frames, codec, form, **options)))
    every = list(shot)
    for number in (23, 0, 7, 8, 9, 15):
        assert np.array_equal(shot.at(number), every[number]), number
    with pytest.raises(IndexError):
        shot.at(24)
    with pytest.raises(IndexError):
        shot.at(-1)


def test_one_numbered_picture_is_read_without_those_before(tmp_path):
    frames = [np.full((40, 60, 3), 10 * number, np.uint8) for number in range(6)]
    folder = numbered_in(tmp_path / "a", frames, first=5)
    shot = open_shot(str(folder))
    # What is never read may be broken.
    sorted(folder.iterdir())[0].write_bytes(b"no picture")
    assert shot.at(4)[0, 0, 0] == 40
    with pytest.raises(Refused):
        shot.at(0)
