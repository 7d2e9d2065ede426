"""Copies of small pieces, of parts of a fill, and upside down."""

import cv2
import numpy as np
import pytest
from builders import disc, filled, jpeg, png, textured, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.copies.grain import high_pass, steepness
from zweiblick_core.features.copies.pieces import MOST, SIDE, pieces, squares_of
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask

SHAPE = (420, 520)
MASK = disc(SHAPE, 260, 210, 68)
TRUTH = textured(*SHAPE)


def found_in(fill, encode=png, truth=TRUTH):
    report = check(
        read(encode(with_thing(truth, MASK))),
        read(encode(filled(truth, MASK, fill))),
        from_mask(MASK),
        kinds=("repeat",),
    )
    return list(report.regions[0].findings)


def own(truth=TRUTH):
    return truth + np.random.default_rng(4).normal(0, 0.8, truth.shape)


def dabbed(at, source, radius=20, truth=TRUTH):
    """Round pieces with soft edges, from one place laid to others."""
    out = own(truth)
    y, x = np.mgrid[: truth.shape[0], : truth.shape[1]]
    for px, py in at:
        moved = cv2.warpAffine(
            truth, np.float32([[1, 0, px - source[0]], [0, 1, py - source[1]]]), truth.shape[1::-1]
        ).astype(np.float32)
        amount = np.clip((radius - np.hypot(x - px, y - py)) / 6, 0, 1)[..., None]
        out = out * (1 - amount) + moved * amount
    return out


def middle(box):
    x, y, w, h = box
    return np.array([x + w / 2, y + h / 2])


def test_a_piece_pasted_in_three_times_is_found_where_it_lies():
    at, source = np.array([(232, 190), (286, 186), (262, 246)]), np.array([396, 130])
    findings = found_in(dabbed(at.tolist(), source.tolist()))
    assert findings
    for finding in findings:
        copy, there = middle(finding.evidence.copy), middle(finding.evidence.source)
        places = np.vstack([at, source])
        near = lambda point, places=places: np.hypot(*(places - point).T).min()
        assert near(copy) < 8 and near(there) < 8 and not finding.evidence.mirrored
        # The places of one piece need no second finding from its other end.
        assert (
            sum(
                np.hypot(*(middle(other.evidence.source) - copy)) < 8
                and np.hypot(*(middle(other.evidence.copy) - there)) < 8
                for other in findings
            )
            == 0
        )


def test_a_piece_shows_through_compression_where_grain_does():
    strong = (
        np.clip(TRUTH + 5 * np.random.default_rng(12).normal(0, 1, SHAPE)[..., None], 0, 255)
        .round()
        .astype(np.uint8)
    )
    findings = found_in(
        dabbed([(240, 200)], (396, 130), 28, strong), lambda pixels: jpeg(pixels, 95), strong
    )
    assert findings and np.hypot(*(middle(findings[0].evidence.copy) - (240, 200))) < 8


def test_a_piece_twice_inside_the_region_says_so():
    twice = own()
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    # What was there before is nowhere else: only inside are both the same.
    fresh = textured(*SHAPE, seed=8).astype(np.float32)
    for px in (230, 288):
        moved = cv2.warpAffine(
            fresh, np.float32([[1, 0, px - 100], [0, 1, 210 - 100]]), SHAPE[::-1]
        )
        amount = np.clip((20 - np.hypot(x - px, y - 210)) / 6, 0, 1)[..., None]
        twice = twice * (1 - amount) + moved * amount
    (finding,) = found_in(twice)
    assert (
        finding.evidence.source_inside_region and abs(abs(finding.evidence.offset_px[0]) - 58) < 4
    )


def test_what_was_pasted_in_upside_down_is_found_and_said_to_be():
    fill = TRUTH.astype(np.float32)
    fill[130:290, 180:340] = TRUTH[200:360, 340:500][::-1]
    finding = found_in(fill)[0]
    assert finding.evidence.mirrored and abs(finding.evidence.turned_degrees) == pytest.approx(
        180, abs=2
    )
    assert np.hypot(*(middle(finding.evidence.source) - (420, 280))) < 12


