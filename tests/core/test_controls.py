"""Carriers, rims, control places: what every null stands on."""

import cv2
import numpy as np
import pytest
from builders import disc, jpeg, png, textured, with_thing

from zweiblick_core.align import Pair
from zweiblick_core.features.rim.nulls import (
    FLOOR,
    learn_spread,
    means_along,
    pieces_of,
    planes_of,
    read_by,
)
from zweiblick_core.io import read
from zweiblick_core.null import excess, natural_range, outline_places, score_of
from zweiblick_core.regions import from_mask
from zweiblick_core.scene.boundary import REACH, Rim, rims_of, unroll
from zweiblick_core.scene.carriers import measure_carriers
from zweiblick_core.scene.compression import measure_compression
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.noise import measure_grain
from zweiblick_core.scene.planes import lab_of, luma_of
from zweiblick_core.scene.window import open_window

TRUTH = textured(420, 520, seed=2)
MASK = disc(TRUTH.shape[:2], 250, 210, 60)


def luma(pixels):
    return luma_of(pixels.astype(np.float32))


def test_colours_are_the_same_whether_a_picture_is_brought_over_by_some_rows_or_whole():
    pixels = TRUTH.astype(np.float32)
    np.testing.assert_allclose(
        lab_of(pixels), cv2.cvtColor(pixels / 255, cv2.COLOR_RGB2LAB), atol=1e-4
    )


def test_compression_shows_in_the_pixels_whatever_the_file_says():
    clean, squeezed = read(png(TRUTH)), read(png(read(jpeg(TRUTH, 60)).pixels))
    assert not measure_compression(clean, luma(clean.pixels)).seen
    found = measure_compression(squeezed, luma(squeezed.pixels))
    assert found.seen and not found.lossy and found.grid == (0, 0)


@pytest.mark.parametrize("sigma", [1.0, 2.5, 5.0])
def test_grain_is_measured_in_levels(sigma):
    rng = np.random.default_rng(0)
    picture = np.full((512, 512), 120.0, np.float32) + rng.normal(0, sigma, (512, 512)).astype(
        np.float32
    )
    found = measure_grain(picture)
    assert found.sigma == pytest.approx(sigma, rel=0.12) and abs(found.correlation) < 0.1


def test_blurred_grain_is_correlated_and_flat_pictures_have_none():
    import cv2

    noise = cv2.GaussianBlur(
        np.random.default_rng(0).normal(0, 6, (256, 256)).astype(np.float32), (0, 0), 1.0
    )
    assert measure_grain(noise + 120).correlation > 0.3
    assert measure_grain(np.full((256, 256), 120, np.float32)).sigma == 0
    assert measure_grain(np.zeros((8, 8), np.float32)).blocks == 0


def test_carriers_are_stated_for_both_pictures():
    first, second = read(png(TRUTH)), read(jpeg(TRUTH, 80))
    facts = measure_carriers(first, second, luma(first.pixels), luma(second.pixels)).facts()
    assert facts["original"]["compression"]["lossy"] is False
    assert facts["result"]["compression"]["quality"] == pytest.approx(80, abs=1)


def test_a_rims_normals_point_outward_and_its_points_lie_on_the_edge():
    (rim,) = rims_of(MASK)
    away = rim.points - np.array([250, 210])
    assert np.hypot(*away.T) == pytest.approx(np.full(len(rim), 60.5), abs=1.2)
    assert (np.sum(away * rim.normals, axis=1) > 0).all() and rim.usable.all()


def test_a_hole_has_a_rim_of_its_own_that_points_into_the_hole():
    outer, inner = rims_of(MASK & ~disc(MASK.shape, 250, 210, 25))
    assert len(outer) > len(inner)
    assert (np.sum((inner.points - np.array([250, 210])) * inner.normals, axis=1) < 0).mean() > 0.95


def test_a_rim_along_the_frame_is_not_usable():
    (rim,) = rims_of(disc((200, 200), 0, 100, 50))
    assert 0.3 < rim.usable.mean() < 0.9


def test_unrolling_puts_the_inside_left_and_the_outside_right():
    plane = np.where(MASK, 10.0, 90.0).astype(np.float32)
    strip = unroll(plane, rims_of(MASK)[0])
    assert strip.shape[1:] == (2 * REACH + 1, 1)
    assert strip[:, : REACH - 2].max() == 10 and strip[:, REACH + 3 :].min() == 90


