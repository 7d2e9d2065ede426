"""The best of several, put together without a new seam: what succeeds is pixel for pixel what was
chosen, what cannot is refused with the reason.
"""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from builders import disc, filled, holding, jpeg, png, textured, with_thing

from zweiblick_core.check import check
from zweiblick_core.compare.assembling import Part, assemble
from zweiblick_core.errors import Refused
from zweiblick_core.io import read
from zweiblick_core.regions import Region
from zweiblick_core.visibility import parse_size

TRUTH = textured(420, 620, seed=21)
MASKS = (disc(TRUTH.shape[:2], 150, 200, 44), disc(TRUTH.shape[:2], 440, 210, 44))
BOTH = np.any(MASKS, axis=0)
ORIGINAL = read(png(with_thing(TRUTH, BOTH)))


def region_of(mask, name):
    ys, xs = np.nonzero(mask)
    x, y, w, h = xs.min(), ys.min(), int(np.ptp(xs)) + 1, int(np.ptp(ys)) + 1
    return Region(name, mask[y : y + h, x : x + w], (int(x), int(y), w, h))


REGIONS = [region_of(mask, str(i + 1)) for i, mask in enumerate(MASKS)]


def attempt(good):
    """Holds in one region, is much too bright in the other."""
    return filled(holding(TRUTH, MASKS[good]), MASKS[1 - good], TRUTH.astype(float) + 40)


def parts(first, second, encode=png):
    pictures = [read(encode(pixels)) for pixels in (first, second)]
    return [
        Part(REGIONS[0], 1, pictures[0], "attempt 1"),
        Part(REGIONS[1], 2, pictures[1], "attempt 2"),
    ]


def findings(pixels):
    report = check(ORIGINAL, read(png(pixels)), REGIONS, parse_size("594x420mm@150dpi@700mm"))
    plain = report.to_dict()
    return [
        finding["kind"]
        for part in (*plain["regions"], plain["overreach"])
        for finding in part["findings"]
    ]


@pytest.mark.slow
def test_each_region_is_its_attempts_own_to_the_pixel_and_nothing_is_found_in_the_whole():
    first, second = attempt(0), attempt(1)
    made = assemble(ORIGINAL, parts(first, second), REGIONS)
    assert np.array_equal(made.pixels[MASKS[0]], first[MASKS[0]]) and np.array_equal(
        made.pixels[MASKS[1]], second[MASKS[1]]
    )
    far = cv2.dilate(BOTH.astype(np.uint8), np.ones((31, 31))) == 0
    assert np.array_equal(made.pixels[far], TRUTH[far]) and made.ground == 1
    assert findings(made.pixels) == [] and findings(first) != [] and findings(second) != []


def test_a_fill_that_reaches_beyond_its_region_comes_whole():
    wide = cv2.dilate(
        MASKS[1].astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (21, 21))
    ).astype(bool)
    second = filled(attempt(1), wide, TRUTH + np.random.default_rng(5).normal(0, 4, TRUTH.shape))
    made = assemble(ORIGINAL, parts(attempt(0), second), REGIONS)
    inner = cv2.erode(wide.astype(np.uint8), np.ones((5, 5))).astype(bool)
    assert (made.pixels[inner] == second[inner]).all(axis=1).mean() > 0.98


def graded(pixels):
    return (
        np.clip(255 * (pixels / 255.0) ** 0.9 * np.array([1.04, 1.0, 0.95]), 0, 255)
        .round()
        .astype(np.uint8)
    )


@pytest.mark.slow
def test_another_grade_is_brought_to_the_grounds():
    second = graded(attempt(1))
    made = assemble(ORIGINAL, parts(attempt(0), second), REGIONS)
    inner = cv2.erode(MASKS[1].astype(np.uint8), np.ones((9, 9))).astype(bool)
    # The truth as the ground has it, not as the graded attempt does.
    off = lambda pixels: abs(
        pixels[inner].astype(float).mean(axis=0) - TRUTH[inner].mean(axis=0)
    ).max()
    assert off(made.pixels) < 1.2 < off(second)
    assert any("tone" in words for words in made.done)
    assert not {"seam", "tone", "halo"} & set(findings(made.pixels))


