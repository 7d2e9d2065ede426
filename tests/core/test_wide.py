"""Wide regions: what turns or jumps far across them, and what nothing around is large enough to
say.
"""

from types import SimpleNamespace

import cv2
import numpy as np
import pytest
from builders import disc, png, with_thing
from evidences import shown

from zweiblick_core.align import Pair
from zweiblick_core.check import check
from zweiblick_core.features.detail.cells import Cells
from zweiblick_core.features.detail.ground import Ground
from zweiblick_core.features.lines.breaks import Break
from zweiblick_core.features.lines.gone import FAINT_MOST
from zweiblick_core.features.lines.readings import enlarged
from zweiblick_core.features.lines.standing import all_along, seen_wide
from zweiblick_core.features.lines.waves import waves_across
from zweiblick_core.io import read
from zweiblick_core.kinds import tone
from zweiblick_core.kinds.line import _several
from zweiblick_core.regions import from_mask
from zweiblick_core.report import Measure, Natural, Reading, Signal
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.window import open_window

SHAPE = (1500, 1560)
MASK = disc(SHAPE, 780, 750, 450)


def boards(seed):
    """Boards of 150 px with dark joints aslant, and grain."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    across = y * np.cos(0.3) - x * np.sin(0.3)
    tone = np.random.default_rng(7).normal(0, 9, 64)[(np.floor(across / 150)).astype(int) % 64]
    luma = 125 + tone - 45 * np.exp(-(((across % 150 - 75) / 4) ** 2))
    return np.clip(luma[..., None] + rng.normal(0, 2, (*SHAPE, 3)), 0, 255).astype(np.uint8)


TRUTH = boards(1)


def checked(fill):
    result = np.where(MASK[..., None], fill, TRUTH)
    return check(
        read(png(with_thing(TRUTH, MASK))), read(png(result)), from_mask(MASK), kinds=("line",)
    ).regions[0]


@pytest.mark.slow
def test_boards_that_turn_by_four_degrees_across_a_wide_region_are_reported_where_they_lie():
    turn = cv2.getRotationMatrix2D((780.0, 750.0), 4, 1.0)
    region = checked(
        cv2.warpAffine(
            boards(2), turn, SHAPE[::-1], flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
        )
    )
    (finding, *_) = region.findings
    assert finding.kind == "line" and finding.score > 0.8
    x, y, width, height = finding.bbox
    assert x > 250 and y > 220 and x + width < 1310 and y + height < 1280 and width > 300
    # A line's ends lie where a joint meets the boundary, in the picture's own pixels.
    ends = np.array([end for line in finding.evidence.lines for end in line.ends])
    away = np.abs(np.hypot(*(ends - (780.5, 750.5)).T) - 450)
    assert np.median(away) < 25
    assert finding.signal.extent > 200


@pytest.mark.slow
def test_a_wide_fill_that_lies_five_pixels_off_is_reported_at_full_size():
    moved = cv2.warpAffine(
        boards(2),
        np.array([[1, 0, 0], [0, 1, 5]], np.float32),
        SHAPE[::-1],
        borderMode=cv2.BORDER_REFLECT,
    )
    finding = checked(moved).findings[0]
    assert finding.kind == "line" and finding.evidence.what == "offset"
    assert finding.evidence.amount == pytest.approx(5, abs=2.5)


@pytest.mark.slow
def test_a_wide_fill_that_holds_is_not_reported():
    assert not checked(boards(2)).findings


Y, X = np.mgrid[: SHAPE[0], : SHAPE[1]].astype(np.float32)
#: 0 at the boundary, 1 from 14 px inside.
INSIDE = np.clip(cv2.distanceTransform(MASK.astype(np.uint8), cv2.DIST_L2, 5) / 14, 0, 1)


@pytest.mark.slow
@pytest.mark.parametrize("pixels", [2.0, 4.0])
def test_boards_that_undulate_inside_a_wide_region_and_meet_at_its_boundary_are_reported(pixels):
    swung = (pixels * INSIDE * np.sin(2 * np.pi * X / 50)).astype(np.float32)
    region = checked(
        cv2.remap(boards(2), X, Y + swung, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
    )
    (finding,) = region.findings
    assert finding.evidence.what == "wave" and finding.evidence.whole and finding.score > 0.9
    assert (
        finding.evidence.amount == pytest.approx(pixels, rel=0.5)
        and finding.measure.natural.null == "surround"
    )
    assert finding.measure.value > 1.5 * finding.measure.natural.high
    # What is drawn lies in the region, and follows a joint all the same.
    for line in finding.evidence.lines:
        assert np.hypot(*(np.mean(line.trace, axis=0) - (780, 750))) < 450


def undulating(luma, area=MASK):
    return waves_across(
        np.ascontiguousarray(luma, np.float32),
        area,
        cv2.dilate(area.view(np.uint8), np.ones((9, 9), np.uint8)).astype(bool),
    )


def test_waves_of_a_wide_fill_are_judged_by_squares_of_its_ground_whether_quick_or_slow():
    stripes = lambda across: (
        110
        + 20 * np.tanh(6 * np.sin(2 * np.pi * across / 40))
        + np.random.default_rng(4).normal(0, 1.3, SHAPE)
    )
    straight = undulating(stripes(Y))
    assert straight.far < 0.3
    for length, pixels in ((50, 3), (160, 14)):
        found = undulating(stripes(Y + pixels * MASK * np.sin(2 * np.pi * X / length)))
        assert found.far > 1.3 and found.turning > 2 * np.max(found.nature)
    # Where the ground undulates as well that is its way.
    assert undulating(stripes(Y + 3 * np.sin(2 * np.pi * X / 50))).far < 0.9


def test_where_too_little_of_a_wide_fills_ground_is_known_its_waves_are_not_judged():
    assert undulating(np.full(SHAPE, 128.0), np.ones(SHAPE, bool)) is None
    assert undulating(np.full(SHAPE, 128.0), disc(SHAPE, 780, 750, 1000)) is None
    assert (
        waves_across(
            np.full((60, 60), 128.0, np.float32), np.eye(60, dtype=bool), np.eye(60, dtype=bool)
        )
        is None
    )


def test_a_window_by_itself_at_a_third_says_the_same_places():
    regions = from_mask(MASK)
    window = open_window(
        Scene(Pair(read(png(with_thing(TRUTH, MASK))), read(png(TRUTH)))), regions[0], regions, 200
    )
    small = window.reduced(3)
    assert small is window.reduced(3) and small.mask.shape == tuple(
        side // 3 for side in window.mask.shape
    )
    assert small.filled.sum() * 9 == pytest.approx(
        window.filled.sum(), rel=0.02
    ) and small.luma_result.mean() == pytest.approx(window.luma_result.mean(), abs=0.1)
    ys, xs = np.nonzero(small.mask)
    assert window.from_reduced([[xs.mean() + 0.5, ys.mean() + 0.5]], 3)[0] == pytest.approx(
        [780.5, 750.5], abs=1.5
    )


def test_pixels_grow_with_the_window_and_degrees_do_not():
    window = SimpleNamespace(
        from_reduced=lambda points, part: (np.asarray(points) * part).tolist(),
        box_to_frame=lambda *box: list(box),
    )
    line = {
        "ends": [[1.0, 2.0], [3.0, 4.0]],
        "trace": [],
        "straight": [[1.0, 2.0]],
        "amount": 3.0,
        "angle": 30.0,
    }
    read_as = lambda what, value, unit: Reading(
        "line",
        0.9,
        [1.0, 2.0, 30.0, 40.0],
        [[0.0, 0.0], [5.0, 0.0], [5.0, 5.0]],
        Signal(((0.25, 4.0, 0.0),), 10.0, 80.0, value),
        Measure("", value, unit, Natural(0.0, 1.0, 9, "outline")),
        shown("line", what=what, lines=[line], amount=value),
    )
    jumps, turns = (
        enlarged(read_as("offset", 3.0, "px"), window, 3),
        enlarged(read_as("tilt", 3.0, "degrees"), window, 3),
    )
    assert (
        jumps.measure.value,
        jumps.measure.natural.high,
        jumps.evidence.amount,
        jumps.evidence.lines[0].amount,
    ) == (9, 3, 9, 9)
    assert (
        turns.measure.value,
        turns.measure.natural.high,
        turns.evidence.amount,
        turns.evidence.lines[0].amount,
    ) == (3, 1, 3, 3)
    for one in (jumps, turns):
        assert (
            one.bbox == [3, 6, 90, 120]
            and one.evidence.lines[0].ends[1] == [9, 12]
            and one.evidence.lines[0].angle == 30
        )
        assert one.signal.bands == ((0.25 / 3, 4.0, 0.0),) and (
            one.signal.extent,
            one.signal.area,
            one.signal.offset,
        ) == (30, 720, 9)


def broken(what, angle=0.0, trace=None, faint=True):
    ends = (np.array([0.0, 0.0]), np.array([300.0, 0.0]))
    return Break(
        what,
        6.0,
        1.0,
        ends,
        np.empty((0, 2)) if trace is None else trace,
        30.0,
        300.0,
        angle,
        True,
        faint=faint,
    )


def test_one_line_seen_over_its_length_only_is_not_enough_in_a_wide_region_and_two_alike_are():
    alone = seen_wide([(0.9, broken("missing")), (0.9, broken("missing", 60.0))])
    assert [score for score, _ in alone] == [FAINT_MOST, FAINT_MOST]
    both = seen_wide(
        [(0.9, broken("missing")), (0.8, broken("missing", 175.0)), (0.2, broken("missing"))]
    )
    assert [score for score, _ in both] == [0.9, 0.8, 0.2]
    assert seen_wide([(0.9, broken("missing", faint=False))])[0][0] == 0.9


def test_a_line_that_leaves_its_course_at_one_place_does_not_swing():
    x = np.arange(0, 300, 4.0)
    swings = np.stack([x, 6 * np.sin(x / 9)], -1)
    once = np.stack([x, 12 * np.exp(-(((x - 200) / 18) ** 2))], -1)
    assert all_along(broken("wave", trace=swings)) and not all_along(broken("wave", trace=once))
    assert seen_wide([(0.9, broken("wave", trace=once, faint=False))])[0][0] == FAINT_MOST


@pytest.mark.parametrize(
    ("what", "count", "both", "whole", "enough"),
    [
        ("wave", 1, True, False, False),
        ("offset", 1, True, False, False),
        ("kink", 5, False, False, False),
        ("offset", 3, False, False, True),
        ("kink", 2, True, False, True),
        ("offset", 1, True, True, True),
    ],
)
def test_close_up_one_line_of_a_wide_region_is_not_enough_nor_are_some_that_turn_at_one_end(
    what, count, both, whole, enough
):
    assert (
        _several(
            Reading(
                "line",
                0.9,
                [0, 0, 1, 1],
                [],
                Signal((), 1.0, 1.0),
                Measure("", 1.0, "", Natural(0.0, 1.0, 9, "outline")),
                shown("line", what=what, count=count, from_both_sides=both, whole=whole),
            )
        )
        is enough
    )


GRID = np.mgrid[: SHAPE[0], : SHAPE[1]]


def floor_tiles(seed):
    """Tiles of 130 px, each a little lighter or darker, with dark joints, in light that falls off
    to one side.
    """
    y, x = GRID
    tone = np.random.default_rng(11).normal(0, 7, (16, 16))[y // 130, x // 130]
    joints = ((y % 130 < 4) | (x % 130 < 4)) * 40
    return (135 + tone - joints + x / 100)[..., None] + np.random.default_rng(seed).normal(
        0, 2, (*SHAPE, 3)
    )


def toned(ground, fill):
    of = lambda plane: np.clip(plane, 0, 255).astype(np.uint8)
    truth = of(ground)
    region = check(
        read(png(with_thing(truth, MASK))),
        read(png(np.where(MASK[..., None], of(fill), truth))),
        from_mask(MASK),
        kinds=("tone",),
    ).regions[0]
    return region, [finding for finding in region.findings if finding.kind == "tone"]


#: A soft patch over all of the fill, one in its middle.
PATCH = np.clip((450 - np.hypot(GRID[1] - 780, GRID[0] - 750)) / 225, 0, 1)[..., None]


@pytest.mark.slow
@pytest.mark.parametrize("levels", [-16, 16])
def test_a_patch_of_another_light_over_all_of_a_wide_fill_is_reported_though_no_second_outline_has_room(
    levels,
):
    _, told = toned(floor_tiles(1), floor_tiles(2) + levels * PATCH)
    assert told and np.sign(told[0].evidence.difference.lightness) == np.sign(levels)
    assert told[0].evidence.expected_from == "slopes" and told[0].bbox[2] > 800


@pytest.mark.slow
def test_a_wide_fill_in_the_light_of_its_surroundings_is_not():
    region, told = toned(floor_tiles(1), floor_tiles(2))
    assert not told and region.scores["tone"] < 0.5


@pytest.mark.slow
def test_ground_out_of_focus_swells_more_at_its_own_size_than_at_a_part_of_it(monkeypatch):
    rng = np.random.default_rng(5)
    blotches = cv2.GaussianBlur(rng.normal(0, 1, SHAPE).astype(np.float32), (0, 0), 110)
    ground = (120 + 30 * blotches / blotches.std())[..., None] + rng.normal(0, 1.5, (*SHAPE, 3))
    region, told = toned(ground, ground + rng.normal(0, 0.5, ground.shape))
    assert not told
    # Taken as if it were alike at any size it swells by itself.
    monkeypatch.setattr(tone, "growth_of", lambda afar, near, times: 1.0)
    assert (
        toned(ground, ground + rng.normal(0, 0.5, ground.shape))[0].scores["tone"]
        > region.scores["tone"]
    )


def test_the_mean_of_a_wide_fill_is_compared_with_means_and_its_worst_place_with_the_worst():
    side = 24
    pieces = [(0, side * k) for k in range(20)]
    cells = Cells(*(np.zeros((1, 1)) for _ in range(9)))
    wide = Ground(
        cells,
        np.ones((side, 20 * side), bool),
        cells,
        (0, 0),
        np.ones((4 * side, 4 * side), bool),
        [],
        (side, pieces),
    )
    value = {corner: np.random.default_rng(k).normal(size=2) for k, corner in enumerate(pieces)}
    single = np.array(list(value.values()))
    nulls = wide.nulls(lambda corner, shape, seen: value[corner], means=(1,))
    # Sixteen squares make one up: its worst place is the worst of sixteen, its mean departs no more
    # than one of them does.
    assert np.median(nulls[:, 0]) > np.percentile(single[:, 0], 90) and set(nulls[:, 1]) == set(
        single[:, 1]
    )
    assert np.median(wide.nulls(lambda corner, shape, seen: value[corner])[:, 1]) > np.percentile(
        single[:, 1], 90
    )
    # Of two squares the mean may be as far off as the farther of them.
    small = Ground(
        cells, wide.known, cells, (0, 0), np.ones((side, 2 * side), bool), [], (side, pieces)
    )
    assert np.median(
        small.nulls(lambda corner, shape, seen: value[corner], means=(1,))[:, 1]
    ) > np.median(single[:, 1])
