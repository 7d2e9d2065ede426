"""Drawing, changing and comparing outlines; and outlines to masks and GeoJSON and back."""

import cv2
import numpy as np
import pytest
from builders import disc
from hypothesis import given, settings
from hypothesis import strategies as st

from zweiblick_core.errors import Refused
from zweiblick_core.regions import (
    Note,
    combined,
    drawn_around,
    from_annotations,
    from_geojson,
    grown,
    merged,
    outline_difference,
    outlined,
    painted,
    parts,
    reaching_frame,
    smoothed,
    to_annotations,
    to_geojson,
    worked_outline,
)
from zweiblick_core.regions.changed import GROWN
from zweiblick_core.regions.masks import cropped

FRAME = (120, 160)
SQUARE = [[20, 30], [60, 30], [60, 70], [20, 70]]


def area(mask, name="1"):
    return cropped(mask, name)


@st.composite
def areas(draw):
    rng = np.random.default_rng(draw(st.integers(0, 10_000)))
    noise = rng.random((draw(st.integers(1, 30)), draw(st.integers(1, 30))))
    mask = np.zeros(FRAME, bool)
    y, x = draw(st.integers(0, 80)), draw(st.integers(0, 120))
    part = noise > draw(st.sampled_from([0.2, 0.5, 0.8]))
    part[0, 0] = True
    mask[y : y + part.shape[0], x : x + part.shape[1]] = part
    return area(mask)


@settings(deadline=None, max_examples=150)
@given(areas())
def test_any_mask_comes_back_from_geojson_to_the_pixel_with_its_holes(one):
    (again,) = from_geojson(to_geojson([one]), FRAME)
    assert np.array_equal(again.full(FRAME), one.full(FRAME))


@settings(deadline=None, max_examples=80)
@given(areas())
def test_any_mask_comes_back_from_web_annotations_with_its_words(one):
    page = to_annotations([Note(one, ("barrel", "halo: left rim"))], "attempt-2.png")
    (again,) = from_annotations(page, FRAME)
    assert np.array_equal(again.area.full(FRAME), one.full(FRAME))
    assert (again.area.id, again.words) == ("1", ("barrel", "halo: left rim"))
    assert page["items"][0]["target"]["source"] == "attempt-2.png"


@pytest.mark.parametrize(
    "page", [None, {}, {"items": [3]}, {"items": [{"id": "1", "body": [], "target": {}}]}]
)
def test_what_is_no_page_of_annotations_is_refused(page):
    with pytest.raises(Refused):
        from_annotations(page, FRAME)


@settings(deadline=None, max_examples=60)
@given(areas(), areas())
def test_adding_subtracting_and_what_both_have_are_those_of_sets(first, second):
    a, b = first.full(FRAME), second.full(FRAME)
    of = lambda how: (
        found.full(FRAME)
        if (found := combined(first, second, how, FRAME))
        else np.zeros(FRAME, bool)
    )
    assert np.array_equal(of("add"), a | b)
    assert np.array_equal(of("subtract"), a & ~b)
    assert np.array_equal(of("intersect"), a & b)
    assert combined(None, second, "add", FRAME) is second
    assert combined(None, second, "subtract", FRAME) is None


@settings(deadline=None, max_examples=60)
@given(areas())
def test_parts_together_are_the_whole_and_none_touches_another(one):
    some = parts(one)
    total = np.sum([part.full(FRAME).astype(int) for part in some], axis=0)
    assert np.array_equal(total, one.full(FRAME).astype(int))
    assert [part.id for part in some] == [str(n) for n in range(1, len(some) + 1)]
    assert sorted((int(part.mask.sum()) for part in some), reverse=True) == [
        int(part.mask.sum()) for part in some
    ]
    if len(some) > 1:
        assert np.array_equal(merged(some, FRAME).full(FRAME), one.full(FRAME))


def test_an_outline_is_filled_to_its_pixels_and_cut_at_the_frame():
    one = drawn_around(SQUARE, FRAME)
    assert one.bbox == (20, 30, 40, 40) and one.mask.all()
    over = drawn_around([[-30, -30], [10, -30], [10, 10], [-30, 10]], FRAME)
    assert over.bbox == (0, 0, 10, 10) and over.mask.all()


def test_an_outline_that_crosses_itself_has_both_its_loops():
    eight = drawn_around([[10, 10], [50, 50], [50, 10], [10, 50]], FRAME)
    assert eight.full(FRAME)[30, 15] and eight.full(FRAME)[30, 45]
    assert not eight.full(FRAME)[15, 30]


@pytest.mark.parametrize(
    "points", [[], [[1, 1], [2, 2]], [[500, 500], [600, 500], [550, 600]], [[5, 5]] * 4]
)
def test_an_outline_of_nothing_is_refused(points):
    with pytest.raises(Refused):
        drawn_around(points, FRAME)


def test_a_stroke_is_as_wide_as_its_brush_with_round_ends():
    stroke = painted([[40, 60], [100, 60]], 8, FRAME).full(FRAME)
    assert stroke[:, 70].sum() == 16 and stroke[60, :].sum() == 76
    assert painted([[40, 60]], 8, FRAME).full(FRAME).sum() == pytest.approx(np.pi * 64, rel=0.05)
    with pytest.raises(Refused):
        painted([], 8, FRAME)


