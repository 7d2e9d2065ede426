"""Which lines are one line, which courses leave nothing, and where a line goes on behind an area."""

from dataclasses import replace
from types import SimpleNamespace

import cv2
import numpy as np
import pytest
from builders import disc, png
from evidences import shown

from zweiblick_core.align import Pair
from zweiblick_core.features.lines.agreeing import _corroborated
from zweiblick_core.features.lines.agreeing import doubted as _doubted
from zweiblick_core.features.lines.agreeing import said_once as _once
from zweiblick_core.features.lines.breaks import CERTAIN, Break, bent_by, breaks_of
from zweiblick_core.features.lines.gone import ENDS, WAYS
from zweiblick_core.features.lines.rays import (
    SOFT,
    Ray,
    goes_on_beyond,
    in_one_line,
    inward_at,
    segments_of,
)
from zweiblick_core.features.lines.standing import HALVES, score_of_break, stands
from zweiblick_core.features.lines.vanishing import Course, Points, departures
from zweiblick_core.features.lines.waves import Waves
from zweiblick_core.io import read
from zweiblick_core.kinds import line as kind
from zweiblick_core.regions import from_mask
from zweiblick_core.report import Abstention, Measure, Natural, Reading, Signal
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.window import open_window

AREA = disc((400, 400), 200, 200, 50)


def ray(x, y, degrees):
    toward = np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees))])
    return Ray(np.array([float(x), float(y)]), toward, 80.0, 100.0, np.zeros(15), 30.0)


@pytest.mark.parametrize(
    ("aside", "turned", "one"),
    [(0.0, 0.0, True), (1.0, 0.5, True), (4.0, 0.0, False), (0.0, 5.0, False)],
)
def test_two_edges_are_one_line_only_as_exactly_as_they_are_known(aside, turned, one):
    assert in_one_line(ray(150, 200, 0), ray(250, 200 + aside, 180 + turned)) is one


@pytest.mark.parametrize(("x", "y"), [(152, 205), (231, 172), (249, 200)])
def test_the_way_into_an_area_is_that_in_which_it_rises_behind_a_blur(x, y):
    """As a Gaussian blur of all of it would say, at one place."""
    soft = cv2.GaussianBlur(AREA.astype(np.float64), (33, 33), 4)
    edged = cv2.copyMakeBorder(AREA.view(np.uint8), SOFT, SOFT, SOFT, SOFT, cv2.BORDER_REFLECT_101)
    np.testing.assert_allclose(
        inward_at(edged, x, y),
        [soft[y, x + 2] - soft[y, x - 2], soft[y + 2, x] - soft[y - 2, x]],
        atol=1e-12,
    )


def barred(levels=40.0):
    """A bar from left to right through the area."""
    y = np.mgrid[:400, :400][0]
    luma = (
        110
        + levels * 0.5 * (np.tanh((y - 190) / 0.9) - np.tanh((y - 206) / 0.9))
        + np.random.default_rng(5).normal(0, 1.3, (400, 400))
    )
    return cv2.GaussianBlur(luma.astype(np.float32), (0, 0), 0.7)


def test_a_line_goes_on_beyond_though_no_segment_was_found_there():
    luma = barred()
    found = [one for one in breaks_of(segments_of(luma, AREA), AREA, luma) if one.paired]
    assert found and all(one.what == "offset" and one.amount < 0.5 for one in found)
    # The same with the segments of one side only.
    left = np.array([[60.0, 189.5, 140.0, 189.5], [60.0, 205.5, 140.0, 205.5]])
    alone = breaks_of(left, AREA, luma)
    assert any(one.paired and one.what == "offset" and one.amount < 0.5 for one in alone)
    gone = luma.copy()
    gone[:, 250:] = 110
    assert not any(one.paired for one in breaks_of(left, AREA, gone))


def test_what_does_not_go_on_as_it_was_is_not_followed_beyond():
    luma = barred(levels=0.0)
    one = Ray(
        np.array([150.0, 190.0]),
        np.array([1.0, 0.0]),
        80.0,
        100.0,
        np.tanh(np.arange(-7, 8) / 0.9) * 20,
        40.0,
    )
    assert goes_on_beyond(luma, AREA, one) is None


