"""What stands off from its surroundings as nothing else around does belongs to nothing here,
whatever it is made of.
"""

import cv2
import numpy as np
import pytest
from builders import disc, holding, png, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.islands import cells_surrounded, kept_in_all_directions
from zweiblick_core.io import read
from zweiblick_core.regions.masks import from_mask

SHAPE = (440, 620)
AREA = disc(SHAPE, 310, 220, 62)
Y, X = np.mgrid[: SHAPE[0], : SHAPE[1]].astype(np.float32)


def wall(seed=2):
    """Grey plaster with a broad black opening: black lies in this picture in plenty."""
    rng = np.random.default_rng(seed)
    plane = 150 + 6 * cv2.GaussianBlur(rng.normal(size=SHAPE).astype(np.float32), (0, 0), 3) * 6
    plane[:, 520:] = 24
    plane[:120, :200] = 24
    return np.clip(plane[..., None] + rng.normal(0, 1.5, (*SHAPE, 3)), 0, 255).astype(np.float32)


def put(ground, x, y, radius, level=24.0):
    amount = np.clip(radius - np.hypot(X - x, Y - y) + 0.5, 0, 1)[..., None]
    return (
        ground * (1 - amount)
        + (level + np.random.default_rng(9).normal(0, 1.5, ground.shape)) * amount
    )


def judged(behind):
    truth = np.clip(behind, 0, 255).round().astype(np.uint8)
    return check(
        read(png(with_thing(truth, AREA))), read(png(holding(truth, AREA))), from_mask(AREA)
    ).regions[0]


def named(region, kind="invented"):
    return [finding for finding in region.findings if finding.kind == kind]


@pytest.mark.slow
def test_a_black_disc_on_a_wall_is_reported_though_black_lies_around_in_plenty():
    region = judged(put(wall(), 318, 215, 24))
    (finding,) = named(region)
    assert (
        region.findings[0] is finding and finding.evidence.type == "island" and finding.score > 0.8
    )
    difference = finding.evidence.stands_off.difference
    assert difference.lightness < -30 and abs(difference.a) < 3
    # Where it is, and how large.
    x, y, w, h = finding.bbox
    assert abs(x + w / 2 - 318) < 5 and abs(y + h / 2 - 215) < 5 and 40 < w < 56 and 40 < h < 56
    assert finding.measure.value > 30 > finding.measure.natural.high


@pytest.mark.slow
def test_the_wall_itself_is_none():
    assert not named(judged(wall()))


@pytest.mark.slow
def test_nor_is_one_of_many_such_discs():
    ground = wall()
    for x in (60, 150, 230, 318, 400, 470):
        for y in (170, 215, 330):
            ground = put(ground, x, y, 24)
    assert not named(judged(ground))


@pytest.mark.slow
def test_nor_the_end_of_something_that_comes_in_from_outside():
    ground = wall()
    ground[205:235, :330] = 24
    assert not [finding for finding in named(judged(ground)) if finding.evidence.type == "island"]


@pytest.mark.slow
def test_nor_a_faint_spot():
    assert not named(judged(put(wall(), 318, 215, 24, 125.0)))


@pytest.mark.slow
def test_a_word_and_an_upright_thing_stand_off_though_they_are_longer_than_wide():
    ink = np.zeros(SHAPE, np.uint8)
    cv2.putText(ink, "RAM", (266, 235), cv2.FONT_HERSHEY_TRIPLEX, 1.4, 255, 4, cv2.LINE_AA)
    upright = np.zeros(SHAPE, np.uint8)
    cv2.ellipse(upright, (312, 222), (11, 40), 0, 0, 360, 255, -1)
    for thing in (ink, upright):
        amount = (thing / 255.0)[..., None]
        region = judged(wall() * (1 - amount) + 24 * amount)
        assert region.findings and region.findings[0].kind == "invented", [
            finding.kind for finding in region.findings
        ]


def patched(ground, levels, kinds=None):
    """Another light on the fill, with an edge of 28 px."""
    amount = np.clip((52 - np.hypot(X - 310, Y - 220)) / 28, 0, 1)[..., None]
    fill = ground - levels * amount + np.random.default_rng(3).normal(0, 0.8, ground.shape)
    truth, result = (
        np.clip(some, 0, 255).round().astype(np.uint8)
        for some in (ground, np.where(AREA[..., None], fill, ground))
    )
    return (
        check(read(png(with_thing(truth, AREA))), read(png(result)), from_mask(AREA), kinds=kinds)
        .regions[0]
        .findings
    )


@pytest.mark.slow
@pytest.mark.parametrize("levels", [30, 60])
def test_a_soft_patch_of_another_brightness_is_a_tone_and_nothing_invented(levels):
    plain = wall()
    plain[:, 520:], plain[:120, :200] = plain[:, 320:420], plain[240:360, :200]
    findings = patched(plain, levels)
    assert findings[0].kind == "tone" and all(finding.kind != "invented" for finding in findings)


def test_a_door_beside_a_wall_does_not_hide_a_patch_on_the_wall():
    (finding,) = patched(wall(), 60, ("tone",))
    assert finding.evidence.difference.lightness < -8


@pytest.mark.slow
def test_what_nearly_stands_off_ranks_before_what_does_not():
    clean, faint, fainter = (
        judged(wall()),
        judged(put(wall(), 310, 220, 24, 113.0)),
        judged(put(wall(), 310, 220, 24, 125.0)),
    )
    assert not named(faint) and not named(fainter)
    assert 0.5 > faint.scores["invented"] > fainter.scores["invented"] > clean.scores["invented"]


@pytest.mark.parametrize("radius", [3, 6])
def test_only_what_differs_in_every_direction_counts(radius):
    grid = np.full((40, 40, 3), 60.0, np.float32)
    grid[19:22, 19:22, 0] = 20
    grid[:, :8, 1] = 30
    kept = kept_in_all_directions(grid, (radius, radius))
    assert kept.shape == grid.shape and np.allclose(kept[20, 20], (-40, 0, 0), atol=1e-3)
    # A side of something large differs one way only; and at the corner too few ways lie in the
    # picture.
    assert not kept[30, 7].any() and not kept[0, 39].any()


def test_beyond_the_picture_nothing_surrounds_anything():
    # Cut off by the picture's end above: what lies beside and below says what is around.
    shape = np.zeros((12, 30), bool)
    shape[:, 4:26] = True
    within = lambda ends: cells_surrounded(shape, (9, 9), ends)
    assert (
        within((True, False, False, False))[2, 15]
        and not within((False, False, False, False))[2, 15]
    )


@pytest.mark.slow
@pytest.mark.parametrize("y", [24, 8])
def test_a_black_disc_at_the_pictures_end_is_reported_too(y):
    area = disc(SHAPE, 330, 20, 62)
    truth = np.clip(put(wall(), 335, y, 24), 0, 255).round().astype(np.uint8)
    region = check(
        read(png(with_thing(truth, area))), read(png(holding(truth, area))), from_mask(area)
    ).regions[0]
    assert named(region) and named(region)[0].score > 0.8
    assert not named(
        check(
            read(png(with_thing(plain := wall().round().astype(np.uint8), area))),
            read(png(holding(plain, area))),
            from_mask(area),
        ).regions[0]
    )
