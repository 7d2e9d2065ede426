"""What is fitted is judged on photographs and hands that were left out."""

import hashlib
import json
from pathlib import Path

import numpy as np
import pytest

import training
import zweiblick_core
from training.features import asked_of, table
from training.photographs import names, sources
from training.splits import FOLDS, LOCKED, fold_of, splits
from zweiblick_core.features.context import CONTEXT
from zweiblick_core.scoring.asking import ABSTAINED, KINDS, NAMES, log_odds
from zweiblick_core.scoring.model import Stack
from zweiblick_core.scoring.trees import Trees

ROOT = Path(training.__file__).parent


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
    assert weak["own odds"] == log_odds(0.2) and strong["own odds"] == log_odds(0.9)
    # A kind's own strength stands in one place alone.
    assert weak["seam odds"] == strong["seam odds"] == ABSTAINED
    assert strong["own beyond"] == pytest.approx(np.log1p(4.0))
    assert halo["seam odds"] == halo["strongest other"] == log_odds(0.9)
    assert halo["tone odds"] == ABSTAINED + 0.3 and halo["line odds"] == ABSTAINED
    assert halo["tone odds"] < log_odds(0.0) < halo["own odds"]


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


STORE, SMALL = ROOT / "store.jsonl.gz", ROOT / "small.json"


@pytest.fixture(scope="module")
def small():
    """The first regions of the store, and what was fitted to them."""
    from training.features import lines_of, read

    said = json.loads(SMALL.read_text())
    lines = lines_of(STORE)[:240]
    assert hashlib.sha256(b"\n".join(lines)).hexdigest() == said["data"]
    return read(lines), said


def test_a_small_set_fitted_anew_says_what_it_said(small):
    from training.fit import artefact, own_odds

    some, said = small
    made = artefact(some, said["data"], said["seed"], "small")
    assert {
        name: made[name] for name in ("regions", "clean", "names", "stands_out", "reported")
    } == {
        name: said[name] if name != "names" else list(NAMES)
        for name in ("regions", "clean", "names", "stands_out", "reported")
    }
    likely = [
        Stack(**one["stack"]).likely(Trees.from_json(one).log_odds(some.asked), own_odds(some))
        for one in (made, said)
    ]
    # Sums in another order move the last digits, and now and then a split.
    assert np.abs(likely[0] - likely[1]).mean() < 0.01


def test_what_is_written_says_what_the_fitted_model_does(small):
    from training.fit import fitted, trees_of

    some, said = small
    model = fitted(some, np.arange(len(some.kinds)), said["seed"])
    read_back = Trees.from_json(trees_of(model)).log_odds(some.asked[:300])
    assert read_back == pytest.approx(model.decision_function(some.asked[:300]), abs=0.02)


def test_the_artefact_in_use_was_fitted_to_the_whole_store():
    from training.features import lines_of

    said = json.loads((Path(zweiblick_core.__file__).parent / "model" / "v1.json").read_text())
    assert said["data"] == hashlib.sha256(b"\n".join(lines_of(STORE))).hexdigest()
