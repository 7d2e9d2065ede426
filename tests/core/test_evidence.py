"""What is shown of a finding goes into a report and comes out of it."""

import json

import numpy as np
import pytest
from evidences import OF, shown

from zweiblick_core import evidence
from zweiblick_core.evidence import Course, Ghost, Island, Lines, Own, Rim, from_json
from zweiblick_core.report import plain as _plain

CLASSES = sorted({*OF.values(), Course, Ghost, Island, Own}, key=lambda one: one.__name__)


@pytest.mark.parametrize("how", CLASSES)
def test_what_is_written_is_read_as_the_same(how):
    there = json.loads(json.dumps(_plain(shown(how, what="some"))))
    back = from_json(there)
    assert type(back) is how and back.what == "some"
    assert json.loads(json.dumps(_plain(back))) == there


def test_what_is_not_known_is_left_out_but_a_vanishing_point_at_infinity_is_said():
    plain = _plain(shown("line", what="offset"))
    assert "vanishing_point" not in plain and "faint" not in plain and plain["what"] == "offset"
    assert _plain(shown(Course, vanishing_point=None))["vanishing_point"] is None


def test_what_only_the_rules_need_is_not_written():
    lines = shown("line", certain=True, entries=[np.zeros(2)])
    assert not {"certain", "entries"} & set(_plain(lines))


def test_a_key_that_an_other_version_wrote_does_no_harm_and_one_it_did_not_is_none():
    rim = from_json(
        {
            "type": "rim",
            "what": "ring",
            "since": 9,
            "ring": {
                "lightness": 1.0,
                "a": 0.0,
                "b": 0.0,
                "width_px": 3,
                "centre_px": 1,
                "since": 9,
            },
        }
    )
    assert isinstance(rim, Rim) and rim.ring.width_px == 3 and rim.profile is None
    assert rim.likeness == 0.0


def test_lines_and_rims_are_read_at_any_depth():
    lines = from_json(
        {
            **_plain(shown("line")),
            "lines": [
                {
                    "ends": [[0, 1], [2, 3]],
                    "trace": [],
                    "straight": [[0, 1]],
                    "amount": 2.0,
                    "angle": 30.0,
                }
            ],
        }
    )
    assert isinstance(lines, Lines) and lines.lines[0].angle == 30.0
    rim = shown("seam", step={"lightness": 3.0, "a": 0.0, "b": 4.0})
    assert rim.step.size == 5.0 and rim.step.chroma == 4.0


@pytest.mark.parametrize(
    ("stored", "words"),
    [({"type": "else"}, "of type 'else'"), ({}, "of type None"), ({"type": "kept"}, "not whole")],
)
def test_what_is_no_evidence_is_refused(stored, words):
    with pytest.raises(ValueError, match=words):
        from_json(stored)


def test_every_kind_of_flaw_has_a_class_with_a_type_of_its_own():
    types = [how.type for how in CLASSES if how is not Course]
    assert len(set(types)) == len(types) and all(
        issubclass(one, evidence.Evidence) for one in CLASSES
    )
