"""Results that were cropped, shifted, turned, resized come into register, are judged there, and it
is said what was done.
"""

import cv2
import numpy as np
import pytest
from builders import disc, filled, holding, jpeg, png, textured, with_thing

from zweiblick_core.align import brought_together, register, resampled_onto
from zweiblick_core.check import check
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask, proposed
from zweiblick_core.report.drawing import marked, put_label

HEIGHT, WIDTH = 520, 700
TRUTH = textured(HEIGHT, WIDTH, seed=31)
MASK = disc((HEIGHT, WIDTH), 340, 250, 55)
ORIGINAL = with_thing(TRUTH, MASK)
RESULT = holding(TRUTH, MASK)


def turned(angle, dx=0.0, dy=0.0):
    matrix = cv2.getRotationMatrix2D((WIDTH / 2, HEIGHT / 2), -angle, 1)
    matrix[:, 2] += [dx, dy]
    return matrix


def resized(fx, fy):
    return np.array([[fx, 0, 0.5 * fx - 0.5], [0, fy, 0.5 * fy - 0.5]])


CASES = {
    "cropped": (np.array([[1, 0, -25.0], [0, 1, -40.0]]), (WIDTH - 60, HEIGHT - 70), "cropped"),
    "shifted": (np.array([[1, 0, 2.4], [0, 1, -1.3]]), (WIDTH, HEIGHT), "shifted"),
    "turned a little": (turned(0.4), (WIDTH, HEIGHT), "turned"),
    "straightened and cropped": (turned(-5, -25, -20), (WIDTH - 70, HEIGHT - 60), "turned"),
    "a quarter": (resized(0.25, 0.25), (WIDTH // 4, HEIGHT // 4), "scaled"),
    "four times": (resized(4, 4), (WIDTH * 4, HEIGHT * 4), "scaled"),
}


def moved(pixels, case):
    matrix, size, _ = CASES[case]
    if case in ("a quarter", "four times"):
        return cv2.resize(
            pixels, size, interpolation=cv2.INTER_AREA if size[0] < WIDTH else cv2.INTER_CUBIC
        )
    return cv2.warpAffine(
        pixels, matrix, size, flags=cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REFLECT
    )


@pytest.mark.parametrize("encode", [png, lambda pixels: jpeg(pixels, 88)], ids=["png", "jpeg"])
@pytest.mark.parametrize("case", CASES)
def test_the_map_is_found_to_a_tenth_of_a_pixel_at_the_corners(case, encode):
    matrix, _, kind = CASES[case]
    found = register(read(png(ORIGINAL)), read(encode(moved(RESULT, case))), ~MASK)
    corners = np.array([[0, 0], [WIDTH - 1, 0], [WIDTH - 1, HEIGHT - 1], [0, HEIGHT - 1]], float)
    wanted, got = (corners @ m[:, :2].T + m[:, 2] for m in (matrix, np.array(found.matrix)))
    assert (
        found.kind == kind
        and np.hypot(*(wanted - got).T).max() / found.scale < 0.12
        and found.residual_px < 0.35
    )
    assert found.done and found.reason is None


def test_pictures_of_one_frame_are_the_same_whatever_their_encoding():
    for data in (png(RESULT), jpeg(RESULT, 70)):
        assert register(read(png(ORIGINAL)), read(data), ~MASK).kind == "same"


@pytest.mark.slow
@pytest.mark.parametrize("case", ["cropped", "turned a little", "straightened and cropped"])
def test_a_flaw_is_found_at_its_place_in_the_original_whatever_was_done(case):
    stepped = filled(TRUTH, MASK, TRUTH.astype(float) + 30)
    report = check(read(png(ORIGINAL)), read(png(moved(stepped, case))), from_mask(MASK))
    seam = next(f for f in report.regions[0].findings if f.kind == "seam")
    x, y, w, h = seam.bbox
    assert abs(x - 285) < 8 and abs(y - 195) < 8 and abs(w - 110) < 14 and abs(h - 110) < 14
    holds = check(read(png(ORIGINAL)), read(png(moved(RESULT, case))), from_mask(MASK))
    assert (
        "seam" not in [f.kind for f in holds.regions[0].findings]
        and holds.overreach["findings"] == []
    )


def test_a_crop_is_reported_as_a_fact_and_a_region_cropped_away_is_not_judged():
    result = RESULT[:, :250]
    report = check(read(png(ORIGINAL)), read(png(np.ascontiguousarray(result))), from_mask(MASK))
    assert report.facts[0]["fact"] == "cropped" and report.facts[0]["regions_gone"] == ["1"]
    assert all("cropped away" in reason for reason in report.regions[0].abstained.values())


def test_regions_are_proposed_in_the_originals_frame():
    found = proposed(read(png(ORIGINAL)), read(png(moved(RESULT, "cropped"))))
    x, y, w, h = max(found, key=lambda region: region.mask.sum()).bbox
    assert abs(x + w / 2 - 340) < 4 and abs(y + h / 2 - 250) < 4


def test_a_pair_keeps_the_results_own_pixels_unless_it_was_enlarged():
    original, small = read(png(ORIGINAL)), read(png(moved(RESULT, "a quarter")))
    pair = brought_together(original, small, register(original, small, ~MASK))
    assert (
        pair.result is small
        and pair.original.pixels.shape == small.pixels.shape
        and pair.scale == pytest.approx(0.25, abs=1e-3)
    )
    large = read(png(moved(RESULT, "four times")))
    pair = brought_together(original, large, register(original, large, ~MASK))
    assert pair.original is original and pair.result.pixels.shape == original.pixels.shape


def test_addedto_its_original_a_result_fits_it():
    original, cropped = read(png(ORIGINAL)), read(png(moved(RESULT, "cropped")))
    laid = resampled_onto(original, cropped, register(original, cropped, ~MASK))
    assert (
        laid.shape == ORIGINAL.shape
        and np.array_equal(laid[60:400, 60:600], RESULT[60:400, 60:600])
        and (laid[:10, :10] == 119).all()
    )


@pytest.mark.slow
def test_a_report_is_drawn_in_the_originals_frame_and_shows_its_findings():
    stepped = filled(TRUTH, MASK, TRUTH.astype(float) + 30)
    original, result = read(png(ORIGINAL)), read(png(moved(stepped, "cropped")))
    drawn = marked(original, result, check(original, result, from_mask(MASK)))
    assert drawn.shape == ORIGINAL.shape and drawn.dtype == np.uint8
    # Black and white strokes run around the region, and nothing is drawn far from it.
    ring = np.abs(drawn.astype(int) - stepped)[180:320, 270:410].max(axis=2)
    assert (ring > 60).sum() > 300 and np.array_equal(
        drawn[420:480, 60:300], stepped[420:480, 60:300]
    )


def test_words_on_a_marked_picture_stand_apart():
    canvas, taken = np.full((120, 300, 3), 128, np.uint8), []
    for words in ("line, glaring, 97%", "seam, clear, 97%", "halo, faint, 70%"):
        put_label(canvas, words, (20, 40), 0.45, taken)
    (_, _, _, first), (_, second, _, _), (_, third, _, _) = taken
    assert first <= second < third and len(taken) == 3
    # Each of them is white with a black rim.
    for left, top, right, bottom in taken:
        box = canvas[top:bottom, left:right]
        assert (box == 255).all(axis=2).sum() > 40 and (box == 0).all(axis=2).sum() > 40
    # Where no room is left below, they stand where they were to.
    full = [(0, 0, 300, 120)]
    put_label(canvas, "tone", (20, 40), 0.45, full)
    assert full[1][0] == 20 and full[1][1] < 40


def test_smooth_ground_in_another_grading_lies_as_it_was():
    # Nothing that could be matched, and nothing that says it moved.
    y, x = np.mgrid[:700, :1000]
    light = np.stack([60 + x / 8, 180 - y / 6, 90 + (x + y) / 20], -1)
    sky = np.clip(light + np.random.default_rng(1).normal(0, 1.3, light.shape), 0, 255).astype(
        np.uint8
    )
    graded = np.clip(
        255 * (np.clip(light, 0, 255) / 255) ** np.array([1.15, 0.9, 1.05])
        + np.random.default_rng(2).normal(0, 1.3, light.shape),
        0,
        255,
    ).astype(np.uint8)
    assert register(read(png(sky)), read(png(graded))).kind == "same"
    # The other way round it is another picture.
    assert register(read(png(sky)), read(png(graded[:, ::-1]))).kind == "unmatched"
