"""Repeated passes wear texture out; a fresh fill does not."""

import cv2
import numpy as np
import pytest
from builders import disc, textured

from zweiblick_core.compare import wear
from zweiblick_core.regions.masks import cropped
from zweiblick_core.rules.advice import Case, Flaw, advise

FRAME = (240, 320)
MASK = disc(FRAME, 160, 120, 30)
AREA = cropped(MASK, "region")
GROUND = textured(*FRAME, seed=9)


def filled(pixels, fill):
    made = pixels.copy()
    made[MASK] = fill[MASK]
    return made


def fresh(number):
    """Another place of the same ground."""
    return filled(GROUND, np.roll(textured(*FRAME, seed=40 + number), 40 * number, axis=1))


def passes(count):
    """Each made from the one before, resampled a little."""
    made = [fresh(1)]
    for _ in range(count - 1):
        shifted = cv2.warpAffine(made[-1], np.float32([[1, 0, 0.4], [0, 1, 0.4]]), FRAME[::-1])
        made.append(filled(made[-1], shifted))
    return made


def test_passes_that_each_lose_detail_are_worn_and_say_by_how_much():
    found = wear(passes(4), AREA)
    assert found.worn and found.passes == 4
    assert list(found.contrast) == sorted(found.contrast, reverse=True)
    assert "over 4 passes" in found.words()


def test_fresh_fills_are_not_worn_however_many():
    assert not wear([fresh(number) for number in range(1, 6)], AREA).worn


def test_one_pass_tells_nothing_and_what_did_not_change_is_no_pass():
    one = fresh(1)
    assert wear([one], AREA) is None
    elsewhere = one.copy()
    elsewhere[:20] = 0
    assert wear([one, elsewhere], AREA) is None


def test_saving_the_whole_picture_anew_as_jpeg_is_no_wear():
    made = [fresh(1)]
    for quality in (90, 85, 80):
        ok, data = cv2.imencode(".jpg", made[-1], [cv2.IMWRITE_JPEG_QUALITY, quality])
        assert ok
        made.append(cv2.imdecode(data, cv2.IMREAD_COLOR))
    assert not wear(made, AREA).worn


def test_a_smooth_place_among_smooth_places_is_not_worn():
    calm = cv2.GaussianBlur(GROUND, (0, 0), 8)
    grain = np.random.default_rng(1).normal(0, 1, GROUND.shape)
    made = [
        filled(np.clip(calm + grain, 0, 255).astype(np.uint8), np.clip(calm + part * grain, 0, 255))
        for part in (1.02, 1.0)
    ]
    assert not wear([one.astype(np.uint8) for one in made], AREA).worn


@pytest.mark.parametrize("worn", ["", "its finest detail went down over 3 passes"])
def test_what_is_worn_is_to_be_rebuilt_by_hand_before_three_rounds(worn):
    flaw = Flaw("soft", [0, 0, 9, 9])
    what = {change.what: change for change in advise(Case((flaw,), rounds=1, worn=worn))}
    assert ("rebuild by hand" in what) == bool(worn)
    if worn:
        assert what["rebuild by hand"].why == worn and "start from the original" in what
