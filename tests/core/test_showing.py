"""A finding's picture shows what the finding says."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from builders import disc, filled, textured, with_thing
from skimage.color import deltaE_ciede2000, rgb2lab

from zweiblick_core.evidence import Copy, Detail, Rim
from zweiblick_core.regions import Region
from zweiblick_core.report.showing import HALF, rim_steps, show, spectrum, unrolled

TRUTH = textured(300, 400, seed=33)
MASK = disc(TRUTH.shape[:2], 200, 150, 50)
REGION = Region("1", MASK[100:201, 150:251], (150, 100, 101, 101))
ORIGINAL = with_thing(TRUTH, MASK)


def test_an_unrolled_rim_has_the_inside_above_and_the_outside_below():
    picture = np.where(MASK[..., None], np.uint8(200), np.uint8(50)).repeat(3, axis=2)
    strip = unrolled(picture, MASK)
    assert strip.shape[0] == 2 * HALF + 1 and 200 < strip.shape[1] <= 540
    assert strip[: HALF - 3].min() > 190 and strip[HALF + 4 :].max() < 60


def test_a_copy_stands_beside_its_source_and_their_grain_agrees():
    copied = filled(TRUTH, MASK, np.roll(TRUTH, 110, axis=1))
    shown = show(
        "repeat",
        (180, 130, 40, 40),
        Copy(offset_px=[-110, 0]),
        ORIGINAL,
        copied,
        REGION,
    )
    copy, source = shown.pixels[:40, :40], shown.pixels[:40, 44:84]
    assert np.array_equal(copy, source) and shown.agreement > 0.99 and "source" in shown.says
    honest = show(
        "repeat",
        (180, 130, 40, 40),
        Copy(offset_px=[-110, 0]),
        ORIGINAL,
        TRUTH,
        REGION,
    )
    assert abs(honest.agreement) < 0.2


def test_a_mirrored_copy_stands_beside_its_source_flipped():
    shown = show(
        "repeat",
        (180, 130, 40, 40),
        Copy(offset_px=[-90, 0], mirrored=True, source=[90, 130, 40, 40]),
        ORIGINAL,
        TRUTH,
        REGION,
    )
    assert (
        np.array_equal(shown.pixels[:, :64], TRUTH[118:182, 168:232])
        and np.array_equal(shown.pixels[:, 68:], TRUTH[118:182, 78:142][:, ::-1])
        and shown.agreement is None
    )


def test_a_seam_is_shown_along_the_rim_in_both_pictures():
    stepped = filled(TRUTH, MASK, TRUTH.astype(float) + 40)
    shown = show("seam", (150, 100, 101, 101), Rim(), TRUTH, stepped, REGION)
    high = 2 * HALF + 1
    first, second = shown.pixels[:high].astype(float), shown.pixels[high + 6 :].astype(float)
    step = lambda strip: strip[4 : HALF - 3].mean() - strip[HALF + 4 : -4].mean()
    assert step(second) - step(first) == pytest.approx(40, abs=3)


def test_the_stretch_that_was_found_is_marked_under_its_own_part_of_the_rim():
    right = [[225, 90], [260, 90], [260, 210], [225, 210]]
    shown = show("seam", (225, 90, 35, 120), Rim(), TRUTH, TRUTH, REGION, right)
    bar = shown.pixels[2 * HALF + 3] == 255
    width = shown.pixels.shape[1]
    assert 0.2 * width < bar[:, 0].sum() < 0.45 * width
    # The right third of the disc's rim, and only it: what is marked in the strip is what the strip
    # was cut from.
    columns = np.where(
        (np.indices(MASK.shape)[1] > 219)[..., None], np.uint8(255), np.uint8(0)
    ).repeat(3, axis=2)
    strip = unrolled(columns[78:223, 128:273], MASK[78:223, 128:273])
    assert (strip[HALF, :, 0] > 128)[bar[:, 0]].mean() > 0.85 and (strip[HALF, :, 0] > 128)[
        ~bar[:, 0]
    ].mean() < 0.15


@pytest.mark.parametrize("kind", ["seam", "tone"])
def test_a_step_of_known_size_reads_so_in_ciede2000_and_stands_out_of_its_parallels(kind):
    flat = np.full((300, 400, 3), 120, np.uint8)
    stepped = filled(flat, MASK, flat + np.array([0.0, 12.0, 0.0]))
    curve = show(kind, (150, 100, 101, 101), Rim(), flat, stepped, REGION).curve
    assert show(kind, (150, 100, 101, 101), Rim(what="cut"), flat, stepped, REGION).curve is None
    wanted = deltaE_ciede2000(
        rgb2lab(np.uint8([[[120, 132, 120]]]))[0, 0], rgb2lab(np.uint8([[[120, 120, 120]]]))[0, 0]
    )
    assert (
        curve.unit == "CIEDE2000"
        and np.median(curve.value) == pytest.approx(wanted, rel=0.03)
        and max(curve.high) < 0.1
        and all(curve.found)
    )


def test_parallels_of_an_untouched_rim_hold_what_it_reads():
    curve = rim_steps(TRUTH, MASK)
    inside = [
        low <= value <= high
        for value, low, high in zip(curve.value, curve.low, curve.high, strict=True)
    ]
    assert np.mean(inside) > 0.75 and not any(curve.found)


def test_the_spectrum_of_what_was_blurred_falls_under_its_surroundings_at_small_sizes_only():
    grainy = np.clip(TRUTH + np.random.default_rng(5).normal(0, 8, TRUTH.shape), 0, 255).astype(
        np.uint8
    )
    blurred = filled(grainy, MASK, cv2.GaussianBlur(grainy, (0, 0), 2))
    near = disc(TRUTH.shape[:2], 200, 150, 110) & ~disc(TRUTH.shape[:2], 200, 150, 54)
    honest, lacking = spectrum(grainy, MASK, near), spectrum(blurred, MASK, near)
    assert honest.at == lacking.at and min(honest.at) < 3
    small = [i for i, at in enumerate(lacking.at) if at < 6]
    assert all(lacking.value[i] < lacking.low[i] < honest.value[i] for i in small)
    assert lacking.value[-1] > 0.6 * honest.value[-1]


def test_a_spectrum_reads_a_gratings_own_contrast():
    columns = np.indices((200, 300))[1]
    grating = (
        np.clip(128 + 20 * np.sin(2 * np.pi * columns / 7), 0, 255)
        .astype(np.uint8)[..., None]
        .repeat(3, axis=2)
    )
    left = np.zeros((200, 300), bool)
    left[:, :140] = True
    curve = spectrum(grating, left, ~left)
    # 20 levels at a mid grey are about 7.7 L*, an RMS of 5.5, and all of it lies at 7 pixels.
    at = int(np.argmax(curve.value))
    assert curve.at[at] == pytest.approx(7, rel=0.25) and curve.value[at] == pytest.approx(
        5.5, rel=0.15
    )


def _detail_of(pixels):
    return (
        show("smear", (170, 120, 60, 60), Detail(), pixels, pixels, REGION)
        .pixels[88 + 12 : -12, 88 + 12 : -12]
        .std()
    )


def test_detail_findings_come_with_their_spectrum_and_a_place_too_small_for_one_without():
    shown = show(
        "smear",
        (170, 120, 60, 60),
        Detail(),
        ORIGINAL,
        filled(TRUTH, MASK, cv2.GaussianBlur(TRUTH, (0, 0), 3)),
        REGION,
    )
    assert shown.curve.what == "spectrum" and shown.pixels.shape == (2 * 84 + 4, 2 * 84 + 4, 3)
    # Under the place, what is left of its fine detail: next to nothing.
    assert shown.pixels[88 + 12 : -12, 88 + 12 : -12].std() < 0.35 * _detail_of(TRUTH)
    assert show("smear", (170, 120, 4, 4), Detail(), ORIGINAL, TRUTH, REGION).curve is None


@pytest.mark.parametrize(
    "kind",
    [
        "smear",
        "line",
        "residue",
        "grain",
        "soft",
        "shadow",
        "invented",
        "overreach",
        "untouched",
        "repeat",
    ],
)
def test_every_other_kind_shows_the_place_in_both(kind):
    shown = show(kind, (170, 120, 30, 20), Copy(offset_px=[-900, 0]), ORIGINAL, TRUTH, REGION)
    assert np.array_equal(shown.pixels[:, :54], ORIGINAL[108:152, 158:212]) and np.array_equal(
        shown.pixels[:, 58:], TRUTH[108:152, 158:212]
    )


def test_a_region_that_is_the_whole_frame_is_shown_all_the_same():
    whole = Region("1", np.ones(TRUTH.shape[:2], bool), (0, 0, 400, 300))
    assert show("seam", (0, 0, 400, 300), Rim(), ORIGINAL, TRUTH, whole).pixels.size
