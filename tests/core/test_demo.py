"""The demo's pictures and attempts: flaws are where they are meant to be, and one attempt holds everywhere."""

import numpy as np
import pytest

from demo import scenario
from zweiblick_core.check import check
from zweiblick_core.reading import read
from zweiblick_core.regions.masks import cropped
from zweiblick_core.visibility import parse_size

SIZE = parse_size(scenario.SIZES[0][1])


def examined(picture, number):
    it = scenario.scene(picture.slug)
    attempt = picture.attempts[number - 1]
    pixels = attempt.make(it)
    data, _ = scenario.encode(pixels, attempt.quality)
    regions = [cropped(mask, name) for name, mask in zip(picture.regions, it.regions, strict=True)]
    report = check(read(scenario.PICTURES / f"{picture.slug}.jpg"), read(data), regions, SIZE)
    return it, pixels, {region.id: region for region in report.regions}


@pytest.mark.parametrize("picture", scenario.PICTURES_OF_JOB, ids=lambda picture: picture.slug)
def test_pictures_truths_and_masks_fit_together(picture):
    it = scenario.scene(picture.slug)
    assert it.original.shape == it.truth.shape and len(it.regions) == len(picture.regions)
    outside = ~np.any(it.regions, axis=0)
    inside = np.any(it.regions, axis=0)
    difference = np.abs(it.original.astype(int) - it.truth).mean(axis=2)
    assert difference[outside].mean() < 6 < 15 < difference[inside].mean()


@pytest.mark.parametrize("picture", scenario.PICTURES_OF_JOB, ids=lambda picture: picture.slug)
def test_the_attempt_by_hand_holds_everywhere_and_touches_nothing_else(picture):
    it, pixels, regions = examined(picture, 4)
    assert all(region.findings == [] for region in regions.values())
    outside = ~np.any(it.regions, axis=0)
    assert np.array_equal(pixels[outside], it.original[outside])


def test_repeat_seam_and_halo_all_occur():
    _, _, ladder = examined(scenario.LADDER, 2)
    assert "repeat" in [f.kind for f in ladder["barrel"].findings] and "seam" in [f.kind for f in ladder["ladder"].findings]
    _, _, sign = examined(scenario.SIGN, 3)
    assert "halo" in [f.kind for f in sign["folding sign"].findings]
    _, _, blended = examined(scenario.SIGN, 2)
    repeat = next(f for f in blended["folding sign"].findings if f.kind == "repeat")
    assert repeat.evidence["offset_px"] == pytest.approx([348, 0], abs=2)


def test_people_and_attempts_are_complete():
    assert {role for _, _, role in scenario.PEOPLE} == {"supervisor", "retoucher", "guest"}
    assert all(3 <= len(picture.attempts) <= 4 for picture in scenario.PICTURES_OF_JOB)
