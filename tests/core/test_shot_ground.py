"""The ground is held still, and outlines are carried through the shot."""

from __future__ import annotations

import pickle

import cv2
import numpy as np
import pytest
from builders import disc
from moving import film, shot_of

from zweiblick_core.shots.carrying import Outlines
from zweiblick_core.shots.drawn import by_region
from zweiblick_core.shots.following import followed, in_small, outlines_of
from zweiblick_core.shots.timing import Sampler


def likeness(one: np.ndarray, other: np.ndarray) -> float:
    whole = (one | other).sum()
    return float((one & other).sum() / whole) if whole else 1.0


def follow(made, drawn):
    sampler = Sampler(made.original[0].shape[:2])
    small, after = (
        in_small(shot_of(frames), len(frames), sampler, drawn)
        for frames in (made.original, made.result)
    )
    motion, moves = followed(small, drawn, after, {n: n for n in range(len(made.original))})
    return motion, moves, outlines_of(small, drawn, motion, moves)


@pytest.mark.parametrize("passing", [False, True])
def test_ground_that_is_held_still_stays_where_it_was(passing):
    made = film(passing=passing)
    motion, moves, _ = follow(made, {18: made.masks[18]})
    assert not moves and motion.sure.all()
    # About the thing, where it is followed, to parts of a pixel.
    rows, columns = np.nonzero(cv2.dilate(made.masks[18].astype(np.uint8), np.ones((31, 31))))
    there = np.stack([columns, rows], axis=1)[None].astype(float)[:, ::40]
    for number in (0, 7, 29, 35):
        true = made.camera[18] @ np.linalg.inv(made.camera[number])
        inverse = np.linalg.inv(true)
        here = cv2.perspectiveTransform(there, inverse)
        found = cv2.perspectiveTransform(here, motion.matrices[number])
        assert np.hypot(*(found - there)[0].T).max() < 0.2


def test_an_outline_that_was_drawn_once_is_carried_with_the_ground():
    made = film()
    _, _, outlines = follow(made, {18: made.masks[18]})
    assert min(likeness(outlines[n], made.masks[n]) for n in range(36)) > 0.93


def test_an_outline_that_was_corrected_in_a_frame_is_carried_from_there():
    made = film()
    wider = cv2.dilate(made.masks[30].astype(np.uint8), np.ones((9, 9))).astype(bool)
    _, _, outlines = follow(made, {6: made.masks[6], 30: wider})
    assert np.array_equal(outlines[30], wider)
    assert likeness(outlines[10], made.masks[10]) > 0.93
    assert outlines[33].sum() > 1.15 * made.masks[33].sum()


def test_what_walks_is_followed_and_known_to_walk():
    made = film(walking=True)
    _, moves, outlines = follow(made, {n: made.masks[n] for n in range(2, 36, 8)})
    assert moves
    assert min(likeness(outlines[n], made.masks[n]) for n in range(36)) > 0.85


def test_what_was_drawn_once_is_known_to_walk_by_where_it_was_removed():
    made = film(walking=True)
    _, moves, _ = follow(made, {18: made.masks[18]})
    assert moves


def test_parts_of_a_mask_are_the_same_regions_in_every_frame():
    shape = (120, 300)
    masks = {
        number: disc(shape, 60 + 4 * number, 60, 15) | disc(shape, 200 + 4 * number, 60, 15)
        for number in (0, 5, 10)
    }
    found = by_region(masks)
    assert set(found) == {"1", "2"} and set(found["1"]) == {0, 5, 10}
    for number in masks:
        assert np.argwhere(found["1"][number])[:, 1].mean() == pytest.approx(60 + 4 * number, abs=1)
        assert np.argwhere(found["2"][number])[:, 1].mean() == pytest.approx(
            200 + 4 * number, abs=1
        )


def test_outlines_of_a_long_shot_keep_no_more_than_what_they_mark():
    masks = {number: disc((90, 160), 20 + 4 * number, 40, 11) for number in range(30)}
    kept = Outlines(masks)
    assert len(kept) == 30 and all(np.array_equal(kept[n], masks[n]) for n in masks)
    assert len(pickle.dumps(kept)) < 0.08 * len(pickle.dumps(masks))
    empty = Outlines({3: np.zeros((90, 160), bool)})
    assert empty[3].shape == (90, 160) and not empty[3].any()
