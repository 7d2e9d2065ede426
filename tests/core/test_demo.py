"""The demo's pictures and attempts fit together. What is found in them is looked for where they
are judged, in the browser's tests.
"""

import cv2
import numpy as np
import pytest

from demo import scenario
from demo.names import PICTURES


@pytest.mark.parametrize("picture", scenario.PICTURES_OF_JOB, ids=lambda picture: picture.slug)
def test_pictures_truths_and_masks_fit_together(picture):
    it = scenario.scene(picture.slug)
    assert it.original.shape == it.truth.shape and len(it.regions) == len(picture.regions)
    outside = ~np.any(it.regions, axis=0)
    inside = np.any(it.regions, axis=0)
    difference = np.abs(it.original.astype(int) - it.truth).mean(axis=2)
    assert difference[outside].mean() < 6 < 15 < difference[inside].mean()


@pytest.mark.parametrize("picture", scenario.PICTURES_OF_JOB, ids=lambda picture: picture.slug)
def test_the_attempt_by_hand_touches_nothing_outside_its_regions(picture):
    it = scenario.scene(picture.slug)
    (by_hand,) = (one for one in picture.attempts if one.make is scenario.hand)
    outside = ~np.any(it.regions, axis=0)
    assert np.array_equal(by_hand.make(it)[outside], it.original[outside])


def test_all_kinds_that_are_examined_occur():
    from zweiblick_core.kinds import REGISTRY

    # Overreach is no region's: it is looked for where the attempt that has it is judged.
    assert {kind for kind, *_ in scenario.MEANT} == set(REGISTRY)


def test_slips_stand_in_each_state_and_only_ruled_regions_are_on_them():
    assert {trip.state for trip in scenario.TRIPS} == {
        "written",
        "sent",
        "working",
        "returned",
        "failed",
        "withdrawn",
        "question",
        "declined",
        "settled",
    }
    for trip in scenario.TRIPS:
        assert any(
            (ruled.picture, ruled.attempt, ruled.ruling) == (trip.picture, trip.attempt, "rework")
            for ruled in scenario.RULED
        )


def test_people_and_attempts_are_complete():
    assert {role for _, _, role in scenario.PEOPLE} == {"supervisor", "retoucher", "guest"}
    assert all(2 <= len(picture.attempts) <= 7 for picture in scenario.PICTURES_OF_JOB)


def test_pictures_that_are_hard_in_a_way_of_their_own_are_there():
    at = {picture.slug: scenario.scene(picture.slug) for picture in scenario.PICTURES_OF_JOB[5:]}
    # Solid and translucent lettering: how far the wall is seen through.
    wall = at["wall"]
    solid, thin = (
        np.abs(wall.original.astype(int) - wall.truth)[region].mean() for region in wall.regions
    )
    assert solid > 60 > 30 > thin > 15
    # A thing that the frame cuts.
    assert at["corner"].regions[0][:, 0].sum() > 100
    # A crowd: each region touches or nearly touches the next.
    deck = at["deck"].regions
    near = lambda one, other: (cv2.dilate(one.astype(np.uint8), np.ones((17, 17))) > 0)[other].any()
    assert near(deck[0], deck[1]) and near(deck[1], deck[2])
    # One motif three times, none the same as another.
    shots = [at[f"door-{number}"].original for number in (1, 2, 3)]
    assert len({shot.shape for shot in shots}) == 1
    assert not any(np.array_equal(shots[0], other) for other in shots[1:])
    assert {method for method in scenario.TRIAL.methods} and len(scenario.TRIAL.methods) == 4


def test_every_picture_can_be_asked_for_by_its_name():
    assert [one.slug for one in scenario.PICTURES_OF_JOB] == list(PICTURES)


def test_the_second_job_has_forty_rulings_and_what_was_signed_holds():
    from demo import leaflet

    assert sum(len(ruled) for ruled in leaflet.RULED.values()) == 40
    for picture in leaflet.PICTURES:
        it = leaflet.scene(picture.slug)
        assert len(leaflet.RULED[picture.slug]) == len(picture.attempts)
        outside = ~it.regions[0]
        apart = np.abs(it.original.astype(int) - it.truth).mean(axis=2)
        assert apart[outside].mean() < 1 < 15 < apart[~outside].mean()
    for slug in (*leaflet.SIGNED, leaflet.BARRED):
        assert leaflet.RULED[slug][-1] == "passes"
    barred = next(one for one in leaflet.PICTURES if one.slug == leaflet.BARRED)
    assert barred.attempts[-1].settings["terms"] == "private use only"
    assert {said.picture for said in leaflet.REMARKS} <= set(leaflet.SIGNED)
