"""`zweiblick shot`, as a person runs it."""

from __future__ import annotations

import json

import numpy as np
import pytest
from builders import png
from moving import film, numbered_in, video_in

from zweiblick_core.cli import main


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    made = film("flicker", walking=False, passing=False)
    root = tmp_path_factory.mktemp("shot")
    numbered_in(root / "original", made.original, first=101)
    video_in(root / "result.mkv", made.result, "ffv1", "yuv444p10le")
    (root / "mask-0119.png").write_bytes(png(made.masks[18].astype(np.uint8) * 255))
    return root


def test_a_folder_and_a_video_are_compared_and_the_report_written(folder, capsys):
    status = main(
        [
            "shot",
            str(folder / "original"),
            str(folder / "result.mkv"),
            "--masks",
            str(folder / "mask-0119.png"),
            "--no-stills",
            "--out",
            str(folder / "report.json"),
        ]
    )
    said = capsys.readouterr().out
    assert status == 0 and "flicker, " in said and "jumps of brightness" in said
    report = json.loads((folder / "report.json").read_text())
    assert report["inputs"]["original"]["first"] == 101
    assert report["inputs"]["result"]["form"] == "ffv1"
    assert [one["kind"] for one in report["regions"][0]["findings"]] == ["flicker"]


@pytest.mark.parametrize(
    ("original", "more", "words"),
    [
        ("original", ["--masks", "nothing.png"], "nothing.png"),
        ("original", ["--rate", "500"], "--rate is from 1 to 240 frames a second"),
        ("mask-0119.png", [], "mask-0119.png"),
        ("nowhere", [], "nowhere: cannot be opened"),
    ],
)
def test_bad_input_is_one_plain_line_and_code_2(folder, capsys, monkeypatch, original, more, words):
    monkeypatch.chdir(folder)
    assert main(["shot", original, "result.mkv", *more, "--out", "none.json"]) == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1 and words in said
    assert not (folder / "none.json").exists()
