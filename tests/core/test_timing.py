"""How long a round usually takes, as tests that read like the rules."""

import numpy as np
import pytest

from zweiblick_core.rules.timing import late, usual

HOUR = 3600.0


def test_below_three_rounds_nothing_is_said():
    assert usual([]) is None and usual([HOUR, HOUR]) is None
    assert usual([HOUR] * 3).of == 3


def test_few_rounds_leave_the_whole_range_open():
    found = usual([1 * HOUR, 9 * HOUR, 2 * HOUR])
    assert (found.seconds, found.low, found.high) == (2 * HOUR, HOUR, 9 * HOUR)


def test_the_interval_holds_the_true_median_about_as_often_as_it_says():
    rng = np.random.default_rng(3)
    inside = 0
    for _ in range(600):
        found = usual(rng.lognormal(2.0, 1.0, 25))
        inside += found.low <= np.exp(2.0) <= found.high
    assert 0.93 < inside / 600 < 0.995


def test_one_round_that_took_forever_changes_little():
    rounds = [HOUR * one for one in range(1, 12)]
    assert usual([*rounds, 900 * HOUR]).seconds < 1.2 * usual(rounds).seconds


@pytest.mark.parametrize(
    ("out", "left", "expected"),
    [
        (0.0, 10 * HOUR, False),
        (0.0, 2 * HOUR, True),  # it usually takes four
        (3 * HOUR, 2 * HOUR, False),  # it has been out for three of them
        (9 * HOUR, 1.0, False),  # it may come at any moment
        (0.0, -1.0, True),  # it is overdue
        (0.0, None, False),  # nobody said until when
    ],
)
def test_what_is_out_is_late_where_it_usually_takes_longer_than_is_left(out, left, expected):
    usually = usual([4 * HOUR] * 5)
    assert late(out, left, usually) is expected


def test_without_history_only_what_is_overdue_is_late():
    assert not late(0.0, 60.0, None) and late(0.0, -60.0, None)