def test_courses_that_go_straight_on_outside_leave_nothing():
    # The surroundings' edges are level; five in the area are not, and those that go on outside as
    # they are belong to something else.
    level = Points(np.array([[1.0, 0.0, 0.0]]), np.array([200.0, 200.0]), 200.0, 1.0)
    askew = np.array(
        [
            [170.0, 170.0 + 14 * k, 230.0, 170.0 + 14 * k + 60 * np.tan(np.radians(4))]
            for k in range(5)
        ]
    )
    (course,) = departures(askew, AREA, level)
    assert abs(course.degrees) == pytest.approx(4, abs=0.3) and len(course.lines) == 5
    rise = np.tan(np.radians(4))
    on = np.array(
        [[262.0, one[1] + (262 - 170) * rise, 300.0, one[1] + (300 - 170) * rise] for one in askew]
    )
    assert departures(np.concatenate([askew, on]), AREA, level) == []
    beside = on + np.array([0.0, 9.0, 0.0, 9.0])
    assert len(departures(np.concatenate([askew, beside]), AREA, level)[0].lines) >= 4


def waved(pixels, length=44.0):
    """The bar, which swings to and fro inside the area and ends there where it entered."""
    y, x = np.mgrid[:400, :400].astype(np.float32)
    inside = cv2.distanceTransform(AREA.astype(np.uint8), cv2.DIST_L2, 5)
    swing = np.clip(inside / 14, 0, 1) * pixels * np.sin(2 * np.pi * x / length)
    return cv2.remap(
        barred(), x, y + swing.astype(np.float32), cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
    )


@pytest.mark.parametrize(("pixels", "length"), [(3.0, 50.0), (4.0, 35.0), (4.0, 44.0), (5.0, 60.0)])
def test_a_bar_that_swings_faster_than_from_step_to_step_is_followed(pixels, length):
    luma = waved(pixels, length)
    waves = [one for one in breaks_of(segments_of(luma, AREA), AREA, luma) if one.what == "wave"]
    # Followed over some pixels at once, the height of its crests is a little less.
    assert waves and all(0.6 * pixels < one.amount < 1.2 * pixels and one.paired for one in waves)


def test_what_goes_on_is_displaced_or_is_turned_as_a_whole_is_no_wave():
    for matrix in (
        np.float32([[1, 0, 0], [0, 1, 0]]),
        np.float32([[1, 0, 0], [0, 1, 4]]),
        cv2.getRotationMatrix2D((200, 198), 4, 1),
    ):
        luma = np.where(
            AREA,
            cv2.warpAffine(barred(), matrix, (400, 400), borderMode=cv2.BORDER_REFLECT),
            barred(),
        )
        found = breaks_of(segments_of(luma, AREA), AREA, luma)
        assert found and all(one.what != "wave" for one in found)


def bulging(pixels, rough=0.0):
    """The bar, which bends to one side only inside the area and ends there where it entered."""
    y, x = np.mgrid[:400, :400].astype(np.float32)
    bulge = pixels * np.clip(np.sin(np.pi * (x - 150) / 100), 0, 1)
    luma = cv2.remap(
        barred(),
        x,
        y + np.where((x > 150) & (x < 250), bulge, 0).astype(np.float32),
        cv2.INTER_CUBIC,
        borderMode=cv2.BORDER_REFLECT,
    )
    return (
        luma
        + rough
        * cv2.GaussianBlur(np.random.default_rng(6).normal(0, 1, luma.shape), (0, 0), 1.6).astype(
            np.float32
        )
        / 0.18
    )


@pytest.mark.parametrize(
    ("pixels", "rough", "told"), [(4.0, 0.0, True), (1.5, 0.0, False), (4.0, 9.0, False)]
)
def test_a_bar_that_bends_to_one_side_swings_only_where_it_is_clear_that_it_is_the_same_bar(
    pixels, rough, told
):
    luma = bulging(pixels, rough)
    swings = [
        one
        for one in breaks_of(segments_of(luma, AREA), AREA, luma)
        if one.what == "wave" and one.amount > HALVES["wave"][0]
    ]
    assert bool(swings) is told
    assert all(
        one.sure > CERTAIN and one.paired and abs(one.angle) % 179 < 2 and one.amount < pixels + 0.5
        for one in swings
    )


