"""What is fitted is judged on photographs and hands that were left out."""

import numpy as np
import pytest

from training.asking import ABSTAINED, KINDS, NAMES, log_odds
from training.context import CONTEXT
from training.features import asked_of, table
from training.photographs import names, sources
from training.splits import FOLDS, LOCKED, fold_of, splits
from training.trees import Trees


def line(photograph="bark", hand="", kinds=(), **more):
    return {
        "photograph": photograph,
        "outline": "blob",
        "hand": hand,
        "maker": hand and "some",
        "kinds": list(kinds),
        "strength": 0.5,
        "context": dict.fromkeys(CONTEXT, 1.0),
        "readings": [],
        "abstained": {},
        "found": [],
        **more,
    }


def reading(kind, score, value=3.0, natural=(0.0, 1.0, 9), hit=0.0):
    return {"kind": kind, "score": score, "value": value, "natural": list(natural), "hit": hit}


def test_of_each_other_kind_the_strongest_reading_counts_and_one_that_abstains_least_of_all():
    rows = asked_of(
        line(
            readings=[reading("seam", 0.2), reading("seam", 0.9, 5.0), reading("halo", 0.01)],
            abstained={"tone": 0.3},
        )
    )
    weak, strong, halo = (dict(zip(NAMES, row, strict=True)) for row in rows)
    assert weak["own odds"] == weak["seam odds"] == log_odds(0.2)
    assert strong["own odds"] == log_odds(0.9)
    assert strong["own beyond"] == pytest.approx(np.log1p(4.0))
    assert halo["seam odds"] == halo["strongest other"] == log_odds(0.9)
    assert halo["tone odds"] == ABSTAINED + 0.3 and halo["line odds"] == ABSTAINED
    assert halo["tone odds"] < log_odds(0.0) < halo["halo odds"]


def test_a_value_within_what_is_natural_is_beyond_nothing_on_either_side():
    beyond = lambda value: asked_of(line(readings=[reading("grain", 0.5, value)]))[0][
        NAMES.index("own beyond")
    ]
    assert beyond(0.5) == 0 and beyond(-2.0) == beyond(3.0) > 0


def test_a_reading_is_right_where_something_is_wrong_and_never_in_a_clean_region():
    some = table(
        [
            line(hand="first", kinds=["seam"], readings=[reading("halo", 0.9, hit=0.2)]),
            line(hand="first", kinds=["seam"], readings=[reading("seam", 0.9, hit=0.0)]),
            line(readings=[reading("seam", 0.9, hit=0.2), reading("overreach", 0.9)]),
        ]
    )
    assert some.right.tolist() == [True, False, False] and some.of.tolist() == [0, 1, 2]
    assert some.inside.tolist() == [True, True, False] and some.clean.tolist() == [0, 0, 1]
    highest = some.highest(np.array([0.1, 0.2, 0.3]))
    assert highest[2, KINDS.index("seam")] == 0.3 and highest[0, KINDS.index("seam")] == -np.inf


def test_nothing_is_judged_by_what_saw_its_photograph_or_its_hand():
    some = table(
        line(photograph, hand, kinds, readings=[reading("seam", 0.5)])
        for photograph in names()
        for hand, kinds in (("", ()), ("first", ("seam",)), ("third", ("tone",)))
    )
    for split in splits(some):
        assert not set(some.photographs[split.fit]) & set(some.photographs[split.judge])
        assert split.hand not in set(some.hands[split.fit])
        assert set(some.hands[split.judge]) <= {"", split.hand}
        assert LOCKED not in {
            fold_of(name) for name in some.photographs[[*split.fit, *split.judge]]
        }
    judged = [index for split in splits(some, locked=True) for index in split.judge]
    assert {fold_of(name) for name in some.photographs[judged]} == {LOCKED}


def test_every_fold_has_photographs_and_none_is_listed_twice():
    listed = names()
    assert len(listed) == len(set(listed)) >= 60
    assert {fold_of(name) for name in listed} == set(range(FOLDS + 1))
    assert all(source.licence and source.version for source in sources())
    assert len(KINDS) == 11


def test_a_tree_goes_left_up_to_its_threshold_and_trees_add_up():
    trees = Trees.from_json({"base": 0.5, "trees": [[[1, 2.0, 1, 2], [-1.0], [3.0]], [[10.0]]]})
    assert trees.log_odds(np.array([[9.0, 2.0], [9.0, 2.1]])).tolist() == [9.5, 13.5]
