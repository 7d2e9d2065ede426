"""Regions that adjoin: what stands along the border of two is told of the smaller, once."""

import numpy as np
import pytest
from builders import filled, holding, png, textured, with_thing

from zweiblick_core.check import check
from zweiblick_core.io import read
from zweiblick_core.regions.masks import cropped
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.window import open_window

TRUTH = textured(480, 640, seed=8)
LARGE, SMALL = np.zeros((2, *TRUTH.shape[:2]), bool)
LARGE[160:320, 180:340] = True
SMALL[180:300, 340:430] = True
REGIONS = [cropped(LARGE, "large"), cropped(SMALL, "small")]
ORIGINAL = with_thing(with_thing(TRUTH, LARGE), SMALL)


def seams(result):
    report = check(read(png(ORIGINAL)), read(png(result)), REGIONS)
    return {
        region.id: [finding for finding in region.findings if finding.kind == "seam"]
        for region in report.regions
    }


@pytest.mark.slow
@pytest.mark.parametrize("levels", [16.0, -16.0])
def test_a_smaller_region_in_another_light_is_no_seam_of_the_larger_one_beside_it(levels):
    found = seams(filled(holding(TRUTH, LARGE | SMALL), SMALL, TRUTH + levels))
    assert found["large"] == [] and found["small"]
    # Its border with the larger one is part of it.
    assert min(x for one in found["small"] for x, _ in one.polygon) < 345


@pytest.mark.slow
def test_a_larger_region_in_another_light_has_its_seam_where_it_meets_what_nobody_touched():
    found = seams(filled(holding(TRUTH, LARGE | SMALL), LARGE, TRUTH + 16.0))
    assert found["large"] and min(x for one in found["large"] for x, _ in one.polygon) < 190


@pytest.mark.slow
def test_two_regions_that_hold_have_none_where_they_meet():
    assert seams(holding(TRUTH, LARGE | SMALL)) == {"large": [], "small": []}


def test_of_two_regions_of_one_size_one_counts_as_the_smaller():
    other = cropped(np.roll(SMALL, -90, axis=1), "other")
    pair = type(
        "Pair",
        (),
        {
            "original": read(png(ORIGINAL)),
            "result": read(png(TRUTH)),
            "valid": None,
            "resampled": False,
        },
    )()
    first, second = (
        open_window(Scene(pair), one, [REGIONS[1], other]) for one in (REGIONS[1], other)
    )
    assert (first.smaller is None) != (second.smaller is None)
