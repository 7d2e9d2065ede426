"""What planes are made from pictures, how long boundaries are read, and where things are sought:
each is what the plain way gives.
"""

import cv2
import numpy as np
import pytest
from builders import disc, jpeg, png, textured
from hypothesis import given, settings
from hypothesis import strategies as st

from zweiblick_core.features.copies.searched import Searched
from zweiblick_core.io import eight_bit, read, shrunk
from zweiblick_core.null import Room
from zweiblick_core.scene.boundary import MOST, REACH, rims_of, unroll
from zweiblick_core.scene.planes import apart_of, lab_of, luma_of, reduced_of

TRUTH = textured(300, 420, seed=4)
DEEP = (TRUTH.astype(np.uint16) << 8) + 77


@pytest.mark.parametrize(
    "pixels", [TRUTH, DEEP, TRUTH.astype(np.float32)], ids=["8 bit", "16 bit", "floating point"]
)
def test_planes_of_any_depth_are_those_of_the_whole_picture_in_floating_point(pixels):
    whole = eight_bit(pixels)
    np.testing.assert_allclose(luma_of(pixels), cv2.cvtColor(whole, cv2.COLOR_RGB2GRAY), atol=1e-3)
    np.testing.assert_allclose(
        lab_of(pixels), cv2.cvtColor(whole / 255, cv2.COLOR_RGB2LAB), atol=1e-3
    )
    np.testing.assert_allclose(
        reduced_of(pixels, 3), whole.reshape(100, 3, 140, 3, 3).mean(axis=(1, 3)), atol=1e-3
    )
    other = np.roll(pixels, 3, axis=1)
    np.testing.assert_allclose(
        apart_of(pixels, other), np.abs(whole - eight_bit(other)).max(axis=2), atol=1e-3
    )
    assert (
        luma_of(pixels).dtype
        == lab_of(pixels).dtype
        == reduced_of(pixels, 3).dtype
        == apart_of(pixels, other).dtype
        == np.float32
    )


def test_two_pictures_of_different_depth_are_compared_in_levels():
    assert apart_of(TRUTH, TRUTH.astype(np.uint16) * 257).max() < 1e-3


def test_a_large_picture_averaged_by_four_is_within_a_level_of_the_mean_of_its_blocks():
    large = np.random.default_rng(0).integers(0, 256, (2003, 2402, 3), dtype=np.uint8)
    blocks = large[:2000, :2400].reshape(500, 4, 600, 4, 3).mean(axis=(1, 3))
    assert np.abs(shrunk(large, (600, 500)) - blocks).max() <= 1.0


def test_pictures_of_every_mode_and_orientation_are_read_upright_in_three_colours():
    from io import BytesIO

    from PIL import Image

    image = Image.fromarray(TRUTH)
    for mode in ("RGB", "L", "CMYK"):
        for orientation, size in ((1, (300, 420)), (6, (420, 300))):
            data, exif = BytesIO(), Image.Exif()
            exif[0x0112] = orientation
            image.convert(mode).save(data, "JPEG", quality=95, exif=exif)
            assert read(data.getvalue()).pixels.shape == (*size, 3)
    assert (read(png(TRUTH)).pixels == TRUTH).all() and read(
        jpeg(TRUTH, 95)
    ).pixels.shape == TRUTH.shape


#: Round about 3200 px, more than are sampled one by one.
WIDE = disc((1300, 1300), 650, 650, 560)


def test_a_long_boundary_is_read_by_twos_and_a_short_one_pixel_by_pixel():
    (wide,), (short,) = rims_of(WIDE), rims_of(disc((300, 300), 150, 150, 60))
    assert short.between == 0 and short.apart() is short and short.step == 1
    assert (
        wide.between > 0 and len(wide) < 0.6 * MOST and wide.step == pytest.approx(2 * wide.between)
    )
    for rim in (wide, short):
        away = np.hypot(*(rim.points - (650 if rim is wide else 150)).T)
        assert np.abs(away - (560 if rim is wide else 60)).max() < 1
        assert ((rim.points - rim.points.mean(axis=0)) * rim.normals).sum(axis=1).min() > 0


def test_each_row_of_a_long_boundary_is_the_mean_of_the_two_that_it_stands_for():
    plane = cv2.GaussianBlur(
        np.random.default_rng(1).normal(0, 40, WIDE.shape).astype(np.float32), (0, 0), 1.0
    )
    (rim,) = rims_of(WIDE)
    both = rim.apart()
    assert len(both) == 2 * len(rim) and both.between == 0
    # They follow one another all the way round, as far apart as each other.
    gaps = np.hypot(*np.diff(both.points, axis=0).T)
    assert gaps.min() > 0.5 * both.step and gaps.max() < 1.5 * both.step
    apart = unroll(plane, both)
    np.testing.assert_allclose(unroll(plane, rim), (apart[::2] + apart[1::2]) / 2, atol=1e-2)
    part = rim.part(np.arange(40, 90))
    np.testing.assert_allclose(
        unroll(plane, part.moved((3, -5)))[7], unroll(plane, rim.moved((3, -5)))[47], atol=1e-2
    )
    assert unroll(plane, rim).shape == (len(rim), 2 * REACH + 1, 1)


@settings(max_examples=60, deadline=None)
@given(st.integers(1, 1300), st.integers(1, 200), st.data())
def test_a_mask_is_as_small_by_its_box_as_by_the_whole_of_it(height, width, data):
    y, x = data.draw(st.integers(0, height - 1)), data.draw(st.integers(0, width - 1))
    mask = np.zeros((height, width), bool)
    mask[y : y + data.draw(st.integers(1, height)), x : x + data.draw(st.integers(1, width))] = True
    mask &= np.random.default_rng(height).random(mask.shape) < 0.8
    room = Room(np.zeros(mask.shape, bool), np.zeros(mask.shape, np.float32))
    np.testing.assert_allclose(
        room.small_within(mask, *cv2.boundingRect(mask.view(np.uint8))), room.small(mask), atol=1e-6
    )


@pytest.mark.parametrize("side", [12, 31])
def test_what_is_searched_is_normalised_as_each_square_asks(side):
    plane = luma_of(TRUTH)
    template = plane[40 : 40 + side, 60 : 60 + side] - plane[40 : 40 + side, 60 : 60 + side].mean()
    searched = Searched.of(plane, side)
    top, left, bottom, right = 10, 20, 200, 330
    found = searched.correlated(template, top, left, bottom, right)
    np.testing.assert_allclose(
        found,
        cv2.matchTemplate(plane[top:bottom, left:right], template, cv2.TM_CCOEFF_NORMED),
        atol=2e-3,
    )
    assert found[40 - top, 60 - left] == pytest.approx(1, abs=1e-3) == found.max()