def test_a_bar_that_is_displaced_as_a_whole_is_no_bend():
    luma = barred()
    y, x = np.mgrid[:400, :400].astype(np.float32)
    aside = cv2.remap(
        luma,
        x,
        y + np.where(AREA, 4, 0).astype(np.float32),
        cv2.INTER_CUBIC,
        borderMode=cv2.BORDER_REFLECT,
    )
    found = [one for one in breaks_of(segments_of(aside, AREA), AREA, aside) if one.paired]
    assert found and all(
        one.what == "offset" and one.amount == pytest.approx(4, abs=0.8) for one in found
    )
    assert bent_by(np.array([1.5, 3.0, 3.1, 3.0, 2.9, 3.0, 3.1, 3.0, 1.5]), 80.0) == 0
    assert (
        bent_by(np.array([0.2, 0.9, 2.1, 3.0, 3.4, 3.0, 2.1, 0.9, 0.2]), 80.0)
        == pytest.approx(2.6, abs=0.3)
        and bent_by(np.empty(0), 80.0) == 0
    )


def test_two_joints_that_lie_beside_one_another_are_no_wave():
    # Tiles of two rows: the joint of the lower row stands 5 px beside that of the upper, and each
    # is straight.
    area = disc((400, 400), 200, 200, 90)
    y, x = np.mgrid[:400, :400]
    luma = (
        150
        - 45 * np.exp(-(((x - np.where(y < 200, 198, 203)) / 2.2) ** 2))
        - 45 * np.exp(-(((y - 200) / 2.2) ** 2))
        + np.random.default_rng(3).normal(0, 1.3, (400, 400))
    )
    luma = cv2.GaussianBlur(luma.astype(np.float32), (0, 0), 0.7)
    assert not [
        one
        for one in breaks_of(segments_of(luma, area), area, luma)
        if one.what == "wave" and one.amount > 1.2
    ]


def test_a_line_that_detail_hides_from_step_to_step_is_known_by_its_length_behind_an_area():
    luma = barred()
    # Behind the area dark joints cross it aslant, one or two to a step.
    y, x = np.mgrid[:400, :400]
    joint = (x > 250) & ((x + y) % 24 < 8)
    hidden = np.where(joint, 20.0, luma).astype(np.float32)
    one = Ray(
        np.array([150.0, 190.0]),
        np.array([1.0, 0.0]),
        80.0,
        100.0,
        np.tanh((np.arange(-7, 8)) / 0.9).astype(np.float32) * 20,
        40.0,
    )
    clear, found = goes_on_beyond(luma, AREA, one), goes_on_beyond(hidden, AREA, one)
    assert clear is not None and not clear.hidden
    assert found is not None and found.hidden and abs(found.entry[1] - 190) < 1.5
    # Through a wide area so short a stretch may be of another line.
    assert (
        goes_on_beyond(hidden, AREA, replace(one, entry=np.array([120.0, 190.0]), depth=130.0))
        is None
    )
    # Where no line is behind the joints, none is known.
    bare = np.where(joint, 20.0, np.where(x > 250, 110.0, luma)).astype(np.float32)
    assert goes_on_beyond(bare, AREA, one) is None


def test_that_lines_end_all_around_does_not_excuse_a_gap_between_two_ends_in_one_line():
    # Eight lines that go on, and six of another direction that end.
    ways = np.array([(5.0, 0.0)] * 8 + [(70.0, 0.97)] * 6)
    nature = {what: np.zeros(8) for what in HALVES} | {
        ENDS: np.array([0.0] * 8 + [0.97] * 6),
        WAYS: ways,
    }
    gap = Break(
        "missing",
        0.8,
        1.0,
        (np.zeros(2), np.array([100.0, 0.0])),
        np.empty((0, 2)),
        40.0,
        100.0,
        0.0,
        True,
    )
    assert score_of_break(gap, nature, lossy=False) > 0.8
    assert score_of_break(replace(gap, paired=False), nature, lossy=False) < 0.1
    # Where lines of its own direction end all around, as the joints of bricks do, it says nothing.
    assert score_of_break(replace(gap, angle=72.0), nature, lossy=False) < 0.1
    # One such gap at an untouched place is enough to ask for a wider one.
    assert (
        score_of_break(gap, nature | {"missing": np.array([0.0] * 20 + [1.0])}, lossy=False) < 0.6
    )


