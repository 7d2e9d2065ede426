"""Grain in textured places is told by colour: texture is in all colours alike, grain in each by
itself.
"""

import cv2
import numpy as np
import pytest
from builders import disc, jpeg, png, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.colour_grain import in_colour
from zweiblick_core.io import read
from zweiblick_core.regions.masks import from_mask

SHAPE = (460, 640)
AREA = disc(SHAPE, 320, 230, 60)
GRAIN = 1.4


def gravel(seed=5):
    """Fine stones, grey with a little colour, finer here and coarser there, without any flat place."""
    rng = np.random.default_rng(seed)
    uneven = np.exp(
        0.8
        * cv2.resize(
            rng.normal(size=(23, 32)).astype(np.float32),
            SHAPE[::-1],
            interpolation=cv2.INTER_LINEAR,
        )
    )
    stones = sum(
        cv2.GaussianBlur(rng.normal(size=SHAPE).astype(np.float32), (0, 0), sigma) * sigma * 20
        for sigma in (0.45, 1.1, 2.5)
    )
    return (128 + uneven * stones)[..., None] * np.array([1.03, 1.0, 0.95], np.float32)


def grain(levels, seed, alike=False):
    noise = np.random.default_rng(seed).normal(size=(*SHAPE, 1 if alike else 3)).astype(np.float32)
    return levels * np.repeat(noise, 3, axis=2) if alike else levels * noise


def pair(levels, alike=False, ground=None):
    """Original and result; the fill's grain is that of another exposure, of so many levels."""
    ground = gravel() if ground is None else ground
    whole = lambda plane: np.clip(plane, 0, 255).round().astype(np.uint8)
    behind = whole(ground + grain(GRAIN, 1, alike))
    return with_thing(behind, AREA), np.where(
        AREA[..., None], whole(ground + grain(levels, 2, alike)), behind
    )


def region_of(levels, form=png, **other):
    original, result = pair(levels, **other)
    return check(read(form(original)), read(form(result)), from_mask(AREA)).regions[0]


def of_grain(region):
    return [finding for finding in region.findings if finding.kind == "grain"]


@pytest.mark.slow
@pytest.mark.parametrize("levels", [2.2, 3.5])
def test_more_of_it_is_reported_and_how_much(levels):
    (finding,) = of_grain(region_of(levels))
    assert finding.evidence.what == "more grain" and finding.evidence.seen_in == "colour"
    # Rounded to whole levels, both pictures have a little more.
    assert finding.measure.value == pytest.approx((levels + 0.25) / (GRAIN + 0.25), rel=0.08)
    assert 0.9 < finding.measure.natural.low <= finding.measure.natural.high < 1.15
    x, y, w, h = finding.bbox
    assert abs(x + w / 2 - 320) < 12 and abs(y + h / 2 - 230) < 12 and w > 80


@pytest.mark.slow
def test_less_of_it_too():
    findings = of_grain(region_of(0.4))
    assert (
        findings and findings[0].evidence.what == "less grain" and findings[0].evidence.ratio < 0.75
    )


@pytest.mark.slow
def test_another_exposure_of_the_same_ground_is_no_flaw():
    assert not of_grain(region_of(GRAIN))


@pytest.fixture(name="windows")
def _windows(monkeypatch):
    """What `in_colour` was given, and gave."""
    from zweiblick_core.kinds import grain as module

    kept = []
    monkeypatch.setattr(
        module,
        "in_colour",
        lambda window, ground: kept.append(in_colour(window, ground)) or kept[-1],
    )
    return kept


@pytest.mark.slow
def test_grain_that_all_colours_share_says_nothing_there(windows):
    region = region_of(3.5, alike=True, ground=gravel() * 0 + gravel()[..., 1:2])
    assert windows == [None] and all(
        finding.evidence.seen_in != "colour" for finding in of_grain(region)
    )


@pytest.mark.slow
def test_nor_does_it_behind_compression(windows):
    region_of(3.5, form=jpeg)
    assert windows == [None]


@pytest.mark.slow
def test_colourful_texture_all_around_hides_it():
    rng = np.random.default_rng(8)
    motley = cv2.GaussianBlur(rng.normal(size=(*SHAPE, 3)).astype(np.float32), (0, 0), 1.0) * 60
    # Where it is uneven by nature, as much more in the fill is within what lies around.
    patches = cv2.resize(
        rng.uniform(0.1, 1.0, (12, 16)).astype(np.float32),
        SHAPE[::-1],
        interpolation=cv2.INTER_NEAREST,
    )
    assert not [
        finding
        for finding in of_grain(region_of(2.0, ground=128 + motley * patches[..., None]))
        if finding.evidence.seen_in == "colour"
    ]


def changed(make):
    """Of gravel seen from farther off: the fill is what was there, as `make` changed it."""
    behind = (
        np.clip(128 + 0.6 * (gravel() - 128) + grain(GRAIN, 1), 0, 255).round().astype(np.uint8)
    )
    result = np.where(
        AREA[..., None],
        np.clip(make(behind.astype(np.float32)), 0, 255).round().astype(np.uint8),
        behind,
    )
    return check(read(png(with_thing(behind, AREA))), read(png(result)), from_mask(AREA)).regions[0]


@pytest.mark.slow
@pytest.mark.parametrize("levels", [6.0, 9.0])
def test_grain_added_alike_in_all_colours_is_reported_and_is_no_sharpness(levels):
    first = changed(lambda fill: fill + grain(levels, 3, alike=True)).findings[0]
    assert (
        first.kind == "grain" and first.evidence.what == "more grain" and first.measure.value > 1.2
    )


@pytest.mark.slow
def test_sharpening_raises_the_grain_of_each_colour_too_and_is_called_by_its_name():
    region = changed(lambda fill: fill + 1.5 * (fill - cv2.GaussianBlur(fill, (0, 0), 1.2)))
    assert region.findings[0].kind == "soft" and region.findings[0].evidence.what == "sharp"
    assert all(finding.evidence.seen_in != "brightness alone" for finding in region.findings)
