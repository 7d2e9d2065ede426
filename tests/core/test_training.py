"""What is fitted is judged on photographs and hands that were left out."""

import numpy as np
import pytest

from training.features import ABSTAINED, CONTEXT, KINDS, NAMES, log_odds, row_of, table
from training.photographs import names, sources
from training.splits import FOLDS, LOCKED, fold_of, splits


def line(photograph="bark", hand="", kinds=(), **more):
    return {
        "photograph": photograph,
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


def reading(kind, score, value=3.0, natural=(0.0, 1.0, 9)):
    return {"kind": kind, "score": score, "value": value, "natural": list(natural)}


def test_of_each_kind_the_strongest_reading_counts_and_one_that_abstains_least_of_all():
    seen = row_of(
        line(
            readings=[reading("seam", 0.2), reading("seam", 0.9, 5.0), reading("halo", 0.01)],
            abstained={"tone": 0.3},
        )
    )
    at = dict(zip(NAMES, seen, strict=True))
    assert at["seam odds"] == log_odds(0.9) and at["seam beyond"] == pytest.approx(np.log1p(4.0))
    assert at["tone odds"] == ABSTAINED + 0.3 and at["line odds"] == ABSTAINED
    assert at["tone odds"] < log_odds(0.0) < at["halo odds"]


def test_a_value_within_what_is_natural_is_beyond_nothing_on_either_side():
    beyond = lambda value: dict(
        zip(NAMES, row_of(line(readings=[reading("grain", 0.5, value)])), strict=True)
    )["grain beyond"]
    assert beyond(0.5) == 0 and beyond(-2.0) == beyond(3.0) > 0


def test_nothing_is_judged_by_what_saw_its_photograph_or_its_hand():
    some = table(
        line(photograph, hand, kinds)
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
