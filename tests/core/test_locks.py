"""What was not sent must come back untouched: to the bit, or exactly as saving it anew leaves it."""

import io

import numpy as np
import pytest
from builders import disc, textured
from PIL import Image

from zweiblick_core.compare import same_pixels, same_when_saved_anew, saved_as
from zweiblick_core.io import read
from zweiblick_core.regions.masks import cropped

SENT = cropped(disc((240, 320), 90, 120, 30), "sent")
LOCKED = cropped(disc((240, 320), 220, 120, 40), "locked")
BEFORE = textured(240, 320, seed=9)


def png(pixels):
    saved = io.BytesIO()
    Image.fromarray(pixels).save(saved, "PNG")
    return read(saved.getvalue())


def jpeg(pixels, quality, subsampling=2, **more):
    saved = io.BytesIO()
    Image.fromarray(pixels).save(saved, "JPEG", quality=quality, subsampling=subsampling, **more)
    return read(saved.getvalue())


def worked(levels=60):
    """The sent region filled anew."""
    pixels = BEFORE.copy()
    mask = SENT.full(pixels.shape[:2])
    pixels[mask] = np.clip(pixels[mask].astype(int) + levels, 0, 255)
    return pixels


def proof(after, before=None):
    before = before or png(BEFORE)
    expected = saved_as(before, after)
    assert expected is not None
    return same_when_saved_anew(expected, after.pixels, LOCKED, others=[SENT])


@pytest.mark.parametrize("quality", [80, 85, 90, 94, 98])
@pytest.mark.parametrize("subsampling", [0, 1, 2])
def test_what_was_only_saved_anew_as_a_jpeg_is_proven_untouched(quality, subsampling):
    after = jpeg(worked(), quality, subsampling)
    assert not same_pixels(BEFORE, after.pixels, LOCKED).same
    found = proof(after)
    assert found.same and found.saved_anew and not found.identical and found.compared > 4000


@pytest.mark.parametrize("more", [{"progressive": True}, {"optimize": True}])
def test_how_a_jpeg_is_packed_changes_nothing(more):
    assert proof(jpeg(worked(), 90, **more)).same


def test_a_jpeg_that_was_worked_and_saved_anew_is_proven_against_what_it_was():
    before = jpeg(BEFORE, 92, 0)
    pixels = before.pixels.copy()
    pixels[SENT.full(pixels.shape[:2])] = 0
    assert proof(jpeg(pixels, 92, 0), before).same


@pytest.mark.parametrize("quality", [80, 90, 98])
@pytest.mark.parametrize(("side", "levels"), [(1, 40), (3, 20), (8, 6)])
def test_a_small_edit_of_what_was_locked_is_found_whatever_it_was_saved_as(quality, side, levels):
    pixels = worked()
    there = pixels[118 : 118 + side, 218 : 218 + side]
    pixels[118 : 118 + side, 218 : 218 + side] = np.clip(there.astype(int) + levels, 0, 255)
    found = proof(jpeg(pixels, quality))
    assert not found.same and found.differing > 0


def test_what_was_identical_is_identical_and_needs_no_look():
    assert same_pixels(BEFORE, worked(), LOCKED).identical


def test_nothing_is_expected_of_files_that_are_no_jpeg_or_were_converted():
    before = png(BEFORE)
    assert saved_as(before, png(BEFORE)) is None
    turned = io.BytesIO()
    exif = Image.Exif()
    exif[0x0112] = 6
    Image.fromarray(BEFORE).save(turned, "JPEG", exif=exif)
    assert saved_as(before, read(turned.getvalue())) is None
    grey = io.BytesIO()
    Image.fromarray(BEFORE[..., 0]).save(grey, "JPEG")
    assert saved_as(before, read(grey.getvalue())) is None
