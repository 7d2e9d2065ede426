"""What a patch of another tone is told by where the ground itself is light and dark."""

import cv2
import numpy as np
import pytest
from builders import disc, holding, png, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.tones import humps, membrane
from zweiblick_core.features.tones.humps import heights, humps_of, stands_out, steepness
from zweiblick_core.features.tones.humps import steepness_about as _steepness_about
from zweiblick_core.features.tones.membrane import residual_between as _between
from zweiblick_core.features.tones.membrane import surroundings_at as _around_at
from zweiblick_core.io import read
from zweiblick_core.kinds import tone
from zweiblick_core.regions.masks import from_mask

SHAPE = (400, 560)
AREA = disc(SHAPE, 280, 200, 58)
Y, X = np.mgrid[: SHAPE[0], : SHAPE[1]].astype(np.float32)


def judged(behind, fill):
    whole = lambda plane: np.clip(plane, 0, 255).round().astype(np.uint8)
    truth = whole(behind)
    return check(
        read(png(with_thing(truth, AREA))),
        read(png(np.where(AREA[..., None], holding(whole(fill), AREA), truth))),
        from_mask(AREA),
    ).regions[0]


def tones(region):
    return [finding for finding in region.findings if finding.kind == "tone"]


@pytest.mark.slow
@pytest.mark.parametrize("along, middle", [(X, 280), (Y, 225)])
def test_a_board_that_goes_on_to_both_sides_is_no_patch(along, middle, monkeypatch):
    ground = np.where(np.abs(along - middle) < 12, 200, 110)[..., None] + np.random.default_rng(
        6
    ).normal(0, 1.4, (*SHAPE, 3))
    assert not tones(judged(ground, ground))
    # Where the board ends with the fill, or if nobody asked what lies beside, it would be.
    ended = np.full_like(ground, 110) + np.random.default_rng(7).normal(0, 1.4, ground.shape)
    assert judged(ended, ground).scores["tone"] > 0.5
    monkeypatch.setattr(tone, "LIKE", 0.0)
    assert tones(judged(ground, ground))


def test_what_lies_between_is_a_straight_line_from_one_side_to_the_other():
    colour = np.zeros((30, 30, 3), np.float32)
    colour[..., 0] = np.linspace(20, 80, 30)[:, None]
    shape = np.ones((8, 8), bool)
    colour[12:18, 12:18, 0] += 15
    around = _around_at(colour, shape, (11, 11), np.ones((30, 30), bool))
    for departs in _between(around):
        assert (
            departs.shape == (8, 8, 3)
            and np.allclose(departs[2:6, 2:6, 0], 15, atol=0.2)
            and np.allclose(departs[..., 1:], 0)
        )
    # Nothing known on one side of it: what lies on the other; on neither: infinite.
    known = np.ones((30, 30), bool)
    known[:11] = known[19:] = False
    assert np.isinf(_between(_around_at(colour, shape, (11, 11), known))[0]).all()


@pytest.mark.parametrize(("band", "patch", "stands"), [(0, 6, True), (9, 0, False), (4, 6, True)])
def test_a_hump_stands_out_from_side_to_side_as_well_as_from_top_to_bottom(band, patch, stands):
    shape = disc((40, 40), 20, 20, 15)
    hump = humps_of(shape)[1]
    height = np.array([1.0, 0.4, -0.3])
    # A band of bricks between boards and setts, soft at its edges, that goes on to one side at
    # least.
    along = np.clip((13 - np.abs(np.arange(40) - 20)) / 6, 0, 1)[:, None]
    colour = (
        np.random.default_rng(2).normal(0, 0.3, (40, 40, 3))
        + (band * along)[..., None] * height
        + (patch * hump)[..., None] * height
    )
    ways = stands_out(
        colour.astype(np.float32),
        hump,
        np.ones((40, 40), bool),
        heights(colour.astype(np.float32), [hump], np.ones((40, 40), bool))[0],
    )
    assert (ways > 0.4) is stands if stands else ways < 0.2


def test_where_the_frame_leaves_no_side_it_says_nothing():
    hump = np.tile(np.clip((13 - np.abs(np.arange(40.0) - 20)) / 6, 0, 1)[:, None], (1, 40)).astype(
        np.float32
    )
    colour = hump[..., None] * np.array([5.0, 1.0, 0.0], np.float32)
    assert stands_out(colour, hump, np.ones((40, 40), bool), np.array([5.0, 1.0, 0.0])) == 1.0


