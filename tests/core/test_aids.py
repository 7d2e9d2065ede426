"""Aids: each brings out what it says, and a tile is what the whole frame would show there."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from builders import disc, filled, textured

from zweiblick_core.aids import AIDS, Known, aid_of, find_lines, find_matches, measure_ground
from zweiblick_core.regions import Region

FRAME = textured(360, 480, seed=12)
MASK = disc(FRAME.shape[:2], 240, 180, 50)
REGION = Region("1", MASK[130:231, 190:291], (190, 130, 101, 101))


def known_of(frame, region=REGION):
    return Known(measure_ground(FRAME), find_lines(frame), (find_matches(frame, region),))


@pytest.mark.parametrize("aid", AIDS, ids=lambda aid: aid.name)
def test_a_tile_is_what_the_whole_frame_shows_there(aid):
    known = known_of(FRAME)
    whole = aid.draw(FRAME, known, 0, 0)
    assert whole.shape == FRAME.shape and whole.dtype == np.uint8
    for x, y, w, h in ((0, 0, 200, 160), (130, 90, 220, 200), (300, 240, 180, 120)):
        left, top = max(0, x - aid.margin), max(0, y - aid.margin)
        right, bottom = min(480, x + w + aid.margin), min(360, y + h + aid.margin)
        patch = aid.draw(np.ascontiguousarray(FRAME[top:bottom, left:right]), known, left, top)
        part = patch[y - top : y - top + h, x - left : x - left + w].astype(int)
        apart = np.abs(part - whole[y : y + h, x : x + w])
        # An antialiased line that is cut by the patch's edge may round differently; nothing else
        # may.
        assert apart.max() <= 1 or (aid.name == "lines" and (apart > 1).mean() < 1e-3)


def shows(name, frame, mask=MASK):
    """How far inside and outside differ, in deviations of what is outside."""
    drawn = aid_of(name).draw(frame, known_of(frame), 0, 0).astype(float).mean(axis=2)
    plain = frame.astype(float).mean(axis=2)
    outside = ~cv2.dilate(mask.astype(np.uint8), np.ones((25, 25))).astype(bool)
    inner = cv2.erode(mask.astype(np.uint8), np.ones((15, 15))).astype(bool)
    measure = lambda values: (
        abs(values[inner].mean() - values[outside].mean()) / values[outside].std(),
        values[inner].std() / values[outside].std(),
    )
    return measure(drawn), measure(plain)


def test_missing_grain_shows_in_the_grain_and_hardly_in_the_picture():
    smooth = cv2.GaussianBlur(FRAME, (0, 0), 1.5)
    noisy = np.clip(smooth + np.random.default_rng(2).normal(0, 2.2, FRAME.shape), 0, 255).astype(
        np.uint8
    )
    (_, drawn), (_, plain) = shows("grain", filled(noisy, MASK, smooth))
    (_, drawn_whole), (_, plain_whole) = shows("grain", noisy)
    assert drawn < 0.6 * drawn_whole and plain > 0.95 * plain_whole


def test_a_weak_patch_of_tone_shows_three_times_as_strong():
    patch = filled(FRAME, MASK, FRAME.astype(float) + 6)
    drawn, plain = (
        np.float64(aid_of("tone").draw(one, known_of(FRAME), 0, 0)[180, 240].mean())
        for one in (patch, FRAME)
    )
    assert drawn - plain == pytest.approx(18, abs=4)


def test_denoising_brings_out_an_outline_that_other_grain_hid():
    flat = np.full_like(FRAME, 128)
    rng = np.random.default_rng(4)
    noisy = np.clip(flat + rng.normal(0, 4, flat.shape), 0, 255).astype(np.uint8)
    coarse = cv2.GaussianBlur(rng.normal(0, 1, flat.shape[:2]), (0, 0), 2)
    fill = filled(noisy, MASK, flat + (4 * coarse / coarse.std())[..., None])
    drawn = (
        aid_of("denoised").draw(fill, Known(measure_ground(noisy)), 0, 0).astype(float).mean(axis=2)
    )
    outside = ~cv2.dilate(MASK.astype(np.uint8), np.ones((25, 25))).astype(bool)
    assert (
        drawn[MASK].std() > 2 * drawn[outside].std()
        and fill.astype(float).mean(axis=2)[MASK].std()
        < 2 * fill.astype(float).mean(axis=2)[outside].std()
    )


@pytest.mark.parametrize(
    "name", ["denoised", "sharpened", "grain", "fine-detail", "local-contrast"]
)
def test_nothing_is_made_up_where_there_is_nothing(name):
    flat = np.full_like(FRAME, (90, 120, 150))
    drawn = aid_of(name).draw(flat, Known(measure_ground(FRAME)), 0, 0).astype(int)
    assert (
        np.abs(drawn - (flat if name in ("denoised", "sharpened") else 128)).max() <= 1
    )  # colour there and back rounds


def test_the_dark_end_is_spread_and_the_light_end_keeps_its_order():
    ramp = np.repeat(np.repeat(np.arange(256, dtype=np.uint8)[None, :, None], 4, 0), 3, 2)
    for name, low, high in (("darks", 0, 85), ("lights", 171, 255)):
        row = aid_of(name).draw(ramp, known_of(FRAME), 0, 0)[0, :, 0].astype(int)
        assert (
            (np.diff(row) >= 0).all()
            and row[high] - row[low] > 2 * (high - low)
            and row[0] == 0
            and row[255] == 255
        )


def test_a_copied_patch_is_one_flat_colour_and_says_where_it_comes_from():
    shifted = np.roll(FRAME, (20, 130), axis=(0, 1))
    copied = filled(FRAME, MASK, shifted)
    found = find_matches(copied, REGION)
    inner = cv2.erode(found.inside.astype(np.uint8), np.ones((9, 9))).astype(bool)
    assert found.coherent[inner].mean() > 0.9
    assert np.median(found.offsets[inner], axis=0) == pytest.approx([-130, -20], abs=1)
    honest = find_matches(FRAME, REGION)
    assert honest.coherent[inner].mean() < 0.25
    # Seeded: the same picture gives the same map.
    assert np.array_equal(find_matches(copied, REGION).offsets, found.offsets)


def test_lines_know_the_point_they_share_and_the_horizon_through_it():
    frame = np.full((400, 600, 3), 120, np.uint8)
    rng = np.random.default_rng(1)
    for y in range(20, 400, 24):
        cv2.line(
            frame,
            (0, y * 2 - 200),
            (600, round(200 + (y * 2 - 400) * 0.25)),
            (int(rng.integers(150, 230)),) * 3,
            3,
            cv2.LINE_AA,
        )
    found = find_lines(frame)
    at = next(point for point in found.points if point is not None)
    # All lines meet at (800, 200): each runs from 2y-200 at the left to a quarter of its height off
    # the middle at 600.
    assert (
        at == pytest.approx((800, 200), abs=12)
        and found.horizon is not None
        and found.horizon[1] == pytest.approx(200, abs=12)
    )
    assert find_lines(np.full((40, 40, 3), 90, np.uint8)).segments == ()


@pytest.mark.parametrize("shape", [(1, 1), (3, 500), (64, 64)])
def test_odd_frames_are_drawn_all_the_same(shape):
    tiny = np.full((*shape, 3), 77, np.uint8)
    ground = Known(measure_ground(tiny), find_lines(tiny), ())
    for aid in AIDS:
        assert aid.draw(tiny, ground, 0, 0).shape == tiny.shape


def test_a_region_without_surroundings_has_no_matches():
    whole = Region("1", np.ones((64, 64), bool), (0, 0, 64, 64))
    found = find_matches(FRAME[:64, :64], whole)
    assert not found.coherent.any()
