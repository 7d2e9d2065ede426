"""A fill that was laid in aside, turned, aslant or in another size is told by all that crosses its
boundary, straight or not.
"""

from dataclasses import replace

import cv2
import numpy as np
import pytest
from builders import disc, filled, holding, jpeg, png, with_thing
from evidences import shown

from zweiblick_core.align import Pair
from zweiblick_core.check import check
from zweiblick_core.features.lines import displaced as module
from zweiblick_core.features.lines.displaced import FAR, displaced
from zweiblick_core.features.rim.nulls import controls_of
from zweiblick_core.io import read
from zweiblick_core.kinds import line as kind
from zweiblick_core.regions import from_mask
from zweiblick_core.report import Measure, Natural, Reading, Signal
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.window import open_window


def marbled(seed: int = 3) -> np.ndarray:
    """Ground with veins that are nowhere straight, and grain."""
    rng = np.random.default_rng(seed)
    veins = cv2.GaussianBlur(rng.normal(0, 1, (460, 620)).astype(np.float32), (0, 0), 9)
    ground = 120 + 32 * np.tanh(6 * np.sin(9 * veins / veins.std()))
    return (
        np.clip(ground[..., None] * [1.0, 0.96, 0.9] + rng.normal(0, 1.5, (460, 620, 3)), 0, 255)
        .round()
        .astype(np.uint8)
    )


TRUTH = marbled()
MASK = disc(TRUTH.shape[:2], 300, 230, 52)
ORIGINAL = with_thing(TRUTH, MASK)


def moved(dx: float = 0.0, dy: float = 0.0, degrees: float = 0.0) -> np.ndarray:
    """The truth laid aside and turned about the region's middle."""
    matrix = cv2.getRotationMatrix2D((300.0, 230.0), degrees, 1.0)
    matrix[:, 2] += (dx, dy)
    return cv2.warpAffine(
        TRUTH, matrix, TRUTH.shape[1::-1], flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
    )


def changed(xx: float = 1.0, xy: float = 0.0, yx: float = 0.0, yy: float = 1.0) -> np.ndarray:
    """The truth with a point (x, y) from the region's middle laid to (xx * x + xy * y, yx * x + yy
    * y).
    """
    matrix = np.array([[xx, xy, 300 * (1 - xx) - 230 * xy], [yx, yy, 230 * (1 - yy) - 300 * yx]])
    return cv2.warpAffine(
        TRUTH, matrix, TRUTH.shape[1::-1], flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
    )


def line_of(fill, encode=png):
    region = check(read(encode(ORIGINAL)), read(encode(fill)), from_mask(MASK)).regions[0]
    return next((f for f in region.findings if f.kind == "line"), None), region


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg])
@pytest.mark.parametrize("shift", [(5, 0), (-3, 4)])
def test_a_fill_displaced_is_found_where_nothing_is_straight(shift, encode):
    finding, _ = line_of(filled(TRUTH, MASK, moved(*shift)), encode)
    assert (
        finding.evidence.what == "offset"
        and finding.evidence.whole
        and finding.evidence.shift_px == pytest.approx(shift, abs=2.1)
    )
    assert (
        finding.evidence.amount == pytest.approx(5, abs=1.5)
        and finding.measure.value > 2 * finding.measure.natural.high
        and finding.measure.natural.n >= 5
    )
    # Each crossing that is shown jumps along the boundary as the displacement says, and starts on
    # it.
    assert len(finding.evidence.lines) >= 6
    for line in finding.evidence.lines:
        assert (
            np.hypot(*(np.array(line.ends[1]) - (300.5, 230.5))) == pytest.approx(53, abs=3)
            and line.amount <= 11
        )


@pytest.mark.slow
def test_a_fill_turned_about_its_middle_is_reported_in_degrees():
    finding, _ = line_of(filled(TRUTH, MASK, moved(degrees=5)))
    assert (
        finding.evidence.what == "kink"
        and finding.evidence.whole
        and finding.evidence.degrees == pytest.approx(5, abs=1.1)
    )


@pytest.mark.slow
@pytest.mark.parametrize("shear", [{"xy": 0.1}, {"xy": -0.1}, {"yx": -0.1}])
def test_a_fill_pasted_in_aslant_is_reported_in_degrees(shear):
    finding, _ = line_of(filled(TRUTH, MASK, changed(**shear)))
    assert (
        finding.evidence.what == "shear"
        and finding.evidence.whole
        and finding.evidence.degrees == pytest.approx(5.7, abs=1.6)
    )
    assert finding.measure.name == "how much better it would go on if the fill were sheared"


@pytest.mark.slow
@pytest.mark.parametrize(("size", "mended"), [(1.07, "smaller"), (0.9, "larger")])
def test_a_fill_that_is_too_large_or_too_small_is_reported_by_how_much(size, mended):
    finding, _ = line_of(filled(TRUTH, MASK, changed(size, yy=size)))
    assert (
        finding.evidence.what == "scale"
        and finding.evidence.amount == pytest.approx(100 * (size - 1), abs=2.6)
        and finding.evidence.whole
    )
    assert finding.measure.name == f"how much better it would go on if the fill were {mended}"


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg])
def test_ground_that_goes_on_is_no_finding(encode):
    finding, region = line_of(holding(TRUTH, MASK), encode)
    assert finding is None and region.scores["line"] < 0.2


@pytest.mark.slow
def test_neither_another_tone_nor_foreign_ground_is_called_displaced():
    brighter = np.clip(TRUTH.astype(int) + 20, 0, 255).astype(np.uint8)
    assert line_of(filled(TRUTH, MASK, brighter))[0] is None
    # What matches nowhere lies nowhere aside.
    assert line_of(filled(TRUTH, MASK, marbled(8)))[0] is None