def test_control_places_avoid_what_is_forbidden_and_stay_inside():
    forbidden = disc(MASK.shape, 250, 210, 90)
    places = outline_places(MASK, forbidden, luma(TRUTH), 12, seed=3)
    assert len(places) >= 4 and places == outline_places(MASK, forbidden, luma(TRUTH), 12, seed=3)
    ys, xs = np.nonzero(MASK)
    for dx, dy in places:
        assert (
            xs.min() + dx >= 0
            and ys.min() + dy >= 0
            and xs.max() + dx < 520
            and ys.max() + dy < 420
        )
        assert forbidden[ys + dy, xs + dx].mean() < 0.03


def test_there_is_no_room_for_controls_around_a_region_that_fills_the_picture():
    assert (
        outline_places(
            np.ones((40, 40), bool), np.zeros((40, 40), bool), np.zeros((40, 40), np.float32), 5, 1
        )
        == []
    )
    assert (
        outline_places(
            np.zeros((40, 40), bool), np.zeros((40, 40), bool), np.zeros((40, 40), np.float32), 5, 1
        )
        == []
    )


def test_excess_and_score_are_monotone_and_half_at_the_threshold():
    null = np.array([1.0, 2.0, 3.0, 4.0, 5.0])
    far = excess(np.linspace(0, 20, 30), null, 0.1)
    assert (np.diff(far) > 0).all() and excess(np.array([3.0]), null, 0.1)[0] == 0
    assert (
        score_of(np.array([4.0]), 4.0, 1.0)[0] == 0.5
        and (np.diff(score_of(far, 4.0, 1.0)) >= 0).all()
    )
    natural = natural_range(null, "outline")
    assert natural.n == 5 and 1 <= natural.low < natural.high <= 5


def test_means_along_a_ring_go_round_it_and_the_last_is_the_whole():
    rim = Rim(np.zeros((100, 2)), np.zeros((100, 2)), 1.0, np.ones(100, bool))
    values = np.zeros((100, 1))
    values[0] = 41
    short, _, whole = means_along(values, rim)
    assert short[99, 0] == pytest.approx(1) and short[50, 0] == 0 and (whole == 0.41).all()


def test_spread_counts_a_rare_direction_for_more():
    rng = np.random.default_rng(1)
    differences = rng.normal(0, 1, (400, 2, 3)) * np.array([6.0, 1.0, 1.0])
    spread = learn_spread([[differences] * 3])
    assert spread.amount(np.array([0.0, 6.0, 0.0]), 0) > 3 * spread.amount(
        np.array([6.0, 0.0, 0.0]), 0
    )
    nothing = learn_spread([[np.zeros((50, 2, 3))] * 3])
    assert nothing.amount(np.array([FLOOR, 0.0, 0.0]), 0) == pytest.approx(1, abs=0.1)


def test_hot_stretches_go_round_the_ring_and_close_small_gaps():
    hot = np.zeros(60, bool)
    assert pieces_of(hot, 4) == []
    hot[[0, 1, 2, 3, 57, 58, 59]] = True
    ((start, end),) = pieces_of(hot, 4)
    assert (start % 60, end - start) == (57, 7)
    hot[:] = True
    assert pieces_of(hot, 4) == [(0, 60)]


def test_a_strip_is_summed_across_by_weights_channel_by_channel():
    across = np.arange(-REACH, REACH + 1, dtype=float)
    values = np.stack([across, 2 * across, across**2], -1)[None].repeat(5, axis=0)
    inside, outside = (across >= -5) & (across <= -1), (across >= 1) & (across <= 5)
    read = read_by(
        planes_of(values), np.stack([inside / 5, outside / 5], -1)[None].repeat(3, axis=0)
    )
    assert read.shape == (5, 2, 3)
    assert read[2] == pytest.approx(np.array([[-3, -6, 11], [3, 6, 11]]))


def test_a_window_shares_its_planes_and_keeps_other_regions_apart():
    other = disc(TRUTH.shape[:2], 420, 210, 25)
    both = MASK | other
    regions = from_mask(both)
    window = open_window(
        Scene(Pair(read(png(with_thing(TRUTH, both))), read(png(TRUTH)))), regions[0], regions
    )
    assert window.lab_result is window.lab_result and window.mask.sum() == MASK.sum()
    assert window.elsewhere.sum() == both.sum() and not (window.changed & other).any()
    assert window.filled[210 - window.origin[1], 250 - window.origin[0]]
    assert window.to_frame(np.array([[0, 0]])) == [list(map(float, window.origin))]