@pytest.mark.parametrize("levels", [-60, -26, 26, 60])
def test_a_patch_is_reported_however_much_darker_or_lighter_it_is(levels):
    ground = (
        130 + 8 * np.sin(X / 90)[..., None] + np.random.default_rng(16).normal(0, 1.4, (*SHAPE, 3))
    )
    region = judged(
        ground, ground + levels * np.clip((58 - np.hypot(X - 280, Y - 200)) / 10, 0, 1)[..., None]
    )
    assert region.scores["tone"] > 0.9
    # By what a patch departs from the membrane over it: more than nine CIELAB down is no less than
    # up.
    assert (
        tone.pooled_residual(np.full((1, 8, 8, 3), levels, float), np.ones((8, 8), bool))[0][
            4, 4, 0
        ]
        == levels
    )


def hedged(seed=4):
    """A calm panel, about as large as the region needs, in a busy hedge, light and dark in blotches
    of the region's size.
    """
    rng = np.random.default_rng(seed)
    blotch = cv2.GaussianBlur(rng.normal(size=SHAPE).astype(np.float32), (0, 0), 14)
    fine = cv2.GaussianBlur(rng.normal(size=SHAPE).astype(np.float32), (0, 0), 2)
    hedge = 110 + 34 * blotch / blotch.std() + 22 * fine / fine.std()
    panel = np.clip((95 - np.maximum(np.abs(X - 280), np.abs(Y - 200))) / 2 + 0.5, 0, 1)
    return (hedge * (1 - panel) + 150 * panel)[..., None] + rng.normal(0, 1.4, (*SHAPE, 3))


@pytest.mark.slow
def test_a_panel_is_not_judged_by_the_hedge_about_it(monkeypatch):
    ground = hedged()
    patched = ground + 14 * np.clip((58 - np.hypot(X - 280, Y - 200)) / 30, 0, 1)[..., None]
    assert not tones(judged(ground, ground))
    assert tones(judged(ground, patched))
    # If what the hedge's slopes come to were natural on the panel too, nothing could be told.
    monkeypatch.setattr(humps, "STEADY", 1e6)
    monkeypatch.setattr(tone, "STEADY", 1e6)
    monkeypatch.setattr(membrane, "_CALM", 1e6)
    assert not tones(judged(ground, patched))


@pytest.mark.slow
def test_what_cannot_be_reported_still_ranks_attempts(monkeypatch):
    ground = hedged()
    faint = ground + 1.5 * np.clip((58 - np.hypot(X - 280, Y - 200)) / 30, 0, 1)[..., None]
    monkeypatch.setattr(tone, "RESTLESS", (0.0, 0.0))
    monkeypatch.setattr(tone, "SLOPING", (0.0, 0.0))
    as_it_was, patched = judged(ground, ground), judged(ground, faint)
    assert "tone" in as_it_was.abstained and "tone" in patched.abstained
    assert as_it_was.scores["tone"] < patched.scores["tone"] < 0.5
    assert not tones(patched)


def test_how_calm_a_place_is_says_its_ground_and_not_only_a_fill_that_was_blurred():
    shape = disc((40, 40), 20, 20, 14)
    colour = np.random.default_rng(8).normal(0, 2, (60, 60, 3)).astype(np.float32)
    colour[10:50, 10:50][shape] = 0
    inside = steepness(colour[10:50, 10:50], [humps_of(shape)[2]], shape, np.zeros((1, 3)))
    about = _steepness_about(colour, shape, (10, 10), np.ones((60, 60), bool))
    # Three in four differences of two normal deviates of 2 are less than 3.25, in each of three
    # channels.
    assert inside[0] == 0 and about == pytest.approx(3.25 * np.sqrt(3), rel=0.1)
    assert _steepness_about(colour, shape, (10, 10), np.zeros((60, 60), bool)) == 0


def test_steepness_is_of_what_the_hump_leaves():
    shape = np.ones((40, 40), bool)
    hump = humps_of(disc((40, 40), 20, 20, 15))[1]
    patch = (hump[..., None] * np.array([6.0, -2.0, 1.0])).astype(np.float32)
    assert steepness(patch, [hump], shape, np.array([[6.0, -2.0, 1.0]]))[0] == pytest.approx(
        0, abs=1e-5
    )
    assert steepness(patch, [hump], shape, np.zeros((1, 3)))[0] > 0.3