@pytest.mark.parametrize(("apart", "several"), [(5.0, False), (40.0, True)])
def test_two_kinks_seen_from_one_side_count_as_two_only_where_they_are_two_things(apart, several):
    kink = lambda y: Break(
        "kink",
        6.0,
        0.9,
        (np.array([100.0, y]),),
        np.empty((0, 2)),
        40.0,
        40.0,
        90.0,
        False,
        signed=6.0,
    )
    assert stands([(0.95, kink(100.0)), (0.9, kink(100.0 + apart))], 12) is several


def told(what, score=0.9, **more):
    return Reading(
        "line",
        score,
        [0, 0, 1, 1],
        [],
        Signal((), 1.0, 1.0),
        Measure("how far the line swings", 30.0, "px", Natural(0.0, 5.0, 0, "outline")),
        shown("line", what=what, **more),
    )


@pytest.mark.parametrize(
    ("what", "lies", "bends", "stands"),
    [
        ("offset", 0.1, 0.2, False),
        ("offset", 2.0, 0.2, True),
        ("tilt", 0.1, 0.2, False),
        ("wave", 0.1, 0.6, False),
        ("wave", 0.1, 1.3, True),
        ("wave", 3.0, 0.0, True),
        ("missing", 0.0, 0.0, True),
        ("offset", None, 0.0, True),
        ("wave", 0.0, None, True),
    ],
)
def test_one_line_alone_is_believed_only_where_the_rest_of_the_fill_says_so_too(
    what, lies, bends, stands
):
    known = lambda far, null="outline", **more: (
        None if far is None else SimpleNamespace(far=far, null=null, **more)
    )
    alone = told(what)
    assert _corroborated(alone, known(lies), known(bends, turning=1.0)) is stands
    # Where edges bend everywhere, less is asked of what one that does is part of, but something.
    assert _corroborated(alone, known(lies), known(bends, turning=3.0)) is (
        stands or (what == "wave" and bends is not None and bends >= 0.3)
    )
    # Unless only squares of a wide fill could be compared with squares.
    assert _corroborated(alone, known(lies), known(bends, "surround", turning=3.0)) is stands


def test_across_a_wide_region_a_ridge_that_swings_however_plainly_is_no_broken_line_where_nothing_else_bends():
    plain = lambda: told("wave", 0.95, count=1, certain=True, from_both_sides=True)
    straight, swings = (
        SimpleNamespace(far=far, null="surround", turning=3.0) for far in (0.7, 2.0)
    )
    for waves, wide, score in (
        (straight, True, 0.01),
        (swings, True, 0.95),
        (straight, False, 0.95),
    ):
        reading = plain()
        _doubted([reading], SimpleNamespace(far=0.1), waves, wide)
        assert reading.score == score and "certain" not in reading.evidence.to_json()
    # A fill that is displaced a little corroborates it.
    reading = plain()
    _doubted([reading], SimpleNamespace(far=0.3), straight, True)
    assert reading.score == 0.95


def test_what_was_followed_beside_its_line_is_not_reported_again_as_missing():
    def reading(what, faint, *lines):
        return told(what, faint=faint, lines=[{"ends": e, "angle": a} for e, a in lines])

    level, lower = ([[100.0, 100.0], [200.0, 100.0]], 0.0), ([[100.0, 140.0], [200.0, 140.0]], 0.0)
    swings, gone, both = (
        reading("wave", False, level),
        reading("missing", True, ([[98.0, 104.0], [202.0, 100.0]], 178.0)),
        reading("missing", True, level, lower),
    )
    assert _once([swings, gone]) == [swings] and _once([gone]) == [gone]
    # Another line is another flaw.
    assert (
        _once([swings, both]) == [swings, both]
        and _once([reading("missing", False, level), swings])[0].evidence.what == "missing"
    )
    # From one side only its way is known by its angle.
    assert _once([reading("kink", False, ([[100.0, 100.0]], 0.0)), gone])[0].evidence.what == "kink"
    across = reading("wave", False, ([[150.0, 50.0], [150.0, 150.0]], 90.0))
    assert _once([across, gone]) == [across, gone]


