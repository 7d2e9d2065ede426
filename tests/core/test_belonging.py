"""A file belongs to the slip whose attempt it shows everywhere but where work was asked for."""

import io

import numpy as np
import pytest
from builders import disc, textured
from PIL import Image

from zweiblick_core.compare import Sent, belongs
from zweiblick_core.io import read
from zweiblick_core.regions.masks import cropped

FRAME = (240, 320)
LEFT, RIGHT = disc(FRAME, 80, 120, 24), disc(FRAME, 230, 120, 24)
PIXELS = textured(*FRAME, seed=9)


def saved(pixels, how="PNG", **more):
    data = io.BytesIO()
    Image.fromarray(pixels).save(data, how, **more)
    return read(data.getvalue())


def filled(pixels, mask, by=40):
    made = pixels.copy()
    made[mask] = np.clip(made[mask].astype(int) + by, 0, 255)
    return made


def sent(key, pixels, mask, *names):
    return Sent(key, saved(pixels), [cropped(mask, "sent")], names)


#: Two attempts, each sent for another region.
SLIPS = [
    sent(1, PIXELS, LEFT, "slip-01-1"),
    sent(2, filled(PIXELS, LEFT, 70), RIGHT, "slip-01-2"),
]


@pytest.mark.parametrize("how", [{"how": "PNG"}, {"how": "JPEG", "quality": 80}])
def test_a_file_is_matched_by_what_it_shows_elsewhere(how):
    assert belongs(saved(filled(PIXELS, LEFT), **how), "x.png", SLIPS) == 1
    answer = filled(filled(PIXELS, LEFT, 70), RIGHT)
    assert belongs(saved(answer, **how), "x.png", SLIPS) == 2


def test_of_two_slips_of_one_attempt_it_answers_the_one_whose_region_was_worked():
    slips = [sent(1, PIXELS, LEFT), sent(2, PIXELS, RIGHT)]
    assert belongs(saved(filled(PIXELS, RIGHT)), "x.png", slips) == 2


def test_where_several_fit_alike_the_name_decides():
    slips = [sent(number, PIXELS, LEFT, f"slip-04-{number}") for number in (1, 12)]
    result = saved(filled(PIXELS, LEFT))
    assert belongs(result, "quay_slip-04-12_final.png", slips) == 12
    assert belongs(result, "quay.png", slips) is None


def test_a_name_does_not_make_a_file_fit_that_shows_something_else():
    other = saved(textured(*FRAME, seed=3))
    assert belongs(other, "slip-01-1.png", SLIPS) is None


def test_what_was_sent_itself_answers_nothing():
    assert belongs(saved(PIXELS), "slip-01-1.png", SLIPS[:1]) is None


def test_a_picture_in_another_frame_belongs_to_none():
    assert belongs(saved(filled(PIXELS, LEFT)[:-8]), "slip-01-1.png", SLIPS) is None


def test_sixteen_bits_and_eight_are_compared_as_seen():
    import cv2

    deep = filled(PIXELS, LEFT).astype(np.uint16) * 257
    ok, data = cv2.imencode(".png", deep[..., ::-1])
    assert ok and belongs(read(data.tobytes()), "x.png", SLIPS) == 1
