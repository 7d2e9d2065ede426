"""Rulings that are shown again, and what is made of them, as tests that read like the rules."""

import numpy as np

from zweiblick_core.rules.again import LEAST, ONE_IN, kappa, shown_again


def test_whoever_always_rules_alike_agrees_fully_and_by_chance_not_at_all():
    same = kappa([("passes", "passes at size"), ("rework", "rebuild")] * 10)
    assert same.kappa == 1.0 and (same.same, same.of) == (20, 20)
    rng = np.random.default_rng(1)
    words = np.array(["passes", "rework"])
    lots = kappa(zip(words[rng.integers(0, 2, 4000)], words[rng.integers(0, 2, 4000)], strict=True))
    assert abs(lots.kappa) < 0.05 and lots.low < 0 < lots.high


def test_a_known_table_gives_its_known_kappa():
    # Cohen's two by two: 20 and 15 agreed, 5 and 10 not.
    pairs = (
        [("passes", "passes")] * 20
        + [("passes", "rework")] * 5
        + [("rework", "passes")] * 10
        + [("rework", "rework")] * 15
    )
    found = kappa(pairs)
    assert found.kappa == 0.4 and found.low < 0.4 < found.high


def test_where_all_rulings_were_the_same_nothing_is_known_beyond_chance():
    assert kappa([("passes", "passes")] * 9).kappa is None
    assert kappa([]).of == 0


def test_one_stop_in_so_many_is_shown_again_and_never_in_a_short_run():
    ruled = list(range(100, 160))
    assert shown_again(1, LEAST - 1, ruled) == {} and shown_again(1, 50, []) == {}
    some = shown_again(1, 5 * ONE_IN, ruled)
    assert len(some) == 5 and len(set(some.values())) == 5
    assert all(0 <= place < 5 * ONE_IN and cell in ruled for place, cell in some.items())
    assert shown_again(1, 5 * ONE_IN, ruled) == some != shown_again(2, 5 * ONE_IN, ruled)
    assert len(shown_again(3, LEAST, [7])) == 1
