"""Readings at one spot."""

import numpy as np
import pytest

from zweiblick_core.compare import apart, spot


def test_a_spot_reads_its_own_pixel():
    patch = np.zeros((20, 30, 3), np.uint8)
    patch[4, 25] = (255, 0, 0)
    here = spot(patch, 25, 4)
    assert here.srgb == (255, 0, 0) and here.lab == pytest.approx((53.24, 80.09, 67.2), abs=0.3)
    assert spot(patch, 0, 19).srgb == (0, 0, 0)


@pytest.mark.parametrize(
    ("srgb", "lab"),
    [
        ((255, 0, 0), (53.24, 80.09, 67.20)),
        ((0, 255, 0), (87.73, -86.18, 83.18)),
        ((0, 0, 255), (32.30, 79.19, -107.86)),
        ((255, 255, 255), (100, 0, 0)),
    ],
)
def test_colours_read_as_published(srgb, lab):
    assert spot(np.full((3, 3, 3), srgb, np.uint8), 1, 1).lab == pytest.approx(lab, abs=0.02)


def test_noise_is_reported_in_levels_and_a_slope_is_none():
    slope = np.repeat(np.tile(np.arange(40) * 3, (40, 1))[..., None], 3, 2).astype(np.uint8)
    assert spot(slope, 20, 20).noise < 0.05
    noisy = (
        np.clip(120 + np.random.default_rng(1).normal(0, 4, (40, 40, 1)), 0, 255)
        .astype(np.uint8)
        .repeat(3, 2)
    )
    assert spot(noisy, 20, 20).noise == pytest.approx(4, rel=0.3)


def test_the_same_colour_is_not_apart_and_a_known_pair_is_as_published():
    patch = np.full((3, 3, 3), 90, np.uint8)
    assert apart(spot(patch, 1, 1), spot(patch, 1, 1)) == 0
    lighter = np.full((3, 3, 3), 100, np.uint8)
    assert 3 < apart(spot(patch, 1, 1), spot(lighter, 1, 1)) < 5


@pytest.mark.parametrize(("x", "y"), [(-1, 0), (0, -1), (3, 0), (0, 3)])
def test_outside_is_refused(x, y):
    with pytest.raises(ValueError, match="outside a patch"):
        spot(np.zeros((3, 3, 3), np.uint8), x, y)
