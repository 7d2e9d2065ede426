"""What a little blur, or denoising, would do to a picture's surroundings tells how far a fill shows
it.
"""

import cv2
import numpy as np
import pytest
from builders import disc, filled, jpeg, png, with_thing
from evidences import shown

from zweiblick_core.check import check
from zweiblick_core.explaining.arbitrate import arbitrate
from zweiblick_core.features.detail import cells as grid
from zweiblick_core.features.detail.carried import carried
from zweiblick_core.features.detail.cells import boxed_means, cells_of, noise_of, structure_of
from zweiblick_core.features.detail.ground import Ground
from zweiblick_core.features.trials import BLUR, softened
from zweiblick_core.io import read
from zweiblick_core.kinds import grain as grain_kind
from zweiblick_core.regions import from_mask
from zweiblick_core.report import Abstention, Measure, Natural, Reading, Signal

SHAPE = (460, 620)
MASK = disc(SHAPE, 300, 230, 60)


def detailed(seed=14):
    """Detail at every scale, as gravel and leaves have it, behind a lens and a sensor."""
    rng = np.random.default_rng(seed)
    out = np.full(SHAPE, 128, np.float32)
    for sigma, levels in ((0.9, 9), (1.6, 12), (3.5, 12), (12, 12)):
        part = cv2.GaussianBlur(rng.normal(0, 1, SHAPE).astype(np.float32), (0, 0), sigma)
        out += levels * part / part.std()
    return np.clip(out[..., None] + grain(seed + 1), 0, 255).round().astype(np.uint8)


def grain(seed, sigma=1.3):
    noise = cv2.GaussianBlur(
        np.random.default_rng(seed).normal(0, 1, (*SHAPE, 3)).astype(np.float32), (0, 0), 0.55
    )
    return sigma * noise / noise.std()


TRUTH = detailed()


def read_as(fill, kind, truth=TRUTH, encode=png):
    """Readings of one kind, the first of them the softer side or less grain."""
    region = check(
        read(encode(with_thing(truth, MASK))),
        read(encode(filled(truth, MASK, fill))),
        from_mask(MASK),
        kinds=(kind,),
    ).regions[0]
    return {finding.evidence.what: finding for finding in region.findings}, region


def blurred(sigma):
    return cv2.GaussianBlur(TRUTH, (0, 0), sigma).astype(np.float32) + grain(5)


@pytest.mark.parametrize("encode", [png, jpeg])
@pytest.mark.parametrize("sigma", [0.65, 0.8])
def test_a_fill_that_was_blurred_a_little_and_given_grain_again_is_soft_by_about_that_blur(
    sigma, encode
):
    finding = read_as(blurred(sigma), "soft", encode=encode)[0]["soft"]
    assert finding.measure.unit == "px" and -finding.measure.value == pytest.approx(sigma, rel=0.2)
    assert finding.measure.value < finding.measure.natural.low


