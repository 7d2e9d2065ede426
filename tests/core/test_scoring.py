"""What turns scores into findings comes from one artefact."""

import json
from pathlib import Path

import pytest
from evidences import finding

import zweiblick_core
from zweiblick_core.scoring import MODEL, Model, confidence, holds, overall

FOLDER = Path(zweiblick_core.__file__).parent / "model"


def test_the_artefact_in_use_says_where_it_came_from_and_its_card_is_about_it():
    said = json.loads((FOLDER / f"{MODEL.name}.json").read_text())
    assert said["from"] and said["model"] == MODEL.name
    assert (FOLDER / "CARD.md").read_text().startswith(f"# {MODEL.name}")
    assert Model.read(FOLDER / f"{MODEL.name}.json") == MODEL


def test_a_hint_is_worth_less_than_its_score_and_no_score_is_certain():
    assert confidence(0.9, "shadow") < confidence(0.9)
    assert confidence(1.0) == confidence(0.99999) < 1 and confidence(0.0) > 0


def test_a_finding_takes_as_much_as_it_is_sure_and_seen_and_readings_only_break_ties():
    seen, unseen = (finding("seam", [0, 0, 9, 9], severity, 1.0) for severity in (1.0, 0.0))
    assert holds([]) == 1 and holds([seen]) == pytest.approx(1 - MODEL.least - MODEL.by_severity)
    assert holds([unseen]) == pytest.approx(1 - MODEL.least)
    assert overall([], {"seam": MODEL.reported, "halo": 0.0}) == pytest.approx(
        1 - MODEL.by_unreported / 2
    )
