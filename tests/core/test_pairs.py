"""Blind pairs: what many choices say together, which to show next; and what two attempts were told
differently.
"""

from __future__ import annotations

import math
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zweiblick_core.compare import Choice, Setting, agreement, differing, next_pair, strengths


def asked(power, rounds, seed=1):
    """Choices of somebody for whom the attempts have these strengths."""
    chance, made = random.Random(seed), []
    for number in range(rounds):
        left, right = next_pair(list(power), made, seed=number)
        p = power[left] / (power[left] + power[right])
        made.append(Choice(left, right, left if chance.random() < p else right))
    return made


def test_the_true_order_comes_out_and_lies_within_its_intervals():
    power = {1: 8.0, 2: 4.0, 3: 1.0, 4: 0.25}
    found = strengths(list(power), asked(power, 160))
    assert [one.attempt for one in found] == [1, 2, 3, 4]
    mean = math.exp(sum(map(math.log, power.values())) / 4)
    inside = [
        one.low <= power[one.attempt] / (power[one.attempt] + mean) <= one.high for one in found
    ]
    assert sum(inside) >= 3 and all(one.low < one.chance < one.high for one in found)


def test_two_attempts_that_met_often_have_the_ratio_of_their_wins():
    made = [Choice(1, 2, 1)] * 30 + [Choice(1, 2, 2)] * 10
    best, other = strengths([1, 2], made)
    odds = (best.chance / (1 - best.chance)) / (other.chance / (1 - other.chance))
    assert (
        best.attempt == 1 and best.pairs == other.pairs == 40 and odds == pytest.approx(3, abs=0.25)
    )


def test_no_difference_counts_half_for_both_and_more_pairs_make_it_surer():
    few, many = (
        strengths([1, 2], [Choice(1, 2, None)] * 2),
        strengths([1, 2], [Choice(1, 2, None)] * 40),
    )
    assert few[0].chance == few[1].chance == many[0].chance == 0.5
    assert many[0].high - many[0].low < few[0].high - few[0].low


def test_what_never_lost_is_not_infinitely_better_and_what_never_met_is_unsure():
    found = {one.attempt: one for one in strengths([1, 2, 3], [Choice(1, 2, 1)] * 3)}
    assert (
        0.5 < found[1].chance < 0.95
        and found[3].chance == pytest.approx(0.5)
        and found[3].pairs == 0
    )
    assert found[3].high - found[3].low > found[1].high - found[1].low


def test_every_pair_is_shown_before_any_is_shown_often_and_sides_are_mixed():
    made, lefts = [], 0
    for number in range(30):
        left, right = next_pair([1, 2, 3, 4], made, seed=7)
        lefts += left < right
        made.append(Choice(left, right, None))
        if number == 5:
            assert len({frozenset((one.first, one.second)) for one in made}) == 6
    counts = [
        sum({one.first, one.second} == {a, b} for one in made)
        for a in range(1, 5)
        for b in range(a + 1, 5)
    ]
    assert max(counts) - min(counts) <= 1 and 6 <= lefts <= 24
    assert next_pair([1], []) is None and strengths([], []) == []


@settings(deadline=None, max_examples=60)
@given(
    st.lists(
        st.tuples(
            st.integers(1, 5), st.integers(1, 5), st.sampled_from(["first", "second", "none"])
        ),
        max_size=40,
    )
)
def test_whatever_is_chosen_every_chance_lies_between_nought_and_one(rows):
    made = [Choice(a, b, {"first": a, "second": b, "none": None}[better]) for a, b, better in rows]
    for one in strengths([1, 2, 3, 4, 5], made):
        assert 0 < one.low <= one.chance <= one.high < 1


def test_agreement_is_kendalls():
    assert agreement({1: 3, 2: 2, 3: 1}, {1: 30, 2: 20, 3: 10}) == 1.0
    assert agreement({1: 3, 2: 2, 3: 1}, {1: 1, 2: 2, 3: 3}) == -1.0
    assert agreement({1: 3, 2: 2, 3: 1, 9: 4}, {1: 3, 2: 1, 3: 2}) == pytest.approx(1 / 3, abs=1e-3)
    assert agreement({1: 1}, {1: 1}) is None and agreement({1: 1, 2: 1}, {1: 1, 2: 2}) is None


def test_only_settings_that_differ_are_reported():
    assert differing(
        {"margin": 3, "seed": 7, "feather": 5.0}, {"margin": 8, "feather": 5, "take": 2}
    ) == [Setting("margin", 3, 8), Setting("seed", 7, None), Setting("take", None, 2)]
    assert differing({"a": True}, {"a": 1}) == [Setting("a", True, 1)] and differing({}, {}) == []
