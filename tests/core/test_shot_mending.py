"""A shot is filled from its own ground, repaired frames are carried, and the rest is proven the same."""

from __future__ import annotations

from functools import cache

import cv2
import numpy as np
import pytest
from builders import png
from moving import film, numbered_in, shot_of, video_in

from zweiblick_core.cli import main
from zweiblick_core.errors import Refused
from zweiblick_core.regions import outline
from zweiblick_core.rules.shots import (
    Flaw,
    Ruled,
    carried_over,
    failed_ranges,
    outcome,
    ranges_of,
)
from zweiblick_core.shots import Mending, check_shot, mend, open_shot, prove_rest
from zweiblick_core.shots.mending.compositing import MARGIN
from zweiblick_core.shots.writing import write_shot

FRAMES = 36


@cache
def made(walking: bool = False, passing: bool = False):
    return film("", 1.0, walking=walking, passing=passing)


def drawn(shot, walking: bool = False):
    every = range(2, FRAMES, 8) if walking else (18,)
    return {"1": {number: shot.masks[number] for number in every}}


def mended(shot, walking=False, ranges=((0, FRAMES - 1),), repaired=None):
    original = shot_of(shot.original)
    asked = Mending({"1": ranges}, repaired or {})
    return list(mend(original, original, drawn(shot, walking), asked))


def off(frames, shot, numbers=range(FRAMES)):
    """Mean difference from the truth within the outline, levels, the median frame's."""
    each = [
        np.abs(frames[at].astype(float) - shot.result[at])[shot.masks[at]].mean() for at in numbers
    ]
    return float(np.median(each))


def test_what_walks_is_filled_with_the_ground_that_other_frames_show():
    shot = made(walking=True)
    frames = mended(shot, walking=True)
    # With grain of their own, of sigma 1.2, two pictures of the same differ by 1.4; bicubic resampling of so
    # fine a wall makes up the rest.
    assert off(frames, shot) < 3.6
    report = check_shot(shot_of(shot.original), shot_of(frames), drawn(shot, True), stills=False)
    # The shadow was not drawn, so it stays, which is found; nothing else is.
    assert {one.kind for one in report.regions[0].findings} <= {"shadow"}


def test_what_no_frame_shows_is_made_up_once_and_locked_to_the_ground():
    shot = made()
    frames = mended(shot)
    report = check_shot(shot_of(shot.original), shot_of(frames), drawn(shot), stills=False)
    assert [one.kind for one in report.regions[0].findings] == []


def test_what_passes_in_front_stays_in_front():
    shot = made(passing=True)
    frames = mended(shot, repaired={4: shot.result[4]})
    report = check_shot(shot_of(shot.original), shot_of(frames), drawn(shot), stills=False)
    assert [one.kind for one in report.regions[0].findings] == []
    covered = report.regions[0].covered
    assert covered and off(frames, shot, covered) < 6.0


def test_one_repaired_frame_mends_the_rest():
    shot = made()
    frames = mended(shot, repaired={18: shot.result[18]})
    assert off(frames, shot) < 4.0 < off(mended(shot), shot)


def test_between_two_repaired_frames_one_goes_over_into_the_other():
    shot = made()
    first, last = shot.result[6].copy(), shot.result[30].copy()
    first[shot.masks[6]], last[shot.masks[30]] = 40, 200
    frames = mended(shot, repaired={6: first, 30: last})
    core = [
        frames[at][cv2.erode(shot.masks[at].view(np.uint8), np.ones((15, 15))) > 0]
        for at in (6, 18, 30)
    ]
    low, middle, high = (float(one.mean()) for one in core)
    assert low < middle - 40 and middle < high - 40


def test_only_the_frames_that_were_asked_for_and_only_the_outline_change():
    shot = made()
    frames = mended(shot, ranges=((10, 12), (20, 20)))
    for number in range(FRAMES):
        changed = (frames[number] != shot.original[number]).any(axis=-1)
        if number in (10, 11, 12, 20):
            size = 2 * (MARGIN + 2) + 1
            near = cv2.dilate(shot.masks[number].view(np.uint8), np.ones((size, size))) > 0
            assert changed.any() and not changed[~near].any()
        else:
            assert not changed.any()


def test_the_same_seed_gives_the_same_frames():
    shot = made()
    assert all(np.array_equal(*pair) for pair in zip(mended(shot), mended(shot), strict=True))


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        (Mending({}), "no region"),
        (Mending({"7": ((0, 3),)}), "no region 7"),
        (Mending({"1": ((0, 99),)}), "has frames 0 to 35"),
        (Mending({"1": ((0, 3),)}, {3: np.zeros((4, 4, 3), np.uint8)}), "repaired frame 3"),
    ],
)
def test_what_cannot_be_mended_is_refused(asked, words):
    shot = made()
    original = shot_of(shot.original)
    with pytest.raises(Refused, match=words):
        next(iter(mend(original, original, drawn(shot), asked)))


def test_an_attempt_of_other_frames_is_refused():
    shot = made()
    original, short = shot_of(shot.original), shot_of(shot.original[:-3], "short")
    with pytest.raises(Refused, match="short: has 33 frames"):
        next(iter(mend(original, short, drawn(shot), Mending({"1": ((0, 3),)}))))


def test_the_frames_to_repair_first_are_those_that_mend_most():
    shot = film("flicker", 1.0, walking=False)
    report = check_shot(shot_of(shot.original), shot_of(shot.result), drawn(shot), stills=False)
    repairs = report.regions[0].repairs
    # The thing stands and nothing hides it: any one frame mends all.
    assert len(repairs) == 1 and repairs[0].mends == FRAMES