@pytest.mark.parametrize(("radius", "told"), [(52, True), (30, True), (18, False), (13, False)])
def test_a_short_boundary_must_stand_out_by_more(monkeypatch, radius, told):
    mask = disc(TRUTH.shape[:2], 300, 230, radius)
    as_read = displaced
    # What is a clear displacement of a long boundary, a short one shows by chance.
    monkeypatch.setattr(kind, "displaced", lambda controls: replace(as_read(controls), far=1.2))
    region = check(
        read(png(with_thing(TRUTH, mask))),
        read(png(filled(TRUTH, mask, moved(6)))),
        from_mask(mask),
        kinds=("line",),
    ).regions[0]
    assert (region.scores["line"] > 0.5) == told


def test_where_an_edge_goes_on_is_reported_from_where_it_jumps():
    y, x = np.mgrid[:460, :620]
    grain = np.random.default_rng(4).normal(0, 1.5, (460, 620))

    def striped(aside):
        """Slanted stripes, moved across themselves."""
        return (
            np.clip(
                np.stack(
                    [130 + 40 * np.tanh(4 * np.sin((x * 0.9 + y * 0.44 - aside) / 5)) + grain] * 3,
                    -1,
                ),
                0,
                255,
            )
            .round()
            .astype(np.uint8)
        )

    def found(aside):
        regions = from_mask(MASK)
        before, after = with_thing(striped(0), MASK), filled(striped(0), MASK, striped(aside))
        result = displaced(
            controls_of(
                open_window(Scene(Pair(read(png(before)), read(png(after)))), regions[0], regions)
            )
        )
        assert result is not None
        return result

    holds, jumps = found(0), found(5)
    # Where stripes cross rather than graze the boundary.
    steep = np.abs(holds.crossing.ways).max(axis=1) < 0.8
    crossing = [
        holds.crossing.rim.points[k]
        for k in np.argsort(-np.abs(np.gradient(holds.crossing.outer)) * steep)[:30]
    ]
    assert (
        np.mean([holds.goes_on(point, 5.0) for point in crossing]) > 0.95
        and np.mean([jumps.goes_on(point, 5.0) for point in crossing]) < 0.1
    )
    assert not holds.goes_on(np.array([5.0, 5.0]), 5.0) and holds.costs.shape[1] == 2 * FAR + 1
    assert holds.far < 1 < 3 < jumps.far and jumps.shift @ (0.9, 0.44) == pytest.approx(5, abs=1.2)


def test_what_is_displaced_is_read_in_several_ways_and_reported_by_their_mean(monkeypatch):
    regions = from_mask(MASK)
    controls = controls_of(
        open_window(
            Scene(Pair(read(png(ORIGINAL)), read(png(filled(TRUTH, MASK, moved(3, 2)))))),
            regions[0],
            regions,
        )
    )
    both = displaced(controls)
    rims = [controls.rims[0], *controls.placed]
    alone = [
        module.gains_of(rims, [controls.strip(rim) for rim in rims], way)
        for way in module.READING_WAYS
    ]
    # Which of a displacement and the other ways it is, is the mean's too.
    assert (
        both.how == "moved"
        and both.far == pytest.approx(np.mean([one.far[0] for one in alone]))
        and both.far > 1
    )
    assert both.shift.tolist() == alone[0].shift.tolist()
    # What is read far from the boundary counts for so many spreads at most.
    monkeypatch.setattr(module, "READING_WAYS", ((*module.READING_WAYS[0][:3], 0.5),))
    assert displaced(controls).far == 0.5


@pytest.mark.parametrize(("both_sides", "left"), [(False, 0.001), (True, 0.147)])
def test_a_line_that_nearly_breaks_does_not_hide_what_is_displaced_as_a_whole(
    monkeypatch, both_sides, left
):
    regions = from_mask(MASK)
    window = open_window(
        Scene(Pair(read(png(ORIGINAL)), read(png(filled(TRUTH, MASK, moved(3, 2)))))),
        regions[0],
        regions,
    )
    whole = displaced(controls_of(window))
    nearly = Reading(
        "line",
        0.49,
        [0.0] * 4,
        [],
        Signal((), 1.0, 1.0),
        Measure("", 0.5, "", Natural(0.0, 1.0, 9, "outline")),
        shown("line", what="missing", count=1, from_both_sides=both_sides),
    )
    monkeypatch.setattr(kind, "by_lines", lambda *_: ([replace(nearly)], False))
    monkeypatch.setattr(kind, "waves", lambda *_: None)
    told = {}
    for far in (0.85, -1.0):
        monkeypatch.setattr(
            kind, "displaced", lambda _, far=far: replace(whole, far=far, within=True)
        )
        (told[far],) = kind.measure(window, None)
    assert told[0.85].evidence.whole and 0.2 < told[0.85].score < 0.5
    assert told[-1.0].evidence.what == "missing" and told[-1.0].score == pytest.approx(
        left, abs=0.002
    )


@pytest.mark.slow
def test_a_fill_that_lies_farther_off_than_is_sought_is_reported_to_lie_at_least_so_far():
    finding, _ = line_of(filled(TRUTH, MASK, moved(3, 2)))
    assert finding.evidence.whole and finding.evidence.at_least is False
    finding, _ = line_of(filled(TRUTH, MASK, moved(degrees=10)))
    assert (
        finding.evidence.whole
        and finding.evidence.what == "kink"
        and finding.evidence.at_least
        and finding.evidence.degrees > 9
    )
