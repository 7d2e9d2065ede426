"""Edges that stand out of busy ground only over their length: found from both sides, and known to
be missing between them.
"""

from dataclasses import replace

import cv2
import numpy as np
import pytest
from builders import disc, png

from zweiblick_core.check import check
from zweiblick_core.features.lines import gone as kind
from zweiblick_core.features.lines.faint import FaintLine, faint_lines
from zweiblick_core.features.lines.gone import bar_gone, faint_breaks, spreads_gone
from zweiblick_core.io import read
from zweiblick_core.regions.masks import from_mask

SHAPE = (520, 520)
AREA = disc(SHAPE, 260, 250, 52)


def ground(seed=4):
    """Pebbles, more or less: no short stretch of a faint edge is to be told from them."""
    rng = np.random.default_rng(seed)
    rough = sum(
        cv2.GaussianBlur(rng.normal(0, 1, SHAPE), (0, 0), sigma) * sigma
        for sigma in (1.0, 1.6, 2.4)
    )
    return 120 + rough / rough.std() * 20


def barred(levels, degrees=20.0, aside=0.0):
    """A bar of so many levels, 16 px wide, through the middle of the area or `aside` of it."""
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    across = (
        (y - 250) * np.cos(np.radians(degrees)) - (x - 260) * np.sin(np.radians(degrees)) - aside
    )
    return levels * 0.5 * (np.tanh((across + 8) / 0.9) - np.tanh((across - 8) / 0.9))


def told(plane):
    """Edges; bars seen as wholes aside."""
    return edges(faint_lines(np.clip(plane, 0, 255).astype(np.float32), AREA, [(0, 0)])[0])


def edges(lines):
    return [line for line in lines if not line.width]


def bars(plane):
    return [
        line
        for line in faint_lines(np.clip(plane, 0, 255).astype(np.float32), AREA, [(0, 0)])[0]
        if line.width and not line.thin
    ]


@pytest.mark.parametrize("degrees", [0.0, 20.0, 100.0, 179.0])
def test_a_faint_bar_is_known_by_both_of_its_edges_and_goes_on(degrees):
    lines = told(ground() + barred(38, degrees))
    assert len(lines) == 2
    for line in lines:
        turn = abs(line.angle - degrees) % 180
        assert min(turn, 180 - turn) < 2.5 and line.missing < 0.4 and 22 < line.contrast < 52
        # It is a chord: both ends on the outline.
        assert np.abs(np.hypot(*(line.ends - (260, 250)).T) - 52) == pytest.approx([0, 0], abs=4)


def test_where_the_fill_has_the_ground_but_not_the_bar_it_is_missing():
    lines = told(ground() + np.where(AREA, 0, barred(38)))
    assert len(lines) == 2 and all(
        line.missing > 0.6 and line.sure > 3 and line.offset == 0 for line in lines
    )


def test_a_single_edge_must_be_surer_than_a_bar_with_two():
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    edge = 17 * np.tanh((y - 250) * np.cos(np.radians(20)) - (x - 260) * np.sin(np.radians(20)))
    found, _ = faint_breaks((ground() + np.where(AREA, 0, edge)).astype(np.float32), AREA, [], [])
    assert [one.what for _, one in found] == ["missing"] and found[0][0] <= 0.6
    both, _ = faint_breaks(
        (ground() + np.where(AREA, 0, barred(38))).astype(np.float32), AREA, [], []
    )
    assert len(both) == 2 and max(score for score, _ in both) > 0.7


def test_a_single_edge_stands_only_where_other_places_say_how_edges_go_on():
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    edge = 60 * np.tanh((y - 250) * np.cos(np.radians(20)) - (x - 260) * np.sin(np.radians(20)))
    plane = (ground() + np.where(AREA, 0, edge)).clip(0, 255).astype(np.float32)
    places = [(0, 150), (0, -150), (150, 120), (-150, -120)]
    ((score, one),), _ = faint_breaks(plane, AREA, places, [])
    assert one.what == "missing" and one.sure > 6 and score > 0.64
    # A region as large as the picture leaves none: two things that end in one line may be two.
    ((score, _),), _ = faint_breaks(plane, AREA, [], [])
    assert score < 0.5


def crossed(levels, seed=4, half=5):
    """Ground across which lines run so near one another that no single edge of a bar stands out of
    them, and the bar.
    """
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    rng = np.random.default_rng(seed)
    across = (y - 250) * np.cos(np.radians(20)) - (x - 260) * np.sin(np.radians(20))
    joints = -26 * (np.abs((x + 6 * rng.normal()) % 34 - 17) < 2).astype(float)
    return ground(seed) * 0.5 + 60 + cv2.GaussianBlur(joints, (0, 0), 0.8), levels * 0.5 * (
        np.tanh((across + half) / 0.9) - np.tanh((across - half) / 0.9)
    )