def test_a_fill_made_at_half_the_size_and_enlarged_is_soft():
    small = cv2.resize(TRUTH, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    assert (
        "soft"
        in read_as(
            cv2.resize(small, SHAPE[::-1], interpolation=cv2.INTER_CUBIC) + grain(6), "soft"
        )[0]
    )


def test_more_blur_is_reported_as_more():
    values = [
        -max(
            (r for r in read_as(blurred(sigma), "soft")[1].findings), key=lambda f: f.score
        ).measure.value
        for sigma in (0.6, 0.75, 0.9)
    ]
    assert values == sorted(values)


@pytest.mark.parametrize("kind", ["soft", "grain"])
def test_the_truth_in_another_exposure_shows_nothing(kind):
    assert read_as(TRUTH - grain(15) + grain(99), kind)[0] == {}


def focus(depth):
    """The same ground, in focus along one line and softer away from it."""
    sharp = detailed(30).astype(np.float32)
    rows = np.abs(np.arange(SHAPE[0]) - depth) / SHAPE[0] * 3
    out, level = sharp.copy(), np.clip(rows, 0, 1.5)
    for low, high in ((0.0, 0.5), (0.5, 1.0), (1.0, 1.5)):
        first, second = (cv2.GaussianBlur(sharp, (0, 0), s) if s else sharp for s in (low, high))
        share = np.clip((level - low) / 0.5, 0, 1)[:, None, None]
        out = np.where((level >= low)[:, None, None], first * (1 - share) + second * share, out)
    return np.clip(out + grain(31, 1.0), 0, 255).round().astype(np.uint8)


@pytest.mark.parametrize("depth", [60, 230, 400])
def test_a_place_is_as_sharp_as_what_lies_beside_it_at_its_depth(depth):
    truth = focus(depth)
    assert read_as(truth.astype(np.float32), "soft", truth)[0] == {}


def test_an_even_wall_shows_neither_sharpness_nor_the_lack_of_it():
    wall = np.clip(np.full((*SHAPE, 3), 140.0) + grain(3), 0, 255).round().astype(np.uint8)
    fill = np.full((*SHAPE, 3), 140.0) + grain(4)
    assert read_as(fill, "soft", wall)[0] == {}


def test_missing_grain_is_reported_in_textured_places_too_where_none_is_flat(monkeypatch):
    monkeypatch.setattr(grain_kind, "_in_flat_places", lambda *_: Abstention("no flat place"))
    monkeypatch.setattr(grain_kind, "in_colour", lambda *_: None)
    quiet = cv2.fastNlMeansDenoisingColored(TRUTH, None, 6.0, 6.0, 5, 11).astype(np.float32)
    finding = read_as(quiet, "grain")[0]["less grain"]
    assert finding.measure.value > finding.measure.natural.high and finding.evidence.ratio < 0.8
    assert read_as(TRUTH - grain(15) + grain(99), "grain")[0] == {}


def test_softening_lays_as_much_grain_over_it_as_the_picture_has():
    flat = np.full((200, 200), 90, np.float32)
    assert float(softened(1.7)(flat).std()) == pytest.approx(1.7, rel=0.01) and BLUR == 0.8


def test_a_square_of_the_surroundings_knows_as_little_of_its_middle_as_the_fill_does():
    known, inside, square = np.ones((80, 90), bool), np.ones((40, 44), bool), np.ones((6, 6), bool)
    ground = Ground(None, known, None, (20, 23), inside, [], (6, [(4, 50)]))
    assert ground.deeper == 20 - 3
    rows, columns = np.nonzero(ground.gap(square, (40, 50)))
    # A cell more on each side saw some of it.
    assert (rows.min(), rows.max(), columns.min(), columns.max()) == (
        40 - 18,
        45 + 18,
        50 - 18,
        55 + 18,
    )
    assert ground.grown_by(inside) == 0 and ground.gap(inside, (20, 23)).sum() == 42 * 46


def told(kind, what, score=0.9, value=-0.7, **evidence):
    natural = Natural(-0.2, 0.2, 18, "outline")
    lacks = {"missing_by_size": [0.5, 0.7, 0.5, 0.5], "sparser": -0.25}
    return Reading(
        kind,
        score,
        [10, 10, 60, 60],
        [[10, 10], [70, 10], [70, 70], [10, 70]],
        Signal(((0.5, 1.0, 0.0),), 60.0, 3600.0),
        Measure("m", value, "px", natural),
        shown(kind, what=what, **{**lacks, **evidence}),
    )


def names(*readings):
    return [(one.kind, one.runner_up) for one in arbitrate(list(readings))]


def test_what_lost_more_than_a_pixel_is_washed_out_and_not_soft():
    assert (
        names(told("soft", "soft", value=-0.7)) == [("soft", None)]
        and names(told("soft", "soft", value=-1.1))[0][0] == "smear"
    )


def test_whether_a_blurred_place_was_given_grain_again_is_judged_by_what_a_blur_takes_here():
    lack = {"missing_by_size": [0.9, 0.9, 0.6, 0.5]}
    assert names(told("soft", "soft", grain_gone=0.8, **lack))[0][0] == "smear"
    assert names(told("soft", "soft", grain_gone=1.1, **lack))[0][0] == "soft"


@pytest.mark.parametrize(("sparser", "kind"), [(-0.25, "soft"), (-0.1, "grain")])
def test_what_reads_soft_and_misses_grain_but_keeps_its_edges_was_denoised(sparser, kind):
    lack = {"sparser": sparser, "missing_by_size": [0.4, 0.6, 0.5, 0.5]}
    assert (
        names(
            told("grain", "less grain", 0.95, 0.6, **lack), told("soft", "soft", 0.9, -0.6, **lack)
        )[0][0]
        == kind
    )


def test_more_grain_is_no_sharpness_where_hardly_anything_but_grain_lies_around():
    alone, textured = (
        told("grain", "more grain", 0.95, texture_over_grain=over) for over in (0.3, 3.0)
    )
    assert names(alone, told("soft", "sharp", 1.0, 0.9)) == [("grain", "soft")]
    assert names(textured, told("soft", "sharp", 1.0, 0.9)) == [("soft", "grain")]


def test_what_sharpening_cleared_between_edges_is_not_called_denoised_besides():
    assert names(
        told("grain", "less grain", 0.8, 0.5, sparser=0.0), told("soft", "sharp", 1.0, 0.9)
    ) == [("soft", "grain")]


class Shown:
    """What of a window cells are made of."""

    def __init__(self, rgb):
        self.luma_result = cv2.cvtColor(rgb.astype(np.float32), cv2.COLOR_RGB2GRAY)
        self.lab_result = cv2.cvtColor(rgb.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)


@pytest.mark.parametrize("tile", [(64, 64), (128, 512), (4096, 4096)])
def test_cells_are_the_same_however_the_picture_is_cut_into_tiles(tile, monkeypatch):
    window = Shown(TRUTH[:-3, :-5])
    area, corner = ~MASK[:-3, :-5], (48, 96)
    part = MASK[corner[0] : 300, corner[1] : 401]
    monkeypatch.setattr(grid, "_TILE", tile)
    around, fill = cells_of(window, [((0, 0), area), (corner, part)])
    # Made all at once, plane by plane.
    assert np.allclose(around.structure, structure_of(window.luma_result, area), atol=1e-3)
    assert np.allclose(around.noise, noise_of(window.luma_result, area), atol=1e-3)
    mean, share = boxed_means(area)
    assert np.allclose(around.share, share, atol=1e-5) and np.allclose(
        around.level, mean(window.luma_result) / 255, atol=1e-5
    )
    assert np.allclose(
        around.colour[..., 1], mean(np.ascontiguousarray(window.lab_result[..., 2])), atol=1e-3
    )
    # A part with a corner of its own is seen as it is through the whole picture.
    moved = np.zeros_like(area)
    moved[corner[0] : 300, corner[1] : 401] = part
    (whole,) = cells_of(window, [((0, 0), moved)])
    rows, columns = fill.share.shape
    there = (
        slice(corner[0] // grid.STRIDE, corner[0] // grid.STRIDE + rows),
        slice(corner[1] // grid.STRIDE, corner[1] // grid.STRIDE + columns),
    )
    seen = fill.share > 0.5
    assert seen.sum() > 50 and np.allclose(
        fill.share[1:-1, 1:-1], whole.share[there][1:-1, 1:-1], atol=1e-5
    )
    assert np.allclose(fill.structure[seen], whole.structure[there][seen], atol=1e-3)


@pytest.mark.parametrize(
    "box",
    [(slice(20, 30), slice(10, 16)), (slice(14, 40), slice(4, 50)), (slice(24, 26), slice(12, 13))],
)
def test_what_is_carried_into_a_gap_is_given_for_the_box_that_is_asked_for(box):
    values = np.full((60, 70, 1), 3.0, np.float32)
    values[:, 40:] = 7.0
    gap = np.zeros((60, 70), bool)
    gap[20:30, 10:16] = True
    known = np.ones((60, 70), bool)
    whole, into = (
        carried(values, known, gap, some) for some in ((slice(0, 60), slice(0, 70)), box)
    )
    assert np.allclose(into, whole[box], atol=1e-3) and np.allclose(whole[gap], 3.0, atol=0.05)
    # What lies in the gap itself has no say.
    values[gap] = 50.0
    assert np.allclose(carried(values, known, gap, box), into, atol=1e-4)


@pytest.mark.slow
def test_a_fill_whose_first_cells_are_too_little_seen_is_judged_like_any_other():
    # Thin stems at a disc: their cells count for nothing, and lie within the box of the fill's.
    mask = MASK.copy()
    mask[226:233, 140:300] = True
    mask[222:229, 300:450] = True
    region = check(
        read(png(with_thing(TRUTH, mask))),
        read(png(filled(TRUTH, mask, blurred(2.5)))),
        from_mask(mask),
    ).regions[0]
    assert (
        "smear" in {finding.kind for finding in region.findings} and "smear" not in region.abstained
    )


def test_where_nothing_around_has_texture_sharpness_cannot_be_reported():
    wall = np.full((*SHAPE, 3), 140, np.uint8)
    region = read_as(np.full((*SHAPE, 3), 141.0), "soft", wall)[1]
    assert "texture" in region.abstained["soft"]
