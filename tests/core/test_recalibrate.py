"""How sure findings are, fitted to what people of a house answered."""

import numpy as np
import pytest
from evidences import finding

from zweiblick_core.errors import Refused
from zweiblick_core.recalibrate import recalibrated
from zweiblick_core.report import RegionReport, Report
from zweiblick_core.scoring.house import (
    LEAST,
    curve_of_answers,
    mapped,
    missed,
    reliability,
    unmapped,
)
from zweiblick_core.scoring.model import Curve

FRAME = {"original": {"width": 100, "height": 50}}


def answered(count, curve, seed=3):
    """People who confirm as often as a curve says."""
    rng = np.random.default_rng(seed)
    said = rng.uniform(0.3, 0.99, count)
    return [(float(one), bool(rng.random() < mapped(curve, one))) for one in said]


def test_where_people_confirm_less_than_was_said_less_is_said_and_it_is_right_then():
    house = Curve(-1.2, 0.7)
    fitted = curve_of_answers(answered(2000, house))
    assert mapped(fitted, 0.9) == pytest.approx(mapped(house, 0.9), abs=0.05) and fitted.offset < 0
    fresh = answered(4000, house, seed=8)
    after = [(mapped(fitted, said), so) for said, so in fresh]
    assert missed(after) < missed(fresh)
    assert all(abs(tenth.said - tenth.so) < 0.1 for tenth in reliability(after) if tenth.count > 60)


def test_answers_that_bear_out_what_was_said_and_few_answers_change_little():
    fitted = curve_of_answers(answered(2000, Curve(0, 1)))
    assert mapped(fitted, 0.8) == pytest.approx(0.8, abs=0.04)
    few = [(0.9, True)] * (LEAST - 15) + [(0.9, False)] * 15
    assert 0.7 < mapped(curve_of_answers(few), 0.9) < 0.9


@pytest.mark.parametrize(("there", "not_there"), [(20, 20), (LEAST, 3), (3, LEAST)])
def test_too_few_answers_or_too_few_of_one_sort_are_refused(there, not_there):
    with pytest.raises(Refused, match="at least"):
        curve_of_answers([(0.8, True)] * there + [(0.8, False)] * not_there)


def test_answers_the_wrong_way_round_never_make_the_surer_the_less_sure():
    upside_down = [(0.95, False)] * 60 + [(0.4, True)] * 60
    fitted = curve_of_answers(upside_down)
    found = [mapped(fitted, said) for said in np.linspace(0.01, 0.99, 20)]
    assert found == sorted(found)


def test_what_a_probability_was_before_can_be_found_again():
    curve = Curve(-0.8, 0.6)
    for said in (0.1, 0.5, 0.93):
        assert unmapped(curve, mapped(curve, said)) == pytest.approx(said)


def test_a_report_keeps_its_findings_and_what_they_take_of_the_whole_follows():
    sure, doubtful = (
        finding("seam", [0, 0, 9, 9], 0.9, 0.9),
        finding("tone", [80, 0, 9, 9], 0.5, 0.5),
    )
    region = RegionReport("1", (0, 0, 100, 50), "", 0.3, {"seam": 0.9}, {}, [sure, doubtful], [])
    report = Report("0", FRAME, {}, [], {}, {"kind": "same"}, 0.3, regions=[region])
    less = recalibrated(report, Curve(-1.0, 1.0))
    (after,) = less.regions
    assert [one.kind for one in after.findings] == ["seam", "tone"]
    assert [one.confidence for one in after.findings] == [
        pytest.approx(mapped(Curve(-1.0, 1.0), said)) for said in (0.9, 0.5)
    ]
    assert {one.group for one in after.findings} == {one.id for one in after.groups}
    same = recalibrated(report, Curve(0.0, 1.0))
    assert after.overall > same.regions[0].overall and less.overall == pytest.approx(after.overall)
    # What was stored stays as it was.
    assert sure.confidence == 0.9


def test_what_could_not_be_matched_holds_nowhere_after_it_too():
    unmatched = Report("0", FRAME, {}, [], {}, {"kind": "unmatched"}, 0.0)
    assert recalibrated(unmatched, Curve(-1.0, 1.0)).overall == 0.0
