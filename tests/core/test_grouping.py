"""Findings of one place with one probable cause become a group; one flaw is one finding."""

import numpy as np
import pytest
from evidences import MEASURE, SIGNAL, finding, shown

from zweiblick_core.explaining.arbitrate import arbitrate
from zweiblick_core.grouping import group, in_order, place_words
from zweiblick_core.report import Reading, Report
from zweiblick_core.scoring import overall

REGION = (100, 100, 200, 100)


def reading(kind, bbox, score=0.9, profile=None):
    flat = np.zeros(61)
    profile = {"lightness": flat if profile is None else profile, "a": flat, "b": flat}
    return Reading(kind, score, bbox, [], SIGNAL, MEASURE, shown(kind, profile=profile))


def test_a_halo_in_the_removed_things_colour_means_the_outline_was_too_tight():
    found = [
        finding("halo", [100, 100, 20, 80], likeness_to_removed=0.9),
        finding("seam", [105, 110, 20, 60]),
    ]
    (only,) = group(found, REGION)
    assert (
        only.cause == "outline too tight"
        and only.words.startswith("left: ")
        and {f.group for f in found} == {only.id}
    )


def test_what_is_neither_seen_nor_sure_does_not_name_the_cause():
    found = [
        finding("tone", [150, 120, 60, 60], severity=0.9, sure=0.97),
        finding("grain", [150, 120, 60, 60], severity=0.02, sure=0.38, what="more grain"),
    ]
    (only,) = group(found, REGION)
    assert only.cause == "copied from another light" and found[0].kind == "tone"


def test_a_repeat_with_a_seam_was_copied_and_not_blended():
    assert (
        group([finding("repeat", [150, 120, 60, 60]), finding("seam", [148, 118, 64, 64])], REGION)[
            0
        ].cause
        == "copied and not blended"
    )


@pytest.mark.parametrize(
    ("kind", "cause"),
    [
        ("repeat", "copied from too near"),
        ("halo", "blended into the wrong rim"),
        ("seam", "no blending"),
        ("shadow", "shadow left out"),
        ("tone", "copied from another light"),
        ("invented", "too little context"),
        ("overreach", "outline too loose"),
        ("lost", "unknown"),
    ],
)
def test_each_cause_has_its_condition(kind, cause):
    assert group([finding(kind, [150, 120, 60, 60])], REGION)[0].cause == cause


def test_places_far_apart_are_groups_of_their_own_the_worst_first():
    groups = group(
        [
            finding("seam", [100, 100, 10, 10], severity=0.2),
            finding("seam", [280, 180, 10, 10], severity=0.9),
        ],
        REGION,
    )
    assert [one.words.split(":")[0] for one in groups] == ["lower right", "upper left"]


def test_a_hint_comes_after_what_is_found_though_it_may_name_the_cause():
    found = [
        finding("shadow", [290, 180, 10, 10], severity=0.9),
        finding("seam", [100, 100, 10, 10], severity=0.3),
    ]
    assert [one.cause for one in group(found, REGION)] == ["no blending", "shadow left out"] and [
        f.kind for f in found
    ] == ["seam", "shadow"]
    # A shadow that ends at the outline is an edge there too.
    found = [
        finding("shadow", [105, 100, 40, 10], severity=0.9),
        finding("seam", [100, 100, 40, 10], severity=0.3),
    ]
    (only,) = group(found, REGION)
    assert only.cause == "shadow left out" and [f.kind for f in found] == ["seam", "shadow"]


def test_a_copy_comes_before_the_lines_that_it_broke_and_behind_what_is_worse_elsewhere():
    line, copy, smear = (
        finding("line", [150, 120, 20, 20], severity=0.6),
        finding("repeat", [140, 110, 60, 60], severity=0.2),
        finding("smear", [280, 180, 20, 20], severity=0.9),
    )
    assert [f.kind for f in in_order([line, copy, smear])] == ["smear", "repeat", "line"]
    # What is known of a turned copy may be less than what it brought.
    wide = finding("tone", [120, 100, 120, 90], severity=0.9)
    assert [f.kind for f in in_order([wide, copy])] == ["repeat", "tone"]


def test_a_place_is_said_in_words():
    assert place_words([100, 100, 200, 100], REGION) == "all over"
    assert place_words([190, 140, 20, 20], REGION) == "middle"
    assert place_words([280, 140, 20, 20], REGION) == "right"


def test_a_step_that_persists_is_a_seam_and_a_bulge_is_a_halo():
    box = [0.0, 0.0, 50.0, 10.0]
    offsets = np.arange(-30, 31)
    step = np.where(offsets < 0, 8.0, 0.0)
    bulge = 8.0 * np.exp(-((offsets / 3.0) ** 2))
    assert [
        r.kind
        for r in arbitrate([reading("halo", box, profile=step), reading("seam", box, profile=step)])
    ] == ["seam"]
    (kept,) = arbitrate([reading("halo", box, profile=bulge), reading("seam", box, profile=bulge)])
    assert (kept.kind, kept.runner_up) == ("halo", "seam")


def test_the_same_kind_twice_at_one_place_is_one_finding_and_two_places_are_two():
    twice = [
        reading("seam", [0, 0, 50, 10], 0.7),
        reading("seam", [2, 0, 48, 10], 0.9),
        reading("seam", [200, 0, 50, 10], 0.6),
    ]
    assert [r.score for r in arbitrate(twice)] == [0.9, 0.6]


def test_overall_is_one_where_nothing_was_found_and_falls_with_every_finding():
    assert overall([], {"seam": 0.0}) == 1.0
    one = overall([finding("seam", [0, 0, 1, 1])], {"seam": 0.9})
    two = overall(
        [finding("seam", [0, 0, 1, 1]), finding("halo", [0, 0, 1, 1])], {"seam": 0.9, "halo": 0.9}
    )
    assert 1 > one > two > 0
    assert overall([finding("seam", [0, 0, 1, 1], severity=0.9)], {"seam": 0.9}) < overall(
        [finding("seam", [0, 0, 1, 1], severity=0.1)], {"seam": 0.9}
    )


def test_a_report_refuses_numbers_that_are_none():
    report = Report("0", {"x": float("nan")}, {}, [], {}, {}, 1.0)
    with pytest.raises(ValueError, match="undefined"):
        report.to_json()
    assert '"overall": 0.333333' in Report("0", {}, {}, [], {}, {}, 1 / 3).to_json()