def test_a_copy_of_a_part_of_the_fill_is_outlined_as_that_part():
    fill, part = own(), disc(SHAPE, 285, 225, 30)
    fill[part] = np.roll(TRUTH, (-60, -140), (0, 1))[part]
    finding = found_in(fill)[0]
    drawn = np.zeros(SHAPE, np.uint8)
    cv2.fillPoly(drawn, [np.round(np.array(finding.polygon)).astype(np.int32)], 1)
    assert (drawn.astype(bool) & part).sum() / (drawn.astype(bool) | part).sum() > 0.6


@pytest.mark.slow
def test_boards_a_print_and_grain_of_its_own_are_no_copies():
    x = np.arange(SHAPE[1])[None]
    boards = TRUTH + 40.0 * ((x // 26) % 2)[..., None]
    # A print: the same sign all over, seen a little from aside, under grain of the sensor's.
    sign = 50 * (
        cv2.GaussianBlur(
            np.random.default_rng(5).normal(0, 1, (60, 60)).astype(np.float32), (0, 0), 2
        )
        > 0
    )
    seen = cv2.warpPerspective(
        np.tile(sign, (9, 11)).astype(np.float32),
        np.array([[0.93, 0.04, -20], [-0.03, 0.91, 5], [1e-4, 5e-5, 1]]),
        SHAPE[::-1],
        flags=cv2.INTER_AREA,
        borderMode=cv2.BORDER_REFLECT,
    )
    printed = (
        90
        + cv2.GaussianBlur(seen, (0, 0), 0.7)[..., None]
        + np.random.default_rng(6).normal(0, 2, (*SHAPE, 3))
    )
    for ground in (TRUTH, boards, printed):
        truth = np.clip(ground, 0, 255).round().astype(np.uint8)
        assert found_in(own(truth), truth=truth) == []


@pytest.mark.parametrize("way", [np.flipud, np.fliplr], ids=["upside down", "sideways"])
def test_what_is_its_own_mirror_image_is_no_copy(way):
    # As built: alike on both sides, under the sensor's own grain.
    rng = np.random.default_rng(6)
    half = 60 * cv2.GaussianBlur(rng.normal(0, 1, (120, 120)).astype(np.float32), (0, 0), 1.5)
    truth = TRUTH.copy()
    truth[150:270, 200:320] = np.clip(
        128 + ((half + way(half)) / 2)[..., None] + rng.normal(0, 2.2, (120, 120, 3)), 0, 255
    ).round()
    assert found_in(own(truth), truth=truth) == []


def test_pieces_lie_where_their_matrix_says():
    rng = np.random.default_rng(3)
    plane = rng.normal(0, 3, (300, 400)).astype(np.float32)
    filled_in = np.zeros(plane.shape, bool)
    filled_in[100:180, 150:230] = True
    plane[100:180, 150:230] = plane[190:270, 280:360][:, ::-1]
    (one,) = pieces(high_pass(plane), steepness(plane), filled_in)
    assert one.mirrored and one.degrees == 0 and one.agreement > 0.95
    assert tuple(one.matrix @ (150, 100, 1)) == (359, 190) and tuple(
        one.matrix @ (229, 179, 1)
    ) == (280, 269)


@pytest.mark.parametrize(
    "box", [(0, 0, 9, 300), (5, 5, 330, 300), (399, 100, 1, 80), (0, 0, 500, 7), (100, 100, 64, 64)]
)
def test_fills_of_any_shape_are_covered_by_few_squares(box):
    x, y, w, h = box
    fill = np.zeros((700, 700), bool)
    fill[y : y + h, x : x + w] = True
    squares = squares_of(fill)
    assert len(squares) <= MOST and all(
        max(wide, high) <= SIDE and fill[top : top + high, left : left + wide].any()
        for left, top, wide, high in squares
    )
    assert bool(squares) == (min(w, h) >= 8)


def test_very_large_fills_are_left_to_tiles():
    assert squares_of(np.ones((600, 600), bool)) == []