def test_a_narrow_bar_is_seen_as_a_whole_and_reported_once():
    ground_of, bar = crossed(24)
    (seen,) = [
        line for line in bars(ground_of + np.where(AREA, 0, bar)) if abs(line.angle - 20) < 4
    ]
    assert seen.missing > 0.6 and 7 < seen.width < 13 and seen.uneven < 0.4
    (seen,) = [line for line in bars(ground_of + bar) if abs(line.angle - 20) < 4]
    assert seen.missing < 0.35
    # A single edge is no bar: it differs from one side only.
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    edge = 25 * np.tanh((y - 250) * np.cos(np.radians(20)) - (x - 260) * np.sin(np.radians(20)))
    assert [line for line in bars(ground() + edge) if abs(line.angle - 20) < 6] == []


def test_a_bar_that_ends_counts_with_its_edges_and_not_where_others_like_it_go_on():
    ground_of, bar = crossed(30)
    found, _ = faint_breaks((ground_of + np.where(AREA, 0, bar)).astype(np.float32), AREA, [], [])
    assert max(score for score, _ in found) > 0.7 and all(
        one.what == "missing" and abs(one.angle - 20) < 4 for _, one in found
    )
    (gone,) = [
        line for line in bars(ground_of + np.where(AREA, 0, bar)) if abs(line.angle - 20) < 4
    ]
    assert bar_gone(gone, [gone], [], 0.55) > 0.7
    # Where one that runs alike goes on, what ends may be two of them that end in one line; across
    # it none does.
    alike, across = (
        replace(gone, missing=0.1, ends=ends)
        for ends in (np.add(gone.ends, (0, 40)), gone.ends[:, ::-1])
    )
    assert (
        bar_gone(gone, [gone, alike], [], 0.55) == 0
        and bar_gone(gone, [gone, across], [], 0.55) > 0.7
    )
    # And where such bars end by nature at other places.
    assert (
        bar_gone(gone, [gone], [gone] * 4, 0.55) < 0.1
        and bar_gone(gone, [gone], [replace(gone, ends=across.ends)] * 4, 0.55) > 0.7
    )


def test_what_lies_in_a_row_is_uneven_and_counts_for_less():
    laid = ground() + np.where(AREA, 0, barred(38))
    patchy = laid.copy()
    for left in (110, 150, 360, 400):
        patchy[:, left : left + 22] -= 0.5 * np.where(AREA, 0, barred(38))[:, left : left + 22]
    assert max(line.uneven for line in told(laid)) < min(line.uneven for line in told(patchy))
    scores = [
        max(
            (score for score, _ in faint_breaks(plane.astype(np.float32), AREA, [], [])[0]),
            default=0.0,
        )
        for plane in (laid, patchy)
    ]
    assert scores[0] > 0.7 and scores[1] < scores[0]


@pytest.mark.parametrize(
    ("uneven", "sure", "stands"),
    [(0.3, 3.6, True), (0.3, 2.0, False), (0.5, 4.0, False), (0.5, 9.0, True), (0.7, 40.0, False)],
)
def test_a_single_line_must_be_the_surer_the_less_even_it_is_and_stands_nowhere_if_it_is_too_uneven(
    monkeypatch, uneven, sure, stands
):
    line = FaintLine(
        np.array([[210.0, 250.0], [310.0, 250.0]]), 30.0, 5.0, 0.95, sure, 0.0, uneven=uneven
    )
    monkeypatch.setattr(
        kind,
        "faint_lines",
        lambda luma, area, places: [[line]] if places == [(0, 0)] else [[] for _ in places],
    )
    ((score, _),), _ = faint_breaks(ground().astype(np.float32), AREA, [(0, 150)], [])
    assert (score >= 0.5) is stands
    # Where one ends as surely by nature, that says nothing.
    monkeypatch.setattr(kind, "faint_lines", lambda luma, area, places: [[line] for _ in places])
    ((score, _),), _ = faint_breaks(ground().astype(np.float32), AREA, [(0, 150)], [])
    assert score < 0.5


def test_what_is_there_the_other_way_round_is_another_thing():
    line = told(ground() + np.where(AREA, 0, barred(38)))[0]
    gone, opposite = (spreads_gone(replace(line, missing=missing)) for missing in (1.1, 1.9))
    assert gone == pytest.approx(line.sure) and opposite == pytest.approx(0)


