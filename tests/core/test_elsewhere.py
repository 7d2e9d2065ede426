"""Nothing moved but where it was to be worked: proven over the whole of what came back."""

import io

import numpy as np
import pytest
from builders import disc, textured
from PIL import Image

from zweiblick_core.compare import MARGIN, same_elsewhere
from zweiblick_core.io import read
from zweiblick_core.regions.masks import cropped

BEFORE = textured(240, 320, seed=9)
SENT = cropped(disc((240, 320), 90, 120, 30), "sent")


def saved(pixels, how="PNG", **more):
    data = io.BytesIO()
    Image.fromarray(pixels).save(data, how, **more)
    return read(data.getvalue())


def worked(reach=0):
    """The sent region filled anew, and so far beyond its outline."""
    pixels = BEFORE.copy()
    mask = disc((240, 320), 90, 120, 30 + reach)
    pixels[mask] = 255 - pixels[mask]
    return pixels


def touched(pixels, x, y, side, levels):
    there = pixels[y : y + side, x : x + side]
    pixels[y : y + side, x : x + side] = np.where(there < 128, there + levels, there - levels)
    return pixels


def elsewhere(pixels, how="PNG", **more):
    return same_elsewhere(saved(BEFORE), saved(pixels, how, **more), [SENT])


@pytest.mark.parametrize("reach", [0, MARGIN - 1])
def test_work_within_the_outline_and_its_margin_is_no_change_elsewhere(reach):
    found = elsewhere(worked(reach))
    assert found.proof.identical and found.places == ()
    left_out = int(disc((240, 320), 90, 120, 30 + MARGIN).sum())
    assert found.proof.compared == pytest.approx(240 * 320 - left_out, abs=100)


def test_work_beyond_the_margin_is_found_with_its_place():
    found = elsewhere(worked(MARGIN + 6))
    assert not found.proof.same
    x, y, w, h = found.places[0].bbox
    assert (x, y) == (30, 60) and abs(w - 121) <= 1 and abs(h - 121) <= 1


def test_two_places_far_apart_are_two_and_the_larger_comes_first():
    pixels = touched(touched(worked(), 280, 20, 3, 9), 250, 200, 8, 30)
    found = elsewhere(pixels)
    assert [place.bbox for place in found.places] == [(250, 200, 8, 8), (280, 20, 3, 3)]
    assert [place.differing for place in found.places] == [64, 9]
    assert [place.largest for place in found.places] == [30, 9]
    assert found.proof.differing == 73


@pytest.mark.parametrize("quality", [80, 90, 98])
@pytest.mark.parametrize("subsampling", [0, 2])
def test_saving_anew_as_a_jpeg_explains_what_it_explains_and_no_more(quality, subsampling):
    how = {"how": "JPEG", "quality": quality, "subsampling": subsampling}
    alone = elsewhere(worked(), **how)
    assert alone.proof.same and alone.proof.saved_anew and alone.places == ()
    edited = elsewhere(touched(worked(), 250, 200, 2, 40), **how)
    assert not edited.proof.same
    # Only what the compression does not explain is a place: the blocks around the edit.
    assert len(edited.places) == 1
    x, y, w, h = edited.places[0].bbox
    assert x <= 250 and y <= 200 and x + w >= 252 and y + h >= 202 and max(w, h) <= 40


def test_another_depth_or_size_proves_nothing():
    deep = same_elsewhere(saved(BEFORE), saved(BEFORE[:, :-1].copy()), [SENT])
    assert not deep.proof.same and deep.proof.compared == 0


def test_with_nothing_sent_all_is_compared():
    found = same_elsewhere(saved(BEFORE), saved(BEFORE.copy()), [])
    assert found.proof.identical and found.proof.compared == 240 * 320
