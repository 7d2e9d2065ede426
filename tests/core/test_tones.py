"""What a patch of another tone is told by where the ground itself is light and dark."""

import cv2
import numpy as np
import pytest
from builders import disc, holding, png, with_thing

from zweiblick_core.check import check
from zweiblick_core.kinds.tone import _between, _laid
from zweiblick_core.reading import read
from zweiblick_core.regions.masks import from_mask

SHAPE = (400, 560)
AREA = disc(SHAPE, 280, 200, 58)
Y, X = np.mgrid[:SHAPE[0], :SHAPE[1]].astype(np.float32)
DEPTH = cv2.distanceTransform(AREA.astype(np.uint8), cv2.DIST_L2, 5)
#: A patch that rises softly from the region's rim.
HUMP = np.clip(DEPTH / 26, 0, 1)[..., None]


def coins(seed=4):
    """Bright coins of many sizes and tones, laid about on dark cloth."""
    rng = np.random.default_rng(seed)
    plane = np.full(SHAPE, 62, np.float32)
    for x in range(28, SHAPE[1], 62):
        for y in range(30, SHAPE[0], 58):
            cv2.circle(plane, (x + int(rng.integers(-9, 10)), y + int(rng.integers(-7, 8))), int(rng.integers(14, 24)), float(rng.uniform(120, 220)), -1)
    return plane[..., None] + rng.normal(0, 1.4, (*SHAPE, 3)).astype(np.float32)


def judged(behind, fill):
    whole = lambda plane: np.clip(plane, 0, 255).round().astype(np.uint8)
    truth = whole(behind)
    return check(read(png(with_thing(truth, AREA))), read(png(np.where(AREA[..., None], holding(whole(fill), AREA), truth))), from_mask(AREA)).regions[0]


def tones(region):
    return [finding for finding in region.findings if finding.kind == "tone"]


def test_between_coins_the_cloth_tells_a_light_patch():
    ground = coins()
    assert not tones(judged(ground, ground))
    found = tones(judged(ground, ground + 30 * HUMP * (ground.mean(axis=2, keepdims=True) < 100)))
    assert found and found[0].evidence["brightness"] == "darkest" and found[0].evidence["difference"]["lightness"] > 4


@pytest.mark.parametrize("across", [False, True])
def test_a_board_that_goes_on_to_both_sides_is_no_patch(across):
    along = Y if across else X
    middle = 200 if across else 280
    ground = 110 + 90 * (np.abs(along - middle) < 26)[..., None] + np.random.default_rng(6).normal(0, 1.4, (*SHAPE, 3))
    assert not tones(judged(ground, ground))
    # One that is inside only is.
    assert judged(np.full_like(ground, 110) + np.random.default_rng(6).normal(0, 1.4, ground.shape), ground).scores["tone"] > 0.5


def test_what_lies_between_is_a_straight_line_from_one_side_to_the_other():
    colour = np.zeros((30, 30, 3), np.float32)
    colour[..., 0] = np.linspace(20, 80, 30)[:, None]
    shape = np.ones((8, 8), bool)
    colour[12:18, 12:18, 0] += 15
    laid = _laid(colour, shape, (11, 11), np.ones((30, 30), bool))
    for departs in _between(laid):
        assert departs.shape == (8, 8, 3) and np.allclose(departs[2:6, 2:6, 0], 15, atol=0.2) and np.allclose(departs[..., 1:], 0)
    # Nothing known on one side of it: what lies on the other; on neither: infinite.
    known = np.ones((30, 30), bool)
    known[:11] = known[19:] = False
    assert np.isinf(_between(_laid(colour, shape, (11, 11), known))[0]).all()
