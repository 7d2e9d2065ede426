"""The ruling that is likely, and how a run went, as tests that read like their rules."""

import pytest

from zweiblick_core.rules.likely import (
    IN_FULL_ONE_IN,
    Likely,
    Past,
    Stop,
    agreement,
    asked_in_full,
    hasty,
)


def test_before_anybody_ruled_the_machine_s_overall_is_the_chance():
    assert Past([]).likely(0.8) == Likely("passes", 0.74, 0, 0)
    assert Past([]).likely(0.2).ruling == "rework"
    # The machine alone is never surer than nine in ten.
    assert Past([]).likely(1.0).chance == 0.9 and Past([]).likely(0.0).chance == 0.1


def test_what_people_ruled_on_the_like_of_it_counts_and_on_others_does_not():
    past = Past([(0.8, False)] * 24 + [(0.3, True)] * 50)
    found = past.likely(0.8)
    assert (found.passed, found.of) == (0, 24)
    assert found.ruling == "rework" and found.chance == pytest.approx(7.4 / 34, abs=1e-3)
    assert past.likely(0.55).of == 0


def test_more_rulings_make_it_surer():
    chances = [Past([(0.9, True)] * count).likely(0.9).chance for count in (0, 5, 50)]
    assert chances == sorted(chances) and not Past([]).likely(0.85).sure
    assert Past([(0.9, True)] * 50).likely(0.9).sure


def test_what_is_not_sure_is_always_asked_in_full_and_one_in_five_of_the_sure():
    unsure, sure = Likely("passes", 0.7, 0, 0), Likely("passes", 0.97, 30, 30)
    assert all(asked_in_full(1, cell, unsure) for cell in range(50))
    share = sum(asked_in_full(1, cell, sure) for cell in range(5000)) / 5000
    assert abs(share - 1 / IN_FULL_ONE_IN) < 0.02
    # The lot is drawn once: asked again it says the same.
    assert asked_in_full(1, 7, sure) == asked_in_full(1, 7, sure)


def stop(likely="passes", ruled="passes", sure=True, in_full=True, seconds=4.0):
    return Stop(likely, sure, in_full, ruled, seconds)


def test_agreement_is_of_the_sure_ones_that_were_asked_in_full_only():
    stops = [
        stop(),
        stop(ruled="passes at size"),
        stop(ruled="rework"),
        stop(in_full=False, ruled="rework"),
        stop(sure=False, ruled="rework"),
        stop(ruled=""),
    ]
    found = agreement(stops)
    assert (found.count, found.of) == (2, 3) and found.few
    assert agreement([]).of == 0


def test_a_run_is_hasty_by_its_median_and_never_by_a_few():
    assert hasty([stop(seconds=0.8)] * 10)
    assert not hasty([stop(seconds=0.8)] * 9)
    assert not hasty([stop(seconds=0.8)] * 10 + [stop(seconds=6.0)] * 11)
    assert not hasty([stop(seconds=None)] * 20)