@pytest.mark.parametrize("deep", [False, True])
def test_frames_that_are_written_read_back_equal_to_the_bit(tmp_path, deep):
    rng = np.random.default_rng(2)
    top, kind = (65536, np.uint16) if deep else (256, np.uint8)
    frames = [rng.integers(0, top, (38, 50, 3)).astype(kind) for _ in range(5)]
    shot = shot_of(made().original)
    assert write_shot(tmp_path / "a.mkv", frames, shot.rate) == 5
    back = open_shot(str(tmp_path / "a.mkv"))
    assert (back.form, back.rate, back.depth) == ("ffv1", 24, 16 if deep else 8)
    assert all(np.array_equal(*pair) for pair in zip(frames, back, strict=True))


def test_the_command_mends_and_writes(tmp_path, capsys):
    shot = made()
    numbered_in(tmp_path / "original", shot.original, first=101)
    (tmp_path / "mask-0119.png").write_bytes(png(shot.masks[18].astype(np.uint8) * 255))
    (tmp_path / "fixed.png").write_bytes(png(shot.result[18]))
    given = ["mend", str(tmp_path / "original"), "--masks", str(tmp_path / "mask-0119.png")]
    given += ["--repaired", f"18={tmp_path / 'fixed.png'}", "--frames", "4-30"]
    assert main([*given, "--out", str(tmp_path / "mended.mkv")]) == 0
    frames = list(open_shot(str(tmp_path / "mended.mkv")))
    assert np.array_equal(frames[3], shot.original[3]) and off(frames, shot, range(4, 31)) < 4.0
    assert main([*given[:-1], "4", "--out", str(tmp_path / "other.mkv")]) == 2
    assert "FIRST-LAST" in capsys.readouterr().err and not (tmp_path / "other.mkv").exists()


def rings(shot):
    return {"1": [outline(mask) for mask in shot.masks]}


def test_the_rest_of_a_returned_shot_is_proven_the_same():
    shot = made()
    after = mended(shot, ranges=((10, 20),))
    proof = prove_rest(shot_of(shot.original), shot_of(after), rings(shot), {"1": [(10, 20)]})
    assert proof.holds and proof.same == [(0, 35)]
    assert proof.kept == {"1": [(0, 9), (21, 35)]}


def test_one_pixel_that_was_not_sent_is_found_with_its_place():
    shot = made()
    after = mended(shot, ranges=((10, 20),))
    after[30] = after[30].copy()
    after[30][5, 7] ^= 1
    proof = prove_rest(shot_of(shot.original), shot_of(after), rings(shot), {"1": [(10, 20)]})
    assert not proof.holds and proof.differing == [(30, 30)]
    (place,) = proof.places
    x, y, w, h = place.bbox
    assert (place.frame, place.pixels) == (30, 1) and x <= 7 < x + w and y <= 5 < y + h


def test_work_on_frames_that_were_not_sent_is_found():
    shot = made()
    after = mended(shot, ranges=((10, 22),))
    proof = prove_rest(shot_of(shot.original), shot_of(after), rings(shot), {"1": [(10, 20)]})
    assert proof.differing == [(21, 22)] and proof.kept == {"1": [(0, 9), (23, 35)]}


@pytest.mark.parametrize("rate_factor", ["12", "16", "20"])
def test_saving_anew_is_told_from_work(tmp_path, rate_factor):
    shot = made()
    options = {"crf": rate_factor, "colorspace": "1", "color_range": "1"}
    saved = open_shot(
        str(video_in(tmp_path / "a.mp4", shot.original, "libx264", "yuv444p", **options))
    )
    proof = prove_rest(shot_of(shot.original), saved, rings(shot), {"1": [(10, 20)]})
    assert proof.holds and proof.kept == {"1": []}
    worked = [frame.copy() for frame in shot.original]
    worked[25][40:70, 150:190] = 128
    saved = open_shot(str(video_in(tmp_path / "b.mp4", worked, "libx264", "yuv444p", **options)))
    proof = prove_rest(shot_of(shot.original), saved, rings(shot), {"1": [(10, 20)]})
    assert proof.differing == [(25, 25)]


def test_a_slip_takes_the_frames_that_failed():
    stands = [Ruled(0, 9, "passes"), Ruled(10, 20, "rework"), Ruled(30, 35, "rework")]
    assert failed_ranges(stands) == [(10, 20), (30, 35)]


def test_a_pass_goes_over_to_the_answer_where_frames_are_proven_the_same():
    stands = [Ruled(0, 9, "passes"), Ruled(10, 20, "rework"), Ruled(21, 35, "passes")]
    assert carried_over(stands, [(0, 8), (21, 25), (30, 35)]) == [(0, 8), (21, 25), (30, 35)]


def test_what_became_of_a_flaw_counts_only_in_the_frames_that_were_sent():
    before = [Flaw("drift", 10, 20, 4.0), Flaw("flicker", 25, 30, 3.0)]
    after = [Flaw("flicker", 25, 30, 3.0)]
    assert outcome(before, after, [(10, 20)]) == ("fixed", [("drift", "fixed")])
    assert outcome(before, [Flaw("drift", 12, 14, 1.0)], [(10, 20)])[0] == "still there"
    assert outcome(before, [Flaw("drift", 12, 14, 5.0)], [(10, 20)])[0] == "still there"
    assert outcome(before, [Flaw("drift", 12, 14, 5.1)], [(10, 20)])[0] == "worse"
    assert outcome(before, [Flaw("pop", 15, 15, 2.0)], [(10, 20)])[1] == [
        ("drift", "fixed"),
        ("pop", "new flaw"),
    ]


def test_ranges_hold_numbers_that_follow_each_other():
    assert ranges_of([0, 1, 2, 5, 7, 8]) == [(0, 2), (5, 5), (7, 8)]
