"""Which frame of the original each frame of a result shows, whatever was cut, dropped or doubled."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from moving import film

from zweiblick_core.shots.following import grey_of
from zweiblick_core.shots.timing import Sampler, Timing, timed

COUNT = 36


def timing_of(original, result, masks=None) -> Timing:
    sampler = Sampler(original[0].shape[:2])
    one = [sampler.of(grey_of(frame), None) for frame in original]
    other = [sampler.of(grey_of(frame), None) for frame in result]
    return timed(one, other)


@pytest.fixture(scope="module")
def made():
    return film()


def test_a_result_of_the_same_frames_is_as_it_was(made):
    timing = timing_of(made.original, made.result)
    assert timing.as_it_was and timing.words() == []
    assert timing.shows.tolist() == list(range(COUNT))


def test_what_was_cut_off_dropped_and_doubled_is_said(made):
    shown = [*range(3, 20), *range(22, 30), 29, *range(30, 36)]
    timing = timing_of(made.original, [made.result[number] for number in shown])
    assert timing.shows.tolist() == shown
    assert (timing.offset, timing.dropped, timing.doubled) == (3, (20, 21), (25,))
    assert timing.words() == [
        "begins 3 frames later than the original",
        "lacks frames 20, 21 of the original",
        "repeats the frame before in frame 25",
    ]


@settings(max_examples=12, deadline=None)
@given(
    st.integers(0, 6),
    st.lists(st.integers(10, 30), max_size=3, unique=True),
    st.lists(st.integers(10, 30), max_size=2, unique=True),
)
def test_any_few_frames_that_were_dropped_or_doubled_are_found(start, dropped, doubled):
    # A frame dropped right beside one that is doubled shows the same as one that is neither.
    assume(all(abs(one - other) > 2 for one in dropped for other in doubled))
    made = film()
    shown = []
    for number in range(start, COUNT):
        if number in dropped:
            continue
        shown += [number] * (2 if number in doubled else 1)
    timing = timing_of(made.original, [made.result[number] for number in shown])
    assert timing.shows.tolist() == shown


def test_a_result_in_another_light_is_timed_all_the_same(made):
    darker = [(frame * 0.7).astype(np.uint8) for frame in made.result[5:]]
    assert timing_of(made.original, darker).shows.tolist() == list(range(5, COUNT))


def test_a_shot_in_which_nothing_moves_is_taken_frame_by_frame():
    still = [np.full((80, 100, 3), 90, np.uint8)] * 14
    assert timing_of(still, still).as_it_was