def test_an_attempt_that_differs_in_more_than_tone_is_refused():
    other = attempt(1).astype(float)
    other += 14 * np.sin(np.arange(620) / 40)[None, :, None]
    with pytest.raises(Refused, match="more than tone"):
        assemble(ORIGINAL, parts(attempt(0), np.clip(other, 0, 255).astype(np.uint8)), REGIONS)


def test_a_cropped_attempt_is_moved_back_by_whole_pixels():
    second = attempt(1)
    made = assemble(ORIGINAL, parts(attempt(0), second[30:400, 50:600]), REGIONS)
    assert np.array_equal(made.pixels[MASKS[1]], second[MASKS[1]]) and any(
        "moved back" in words for words in made.done
    )


def test_a_crop_that_lost_part_of_the_region_is_refused():
    with pytest.raises(Refused, match="does not show the whole of region 2"):
        assemble(ORIGINAL, parts(attempt(0), attempt(1)[:, :450]), REGIONS)


@pytest.mark.parametrize(
    ("change", "reason"),
    [("turned", "turned"), ("resized", "resized"), ("stranger", "cannot be matched")],
)
def test_what_would_have_to_be_resampled_is_refused_with_the_reason(change, reason):
    second = attempt(1)
    if change == "turned":
        second = cv2.warpAffine(
            second,
            cv2.getRotationMatrix2D((310, 210), 2, 1),
            (620, 420),
            flags=cv2.INTER_CUBIC,
            borderMode=cv2.BORDER_REFLECT,
        )
    elif change == "resized":
        second = cv2.resize(second, (930, 630), interpolation=cv2.INTER_CUBIC)
    else:
        second = textured(400, 700, seed=404)
    with pytest.raises(Refused, match=reason):
        assemble(ORIGINAL, parts(attempt(0), second), REGIONS)


def touching():
    masks = (disc(TRUTH.shape[:2], 280, 210, 44), disc(TRUTH.shape[:2], 372, 210, 44))
    return masks, [region_of(mask, str(i + 1)) for i, mask in enumerate(masks)]


def test_touching_regions_whose_fills_meet_are_put_together():
    masks, regions = touching()
    both = np.any(masks, axis=0)
    original = read(png(with_thing(TRUTH, both)))
    pictures = [
        read(
            png(
                filled(TRUTH, both, TRUTH + np.random.default_rng(seed).normal(0, 0.8, TRUTH.shape))
            )
        )
        for seed in (1, 2)
    ]
    made = assemble(
        original,
        [Part(regions[i], i + 1, pictures[i], f"attempt {i + 1}") for i in (0, 1)],
        regions,
    )
    for i in (0, 1):
        assert np.array_equal(made.pixels[masks[i]], pictures[i].pixels[masks[i]])


def test_touching_regions_whose_fills_do_not_meet_are_refused():
    masks, regions = touching()
    both = np.any(masks, axis=0)
    original = read(png(with_thing(TRUTH, both)))
    pictures = [read(png(filled(TRUTH, both, TRUTH.astype(float) + shift))) for shift in (0, 30)]
    with pytest.raises(Refused, match=r"touch.*take both from one attempt"):
        assemble(
            original,
            [Part(regions[i], i + 1, pictures[i], f"attempt {i + 1}") for i in (0, 1)],
            regions,
        )


def test_compressed_attempts_are_joined_all_the_same():
    made = assemble(ORIGINAL, parts(attempt(0), attempt(1), jpeg), REGIONS)
    inner = cv2.erode(BOTH.astype(np.uint8), np.ones((15, 15))).astype(bool)
    assert np.abs(made.pixels[inner].astype(float) - TRUTH[inner]).mean() < 4


def test_sixteen_bits_stay_sixteen():
    wide = [read(png(attempt(good).astype(np.uint16) * 257)) for good in (0, 1)]
    assert wide[0].pixels.dtype == np.uint16
    made = assemble(
        ORIGINAL, [Part(REGIONS[i], i + 1, wide[i], f"attempt {i + 1}") for i in (0, 1)], REGIONS
    )
    assert made.pixels.dtype == np.uint16 and np.array_equal(
        made.pixels[MASKS[1]], wide[1].pixels[MASKS[1]]
    )


def test_nothing_chosen_is_refused():
    with pytest.raises(Refused, match="nothing was chosen"):
        assemble(ORIGINAL, [], REGIONS)