@pytest.mark.parametrize("pixels", [1, 3, 7.5])
def test_a_disc_grows_and_shrinks_by_so_many_pixels(pixels):
    one = area(disc(FRAME, 80, 60, 20))
    assert grown(one, pixels, FRAME).mask.sum() == pytest.approx(
        np.pi * (20 + pixels) ** 2, rel=0.03
    )
    assert grown(one, -pixels, FRAME).mask.sum() == pytest.approx(
        np.pi * (20 - pixels) ** 2, rel=0.07
    )
    assert grown(one, -25, FRAME) is None


def test_shrinking_leaves_what_lies_at_the_frames_edge_there():
    mask = np.zeros(FRAME, bool)
    mask[40:80, :30] = True
    shrunk = grown(area(mask), -5, FRAME).full(FRAME)
    assert shrunk[60, 0] and not shrunk[60, 26] and not shrunk[42, 10]


def test_smoothing_cuts_spikes_and_fills_pinholes_and_keeps_the_size():
    mask = disc(FRAME, 80, 60, 25)
    mask[60, 80] = False
    mask[60, 105:125] = True
    smooth = smoothed(area(mask), 2, FRAME).full(FRAME)
    assert smooth[60, 80] and not smooth[60, 112]
    assert smooth.sum() == pytest.approx(np.pi * 625, rel=0.02)
    assert smoothed(area(mask), 0, FRAME).mask.sum() == mask.sum()


@pytest.mark.parametrize("side", range(4))
def test_an_outline_near_the_frame_is_pushed_to_it(side):
    mask = np.zeros((100, 100), bool)
    mask[40:60, 4:30] = True
    mask = np.rot90(mask, side)
    pushed = reaching_frame(area(np.ascontiguousarray(mask)), (100, 100)).full((100, 100))
    expected = np.zeros((100, 100), bool)
    expected[40:60, :30] = True
    assert np.array_equal(pushed, np.rot90(expected, side))


def test_an_outline_away_from_the_frame_stays():
    one = area(disc(FRAME, 80, 60, 20))
    assert np.array_equal(reaching_frame(one, FRAME).full(FRAME), one.full(FRAME))


@pytest.mark.parametrize(
    "pixels, word", [(-6, "tighter"), (-1, "the same"), (0, "the same"), (5, "looser")]
)
def test_an_outline_is_tighter_or_looser_by_so_many_pixels(pixels, word):
    wanted = area(disc(FRAME, 80, 60, 30))
    found = outline_difference(grown(wanted, pixels, FRAME), wanted, FRAME)
    assert found.word == word
    if word == "looser":
        assert found.looser_px == pytest.approx(pixels, abs=1) and found.tighter_px == 0
    if word == "tighter":
        assert found.tighter_px == pytest.approx(-pixels, abs=1) and found.looser_px == 0


def test_an_outline_that_was_moved_is_elsewhere_in_part():
    found = outline_difference(area(disc(FRAME, 90, 60, 30)), area(disc(FRAME, 80, 60, 30)), FRAME)
    assert found.word == "elsewhere in part" and 0.5 < found.iou < 0.9
    assert found.looser_px == pytest.approx(10, abs=1.5)


def as_proposed(mask):
    """What changed, as it is proposed: a little beyond itself."""
    reach = np.ones((2 * GROWN + 1, 2 * GROWN + 1), np.uint8)
    return area(cv2.dilate(mask.view(np.uint8), reach).astype(bool))


def test_what_was_worked_lies_to_the_outline_by_its_outer_edge_alone():
    wanted = area(disc(FRAME, 80, 60, 30))
    worked = disc(FRAME, 80, 60, 35)
    worked[50:70, 70:90] = False  # equal to the original there
    found = worked_outline([as_proposed(worked)], wanted, [], FRAME)
    assert found.word == "looser" and found.looser_px == pytest.approx(5, abs=1.2)
    assert found.words() in ("up to 5 px beyond the outline", "up to 6 px beyond the outline")
    beside = area(disc(FRAME, 20, 20, 10))
    assert worked_outline([beside], wanted, [], FRAME) is None


def test_what_was_worked_exactly_to_the_outline_is_along_it():
    mask = disc(FRAME, 80, 60, 30)
    found = worked_outline([as_proposed(mask)], area(mask), [], FRAME)
    assert found.words() == "along the outline"


def test_what_was_worked_for_a_neighbour_is_not_this_regions():
    wanted, other = disc(FRAME, 50, 60, 25), disc(FRAME, 110, 60, 25)
    both = as_proposed(wanted | disc(FRAME, 108, 60, 30))
    found = worked_outline([both], area(wanted), [area(other, "2")], FRAME)
    assert found.word == "the same"


def test_where_compression_hides_what_differs_little_only_what_reaches_beyond_is_reported():
    wanted = area(disc(FRAME, 80, 60, 30))
    inside, beyond = as_proposed(disc(FRAME, 80, 60, 20)), as_proposed(disc(FRAME, 80, 60, 36))
    assert worked_outline([inside], wanted, [], FRAME).word == "tighter"
    assert worked_outline([inside], wanted, [], FRAME, lossy=True) is None
    assert worked_outline([beyond], wanted, [], FRAME, lossy=True).word == "looser"


def test_a_simplified_outline_stays_within_its_tolerance_and_keeps_holes():
    mask = disc(FRAME, 80, 60, 40) & ~disc(FRAME, 80, 60, 15)
    (part,) = outlined(area(mask), 1.0)
    assert len(part.holes) == 1 and len(part.outer) < 60
    away = cv2.distanceTransform((~mask).view(np.uint8), cv2.DIST_L2, 5)
    assert all(away[min(119, int(y)), min(159, int(x))] <= 2 for x, y in part.outer)
