"""How visible a change over time is said to be."""

from __future__ import annotations

import pytest

from zweiblick_core.shots.seeing import Change, sensitivity, severity
from zweiblick_core.visibility import NATIVE, parse_size

FRAME = (1920, 1080)


def test_coarse_flicker_is_seen_best_at_some_eight_hertz_and_fine_structure_best_when_slow():
    coarse = {hertz: sensitivity(0.5, hertz) for hertz in (0.2, 8, 40)}
    assert coarse[8] > 3 * coarse[0.2] and coarse[8] > 3 * coarse[40]
    fine = {hertz: sensitivity(12, hertz) for hertz in (0.5, 8, 20)}
    assert fine[0.5] > fine[8] > fine[20]


def test_contrast_that_is_just_seen_is_about_half_a_per_cent_at_best():
    best = max(
        sensitivity(cycles, hertz) for cycles in (1, 2, 3, 4, 6) for hertz in (0.5, 2, 5, 10)
    )
    assert 0.002 < 1 / best < 0.01


@pytest.mark.parametrize("grown", [{"contrast": 0.2}, {"area": 40_000.0}])
def test_what_grows_is_never_less_visible(grown):
    less = Change(0.02, 0.02, 8.0, 4_000.0)
    more = Change(**{**less.__dict__, **grown})
    assert severity(more, NATIVE, FRAME) > severity(less, NATIVE, FRAME)


def test_what_drifts_faster_is_seen_more_and_what_has_no_structure_not_at_all():
    slow = Change(0.3, 0.08, 1.0, 9_000.0, speed=1.0)
    fast = Change(0.3, 0.08, 1.0, 9_000.0, speed=12.0)
    plain = Change(0.0, 0.08, 1.0, 9_000.0, speed=12.0)
    assert severity(fast, NATIVE, FRAME) > severity(slow, NATIVE, FRAME)
    assert severity(plain, NATIVE, FRAME) == 0


def test_on_a_small_screen_fine_boiling_is_not_seen():
    fine = Change(0.05, 0.2, 6.0, 9_000.0)
    phone = parse_size("480px@430dpi@350mm")
    assert severity(fine, NATIVE, FRAME) > 0.3 and severity(fine, phone, FRAME) == 0