def test_two_lines_that_swing_among_six_that_run_true_were_mistaken(monkeypatch):
    luma = cv2.GaussianBlur(
        np.random.default_rng(2).normal(120, 6, (400, 400)).astype(np.float32), (0, 0), 1
    )
    window = SimpleNamespace(
        luma_result=luma,
        lossy=False,
        mask=AREA,
        frame=(400, 400),
        apart=AREA,
        to_frame=lambda points: np.asarray(points).tolist(),
        box_to_frame=lambda *box: list(box),
    )
    facts = dict(
        sure=1.0,
        trace=np.array([[160.0, 180.0], [240.0, 184.0]]),
        contrast=40.0,
        length=100.0,
        angle=0.0,
        paired=True,
    )
    line = lambda row, **more: Break(
        ends=(np.array([150.0, row]), np.array([250.0, row])), **{**facts, **more}
    )
    swinging = [
        line(180.0 + 20 * k, what="wave", amount=4.0, deviation=(0.0, 4.0, 0.0)) for k in range(2)
    ]
    for straight, told in ((3, "wave"), (6, None)):
        found = [
            *swinging,
            *(line(100.0 + 10 * k, what="offset", amount=0.0) for k in range(straight)),
        ]
        monkeypatch.setattr(kind, "breaks_of", lambda *_, found=found: found)
        lines, steady = kind.by_lines(window, np.empty((0, 4)), AREA, [])
        standing = [reading.evidence.what for reading in lines if reading.score >= 0.5]
        # And nothing in a fill through which so many run true undulates.
        assert standing == ([told] if told else []) and steady is not bool(told)


@pytest.mark.parametrize(("steady", "told"), [(False, True), (True, False)])
def test_where_many_lines_run_true_nothing_undulates_though_they_cross(monkeypatch, steady, told):
    plane = np.full((400, 400), 120, np.uint8)
    regions = from_mask(AREA)
    window = open_window(
        Scene(Pair(read(png(plane)), read(png(np.where(AREA, 121, plane).astype(np.uint8))))),
        regions[0],
        regions,
    )
    way = np.array([[170.0, 200.0], [200.0, 204.0], [230.0, 200.0]])
    monkeypatch.setattr(kind, "by_lines", lambda *_: (Abstention("none"), steady))
    monkeypatch.setattr(
        kind, "waves", lambda *_: Waves(2.0, 4.0, np.full(8, 1.0), [way], np.array([2.0]))
    )
    (reading,) = kind.measure(window, None)
    assert reading.evidence.what == "wave" and (reading.score >= 0.5) is told


def test_courses_that_are_found_a_little_beyond_the_frame_have_a_contrast():
    luma = np.random.default_rng(2).normal(120, 6, (400, 400)).astype(np.float32)
    window = SimpleNamespace(
        luma_result=luma,
        to_frame=lambda points: np.asarray(points).tolist(),
        box_to_frame=lambda *box: list(box),
    )
    lines = np.array([[-3.0, 90.0, -1.4, 180.0], [-2.0, 90.0, -1.6, 180.0]])
    reading = kind.course_reading(
        window, Course(4.0, 0.2, lines, np.array([[0.0, 1.0]] * 2), None), 0.9, np.array([0.1, 0.2])
    )
    assert np.isfinite(reading.signal.bands).all() and np.isfinite(reading.evidence.contrast)


@pytest.mark.parametrize(("joint", "gone"), [(-40.0, False), (40.0, False), (0.0, True)])
def test_a_joint_that_is_light_between_dark_tiles_is_not_missing(joint, gone):
    # Light tiles with dark joints, and a row of dark ones across the area.
    y, x = np.mgrid[:400, :400]
    row = np.abs(y - 200) < 44
    luma = (
        np.where(row, 80.0, 190.0)
        + np.where(row, joint, -40.0) * np.exp(-(((x - 200) / 1.6) ** 2))
        + np.random.default_rng(4).normal(0, 1.0, (400, 400))
    )
    luma = cv2.GaussianBlur(luma.astype(np.float32), (0, 0), 0.7)
    found = [
        one
        for one in breaks_of(segments_of(luma, AREA), AREA, luma)
        if one.paired and one.what == "missing" and one.amount > 0.6
    ]
    assert bool(found) is gone
