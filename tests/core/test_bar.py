"""The client's bar: what fails, at which sizes a cell passes."""

from __future__ import annotations

import pytest

from zweiblick_core.errors import Refused
from zweiblick_core.rules.bar import NEVER, SAID, checked, fails, passes_at
from zweiblick_core.visibility import word


def test_without_a_word_from_the_client_whatever_can_be_seen_fails():
    assert fails("grain", 0.15, {}) and not fails("grain", 0.14, {})


def test_a_kind_fails_from_its_bar_on_and_others_as_before():
    bar = {"grain": 0.7}
    assert not fails("grain", 0.69, bar) and fails("grain", 0.7, bar) and fails("seam", 0.2, bar)
    assert not fails("grain", 1.0, {"grain": NEVER})


def test_a_bar_below_what_can_be_seen_asks_for_nothing_invisible():
    assert not fails("seam", 0.1, {"seam": 0.0})


def test_a_cell_passes_at_the_sizes_where_no_flaw_fails_the_one_that_shows_most_first():
    sizes = {1: 9.0, 2: 1.0, 3: 4.0}
    flaws = [("seam", {1: 0.8, 2: 0.05, 3: 0.3}), ("grain", {1: 0.5, 2: 0.0, 3: 0.1})]
    assert passes_at(flaws, sizes, {}) == [2]
    assert passes_at(flaws, sizes, {"seam": 0.4}) == [3, 2]
    assert passes_at(flaws, sizes, {"seam": NEVER, "grain": 0.7}) == [1, 3, 2]
    assert passes_at([], sizes, {}) == [1, 3, 2]


def test_a_persons_severity_counts_for_the_size_it_was_given_at_only():
    assert passes_at([("lost", {2: SAID["clear"]})], {1: 9.0, 2: 1.0}, {}) == [1]


def test_a_persons_words_mean_what_the_words_mean():
    assert all(word(severity) == said for said, severity in SAID.items())


@pytest.mark.parametrize(
    "bar", [{"sparkle": 0.5}, {"seam": -0.1}, {"seam": 1.5}, {"seam": True}, {"seam": "clear"}]
)
def test_a_bar_that_makes_no_sense_is_refused(bar):
    with pytest.raises(Refused):
        checked(bar)
    assert checked({"seam": 0.4, "banding": 1}) == {"seam": 0.4, "banding": 1.0}
