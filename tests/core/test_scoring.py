"""What turns scores into findings comes from one artefact."""

import json
from pathlib import Path

import numpy as np
import pytest
from evidences import finding, shown

import zweiblick_core
from zweiblick_core.features.context import CONTEXT
from zweiblick_core.null import Natural
from zweiblick_core.report import Abstention, Measure, Reading, Signal
from zweiblick_core.scoring import MODEL, Model, alone, holds, is_reported, overall, weigh
from zweiblick_core.scoring.asking import KINDS, NAMES

FOLDER = Path(zweiblick_core.__file__).parent / "model"
PLAIN = dict.fromkeys(CONTEXT, 1.0) | {"area": 9000.0, "along": 0.0, "leaving": 0.0, "backing": 0.8}
NOBODY_ELSE = {kind: Abstention("nothing to see") for kind in KINDS}


def reading(kind, score, value=3.0):
    return Reading(
        kind,
        score,
        [0, 0, 9, 9],
        [[0, 0], [9, 0], [9, 9]],
        Signal(((0.1, 5, 0),), 9, 81),
        Measure("", value, "", Natural(0, 1, 9, "")),
        shown(kind),
    )


def likely(*readings, context=PLAIN):
    """Of readings, where no other kind sees anything."""
    weigh(readings, NOBODY_ELSE, context)
    return [one.likely for one in readings]


def test_the_artefact_in_use_says_where_it_came_from_and_its_card_is_about_it():
    said = json.loads((FOLDER / f"{MODEL.name}.json").read_text())
    assert said["from"] and len(said["data"]) == 64 and said["model"] == MODEL.name
    assert (FOLDER / "CARD.md").read_text().startswith(f"# {MODEL.name}")
    assert Model.read(FOLDER / f"{MODEL.name}.json").stack == MODEL.stack


def test_the_artefact_asks_for_what_a_region_gives_in_that_order():
    assert MODEL.names == NAMES and MODEL.trees.feature.max() < len(NAMES)


@pytest.mark.parametrize("kind", KINDS)
def test_a_stronger_reading_is_never_less_likely_right(kind):
    found = [
        likely(reading(kind, score, 1 + 4 * score))[0] for score in np.linspace(0.001, 0.999, 30)
    ]
    assert found == sorted(found) and found[-1] > found[0]


def test_what_lies_along_an_edge_of_the_scene_is_no_likelier_right_for_it():
    along = [
        likely(reading("seam", 0.97), context={**PLAIN, "along": share, "leaving": share})[0]
        for share in np.linspace(0, 1, 11)
    ]
    assert along == sorted(along, reverse=True) and along[-1] < along[0]


def test_where_only_some_kinds_were_asked_a_score_stands_for_itself():
    assert likely(reading("seam", 0.9), context=None) == [alone(0.9)]
    scores = [alone(score) for score in np.linspace(0, 1, 11)]
    assert scores == sorted(scores) and scores[0] < 0.05 and scores[-1] > 0.9
    assert alone(1.0) == alone(0.99999) < 1 and alone(0.0) > 0


def test_a_finding_stands_out_and_is_likely_right_and_a_hint_only_stands_out():
    def reported(kind, score, likely):
        some = reading(kind, score)
        some.likely = likely
        return is_reported(some)

    assert reported("seam", MODEL.stands_out, MODEL.reported)
    assert not reported("seam", MODEL.stands_out - 0.01, 0.99)
    assert not reported("seam", 0.99, MODEL.reported - 0.01)
    assert reported("shadow", MODEL.hints["shadow"], 0.1)


def test_what_stands_for_another_is_as_likely_as_it():
    one, other = reading("smear", 0.7), reading("grain", 0.9)
    one.likely, other.likely = 0.5, 0.8
    one.stands_for(other)
    assert (one.score, one.likely) == (0.9, 0.8)
    other.stands_for(reading("soft", 0.95))
    assert (other.score, other.likely) == (0.95, 0.8)


def test_a_finding_takes_as_much_as_it_is_sure_and_seen_and_readings_only_break_ties():
    seen, unseen = (finding("seam", [0, 0, 9, 9], severity, 1.0) for severity in (1.0, 0.0))
    assert holds([]) == 1 and holds([seen]) == pytest.approx(1 - MODEL.least - MODEL.by_severity)
    assert holds([unseen]) == pytest.approx(1 - MODEL.least)
    assert overall([], {"seam": MODEL.stands_out, "halo": 0.0}) == pytest.approx(
        1 - MODEL.by_unreported / 2
    )
