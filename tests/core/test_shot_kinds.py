"""Each kind that only a shot has is found where it is, and nothing where the fill is the truth."""

from __future__ import annotations

import json
from functools import cache

import numpy as np
import pytest
from moving import film, shot_of

from demo.filmed import FAULTS
from zweiblick_core.shots import check_shot
from zweiblick_core.shots.report import ShotReport

#: How plain a fault is for which it is surely found.
AMOUNT = {"pop": 2.0, "light": 2.0}


@cache
def report(fault: str = "", **scene: float) -> ShotReport:
    walking = fault == "shadow" or bool(scene.get("walking"))
    given = {**scene, "passing": scene.get("passing", fault == "occlusion"), "walking": walking}
    made = film(fault, AMOUNT.get(fault, 1.0), **given)
    every = range(2, 36, 8) if walking else (18,)
    drawn = {"1": {number: made.masks[number] for number in every}}
    return check_shot(shot_of(made.original), shot_of(made.result), drawn, stills=False)


def kinds(found: ShotReport) -> list[str]:
    return [one.kind for region in found.regions for one in region.findings]


@pytest.mark.parametrize("fault", FAULTS)
def test_a_fault_is_found_and_called_by_its_name(fault):
    assert fault in kinds(report(fault))


@pytest.mark.parametrize(
    "scene", [{}, {"passing": True}, {"walking": True}, {"pan": 0.0, "shake": 0.0}]
)
def test_a_fill_that_is_the_truth_has_no_finding(scene):
    assert kinds(report("", **scene)) == []


def test_a_pop_names_its_frame():
    made = film("pop", AMOUNT["pop"], walking=False)
    (pop,) = [one for one in report("pop").regions[0].findings if one.kind == "pop"]
    assert [pop.frames.worst] == made.wrong
    assert pop.frames.last - pop.frames.first <= 2


def test_what_is_eaten_is_so_where_something_passes_in_front():
    made = film("occlusion", passing=True, walking=False)
    (eaten,) = [one for one in report("occlusion").regions[0].findings if one.kind == "occlusion"]
    assert eaten.frames.worst in made.wrong
    region = report("occlusion").regions[0]
    assert set(region.covered) >= set(made.wrong[1:-1])


def test_a_drift_is_measured_in_pixels_a_frame():
    (drift,) = [one for one in report("drift").regions[0].findings if one.kind == "drift"]
    assert drift.measure.value == pytest.approx(0.12, abs=0.03)
    assert drift.measure.natural.high < 0.06


def test_what_walks_casts_its_shadow_and_what_stands_does_not():
    assert report("shadow").regions[0].moves
    assert "stands still" in report("drift").regions[0].abstained["shadow"]


def test_what_is_out_of_register_in_time_is_judged_as_it_was_shown():
    made = film("drift", walking=False, passing=False)
    shown = [*range(4, 20), *range(21, 36)]
    found = check_shot(
        shot_of(made.original),
        shot_of([made.result[number] for number in shown]),
        {"1": {18: made.masks[18]}},
        stills=False,
    )
    assert found.shot["timing"]["offset"] == 4 and found.shot["timing"]["dropped"] == [20]
    assert kinds(found) == ["drift"]


def test_without_masks_regions_are_proposed_from_what_changed():
    made = film("flicker", walking=False, passing=False)
    found = check_shot(shot_of(made.original), shot_of(made.result), {}, stills=False)
    assert [region.id for region in found.regions] == ["1"] and "flicker" in kinds(found)
    same = check_shot(shot_of(made.original), shot_of(made.original), {}, stills=False)
    assert same.overall == 0 and same.facts[-1]["words"] == "nothing was changed in this shot"


def test_a_shot_of_another_scene_is_unmatched_and_says_so():
    made = film(walking=False, passing=False)
    other = [
        np.random.default_rng(n).integers(0, 255, made.original[0].shape).astype(np.uint8)
        for n in range(36)
    ]
    found = check_shot(shot_of(made.original), shot_of(other), {"1": {18: made.masks[18]}})
    assert found.alignment["kind"] == "unmatched" and found.alignment["reason"]
    assert found.regions == [] and found.overall == 0


def test_a_fill_that_is_washed_out_in_every_frame_is_found_in_key_frames():
    import cv2

    made = film(walking=False, passing=False)
    washed = []
    for frame, mask in zip(made.result, made.masks, strict=True):
        soft = cv2.GaussianBlur(frame, (0, 0), 6)
        washed.append(np.where(mask[..., None], soft, frame))
    found = check_shot(shot_of(made.original), shot_of(washed), {"1": {18: made.masks[18]}})
    stills = [one for one in found.regions[0].findings if one.still is not None]
    assert {"smear", "soft"} & {one.kind for one in stills}
    frames = {one["frame"] for one in found.shot["key_frames"]}
    assert all({one.frames.first, one.frames.worst, one.frames.last} <= frames for one in stills)
    assert {one["why"] for one in found.shot["key_frames"]} <= {"fastest", "darkest", "middle"}


def test_the_report_is_json_of_the_checks_schema_with_frames():
    plain = json.loads(report("flicker").to_json())
    assert plain["schema"] == "zweiblick.check/1" and plain["shot"]["frames"] == 36
    (finding,) = [one for one in plain["regions"][0]["findings"] if one["kind"] == "flicker"]
    assert set(finding["frames"]) == {"first", "worst", "last"}
    assert (
        len(finding["course"]) == 36
        and max(one for one in finding["course"] if one is not None) == 1
    )