def test_where_the_bar_lies_beside_its_line_it_is_reported_how_far():
    lines = told(ground() + np.where(AREA, barred(40, aside=8.0), barred(40)))
    assert any(abs(line.offset) == pytest.approx(8, abs=2) for line in lines)


def test_bare_ground_and_things_in_a_row_are_no_lines():
    assert told(ground()) == []
    row = ground()
    for at in range(60, 520, 90):
        # What makes up the mean is three strong things, not an edge.
        cv2.circle(row, (at, 250), 14, 245.0, -1)
    assert told(row) == []


def test_at_the_frames_edge_as_much_of_a_line_is_looked_at_as_there_is():
    # The outline's left end lies 60 px from the edge; a whole stretch would be 94.
    left = 148
    plane = (
        (ground() + np.where(AREA, 0, barred(50, 0.0)))
        .clip(0, 255)
        .astype(np.float32)[:, left:]
        .copy()
    )
    (lines,) = map(edges, faint_lines(plane, AREA[:, left:].copy(), [(0, 0)]))
    assert len(lines) == 2 and all(line.missing > 0.6 for line in lines)
    near = 190
    assert faint_lines(plane[:, near - left :].copy(), AREA[:, near:].copy(), [(0, 0)]) == [[]]


def test_a_line_may_be_crossed_by_something_strong_but_show_nowhere_the_opposite():
    bar = ground(7) * 0.4 + 70 + np.where(AREA, 0, barred(40, 0.0))
    crossed = bar.copy()
    crossed[:, 140:160] = 30
    assert len(told(bar)) == 2 and len(told(crossed)) == 2
    # What is the opposite for a sixth of its way is other things in a row.
    opposed = bar.copy()
    for left in (131, 333):
        opposed[:, left : left + 14] -= 3.0 * barred(40, 0.0)[:, left : left + 14]
    assert told(opposed) == []


def test_a_clear_line_is_known_like_a_faint_one():
    lines = told(
        110 + np.random.default_rng(2).normal(0, 1.3, SHAPE) + np.where(AREA, 0, barred(60))
    )
    assert len(lines) == 2 and all(line.missing > 0.8 for line in lines)


def test_a_line_that_comes_from_one_side_only_is_none():
    plane = barred(40, 0.0)
    plane[:, 260:] = 0
    assert told(ground() + plane) == []


def test_the_area_is_judged_at_other_places_too_and_small_frames_are_not():
    plane = (ground() + barred(38)).clip(0, 255).astype(np.float32)
    here, beside = map(edges, faint_lines(plane, AREA, [(0, 0), (0, 150)]))
    assert len(here) == 2 and beside == []
    along = np.array([np.cos(np.radians(20)), np.sin(np.radians(20))]) * 60
    (moved,) = faint_lines(plane, AREA, [(int(along[0]), int(along[1]))])
    assert moved
    assert faint_lines(plane[200:264, 200:264].copy(), AREA[200:264, 200:264].copy(), [(0, 0)]) == [
        []
    ]


@pytest.mark.slow
def test_a_check_tells_of_it_and_of_nothing_where_the_bar_goes_on():
    rng = np.random.default_rng(8)
    whole, bare = (
        np.repeat((ground() + plane)[..., None], 3, axis=2) for plane in (barred(40), 0.0)
    )
    thing = cv2.erode(AREA.astype(np.uint8), np.ones((7, 7), np.uint8)).astype(bool)
    original = whole.copy()
    original[thing] = (40, 90, 170)
    for fill, what in ((bare, ["missing"]), (whole, [])):
        result = np.where(AREA[..., None], fill + rng.normal(0, 0.4, fill.shape), whole)
        report = check(
            *(read(png(one.clip(0, 255).round().astype(np.uint8))) for one in (original, result)),
            from_mask(AREA),
            kinds=("line",),
        )
        findings = report.regions[0].findings
        assert [one.evidence.what for one in findings] == what
        if findings:
            assert (
                findings[0].evidence.count == 2
                and findings[0].evidence.from_both_sides
                and findings[0].measure.value > 0.6
            )


@pytest.mark.parametrize("far", [700.0, 1500.0])
def test_boards_that_run_together_are_no_line_that_is_missing_between_two_of_them(far):
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    bearing = np.arctan2(y - 250, x - 260 + far) * far / 20
    tone = np.random.default_rng(3).normal(0, 14, 400)[np.floor(bearing).astype(int) + 200]
    assert [line for line in told(ground() * 0.7 + 40 + tone) if line.missing > 0.4] == []
