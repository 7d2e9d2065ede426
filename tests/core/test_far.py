"""Copies whose source lies farther off than a window reaches, and ones of which only a part does
not.
"""

import cv2
import numpy as np
import pytest
from builders import disc, holding, jpeg, png, textured, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.copies.far import Place
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask
from zweiblick_core.scene.window import REACH

SHAPE = (900, 1900)
GROUND = textured(*SHAPE, seed=21)
#: A region of 320 px at the left, so that what lies at the right is far off.
MASK = disc(SHAPE, 260, 450, 160)


def judged(result, encode=png, mask=MASK, ground=GROUND):
    region = check(
        read(encode(with_thing(ground, mask))),
        read(encode(result)),
        from_mask(mask),
        kinds=("repeat",),
    ).regions[0]
    return region, [finding for finding in region.findings if finding.kind == "repeat"]


def laid_in(source, ground=GROUND, mask=MASK):
    """`source`: the pixels that are laid over the region; with a soft rim and noise of its own."""
    alpha = cv2.GaussianBlur(cv2.erode(mask.astype(np.float32), np.ones((3, 3))), (0, 0), 2)[
        ..., None
    ]
    return (
        np.clip(
            ground * (1 - alpha)
            + source * alpha
            + np.random.default_rng(5).normal(0, 0.3, ground.shape) * alpha,
            0,
            255,
        )
        .round()
        .astype(np.uint8)
    )


@pytest.mark.slow
@pytest.mark.parametrize(
    ("dx", "dy", "encode"), [(1203, 37, png), (1149, -122, png), (1203, 37, jpeg)]
)
def test_a_copy_from_the_far_end_of_the_frame_is_reported_with_where_it_comes_from(dx, dy, encode):
    assert dx - 320 > REACH
    _, told = judged(laid_in(np.roll(GROUND, (-dy, -dx), axis=(0, 1))), encode)
    (finding,) = told
    assert (
        finding.score > 0.9
        and finding.evidence.offset_px == pytest.approx([dx, dy], abs=2)
        and not finding.evidence.source_inside_region
    )
    x, y, width, height = finding.evidence.source
    assert (
        (x, y) == pytest.approx((finding.bbox[0] + dx, finding.bbox[1] + dy), abs=2)
        and width > 220
        and height > 220
    )


@pytest.mark.slow
def test_a_mirrored_copy_from_there_too():
    _, told = judged(laid_in(GROUND[:, ::-1]))
    assert told[0].evidence.mirrored and told[0].score > 0.9
    x, _, width, _ = told[0].evidence.source
    # Column x comes from 1899 - x.
    assert x + width == pytest.approx(1900 - told[0].bbox[0], abs=2)


@pytest.mark.slow
def test_of_a_copy_that_lies_half_in_the_window_all_is_reported():
    mask = disc(SHAPE, 760, 450, 260)
    _, told = judged(laid_in(np.roll(GROUND, -720, axis=1), mask=mask), mask=mask)
    x, _, width, _ = max(told, key=lambda one: one.signal.area).evidence.source
    assert x + width > 760 + 260 + REACH + 100 and width > 400


@pytest.mark.slow
def test_what_was_really_there_is_no_copy():
    region, told = judged(holding(GROUND, MASK))
    assert not told and region.scores["repeat"] < 0.3


@pytest.mark.slow
def test_a_frame_that_is_regular_all_over_has_no_copies_in_it():
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    bricks = 120 + 25 * ((x + 40 * ((y // 30) % 2)) % 80 < 5) - 20 * (y % 30 < 4)
    ground = np.clip(
        bricks[..., None] + np.random.default_rng(2).normal(0, 2, (*SHAPE, 3)), 0, 255
    ).astype(np.uint8)
    again = np.clip(
        bricks[..., None] + np.random.default_rng(3).normal(0, 2, (*SHAPE, 3)), 0, 255
    ).astype(np.uint8)
    assert not judged(np.where(MASK[..., None], again, ground), ground=ground)[1]


def test_where_a_box_comes_from():
    plain, mirrored = Place(100, -20, False), Place(300, -20, True)
    assert plain.source_of(10, 50, 8) == (110, 30) and mirrored.source_of(10, 50, 8) == (283, 30)
    # The box's left column comes from the source's last one.
    assert mirrored.source_of(10, 50, 1)[0] == 283 + 7
    assert (
        plain.within((10, 50, 8, 8), 100, 118)
        and not plain.within((10, 50, 9, 8), 100, 118)
        and not plain.within((10, 19, 8, 8), 100, 200)
    )
