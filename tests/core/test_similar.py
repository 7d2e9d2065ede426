"""Marking by colour: solid things, and lettering that the ground shows through."""

import cv2
import numpy as np
import pytest

from demo import composed, scenario
from zweiblick_core.errors import Refused
from zweiblick_core.io import read
from zweiblick_core.regions.similar import laid_over, like_colour


def lettering(shape, at=(90, 110), size=2.2):
    """(soft 0..1, what of it counts as lettering)."""
    large = np.zeros((shape[0] * 4, shape[1] * 4), np.uint8)
    cv2.putText(
        large,
        "QUELLMUENDE",
        (at[0] * 4, at[1] * 4),
        cv2.FONT_HERSHEY_DUPLEX,
        size * 4,
        255,
        round(size * 5 * 4),
        cv2.LINE_AA,
    )
    soft = cv2.resize(large, shape[::-1], interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    return soft, soft > 0.5


def overlap(found, wanted):
    return (found & wanted).sum() / (found | wanted).sum()


@pytest.fixture(scope="module")
def bricks():
    pixels = read((scenario.PICTURES / "warehouse-truth.jpg").read_bytes()).pixels
    return pixels[500:700, 300:900]


@pytest.fixture
def laid(bricks):
    soft, mask = lettering(bricks.shape[:2])
    colour = np.array([240, 235, 200])
    over = bricks * (1 - 0.5 * soft[..., None]) + colour * 0.5 * soft[..., None]
    rng = np.random.default_rng(1)
    pixels = np.clip(over + rng.normal(0, 2, over.shape), 0, 255).astype(np.uint8)
    area = cv2.dilate(mask.view(np.uint8), np.ones((41, 41))).astype(bool)
    return pixels, mask, area


def inside(mask, number=2):
    """Spots in the middle of strokes."""
    within = cv2.distanceTransform(mask.view(np.uint8), cv2.DIST_L2, 5)
    places = np.argwhere(within > 0.8 * within.max())
    return [(int(x), int(y)) for y, x in places[:: len(places) // number][:number]]


def test_solid_lettering_is_marked_by_its_colour_alone(bricks):
    soft, mask = lettering(bricks.shape[:2])
    blue = np.array([30, 60, 140])
    pixels = (bricks * (1 - soft[..., None]) + blue * soft[..., None]).astype(np.uint8)
    found = like_colour(pixels, inside(mask)[0], 35, connected=False)
    assert overlap(found, mask) > 0.9
    one = like_colour(pixels, inside(mask)[0], 35, connected=True)
    letters = cv2.connectedComponents(mask.view(np.uint8))[1]
    assert 0 < one.sum() < found.sum() / 4
    assert len(np.unique(letters[one & mask])) == 1


def test_more_tolerance_never_marks_less(bricks):
    sizes = [like_colour(bricks, (50, 50), far, False).sum() for far in (0, 5, 10, 40, 200)]
    assert sizes == sorted(sizes) and sizes[-1] == bricks.shape[0] * bricks.shape[1]


def test_translucent_lettering_is_marked_where_bricks_and_joints_show_through_it(laid):
    pixels, mask, area = laid
    found, veil = laid_over(pixels, area, inside(mask))
    assert overlap(found, mask) >= 0.85
    assert veil.opacity == pytest.approx(0.5, abs=0.12)
    assert veil.colour == pytest.approx((240, 235, 200), abs=20)
    assert not found[~area].any()
    # Its colour alone marks joints as well: what is seen is the ground's colour, moved.
    alone = like_colour(pixels, inside(mask)[0], 15, connected=False) & area
    assert overlap(alone, mask) < 0.6


def test_more_belief_marks_less(laid):
    pixels, mask, area = laid
    some, many = (laid_over(pixels, area, inside(mask), belief)[0] for belief in (0.9, 0.1))
    assert some.sum() < many.sum() and not (some & ~many).any()


def test_a_spot_outside_or_an_outline_of_everything_is_refused(laid):
    pixels, mask, area = laid
    with pytest.raises(Refused, match="inside the outline"):
        laid_over(pixels, area, [(2, 2)])
    with pytest.raises(Refused, match="inside the outline"):
        laid_over(pixels, area, [])
    with pytest.raises(Refused, match="too little ground"):
        laid_over(pixels, np.ones_like(area), inside(mask))
    with pytest.raises(Refused, match="outside"):
        like_colour(pixels, (9999, 5), 10, False)


def test_the_demos_translucent_words_are_outlined_in_five_actions():
    """A rough outline around them, and three spots of the words: four."""
    original = scenario.scene("wall").original
    wanted = composed.strokes(original.shape[:2], *composed.WORDS) > 0.5
    x, y, w, h = cv2.boundingRect(wanted.view(np.uint8))
    around = np.zeros_like(wanted)
    around[y - 25 : y + h + 25, x - 25 : x + w + 25] = True
    found, _ = laid_over(original, around, inside(wanted, 3))
    assert overlap(found, wanted) >= 0.85
