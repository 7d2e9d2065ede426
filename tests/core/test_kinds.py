"""Each kind on flaws that are certainly there and on results that certainly hold."""

import cv2
import numpy as np
import pytest
from builders import disc, filled, holding, jpeg, png, textured, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.copies.grain import high_pass, plain_agreement, steepness
from zweiblick_core.features.copies.turned import ALIKE, Searcher
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask
from zweiblick_core.report import KINDS
from zweiblick_core.scene.window import Window

TRUTH = textured(460, 620, seed=5)
MASK = disc(TRUTH.shape[:2], 300, 230, 52)
ORIGINAL = with_thing(TRUTH, MASK)


def examined(result, encode=png):
    return check(read(encode(ORIGINAL)), read(encode(result)), from_mask(MASK)).regions[0]


def copied(dx=150, dy=10, mirrored=False):
    ys, xs = np.nonzero(MASK)
    source = xs.max() + xs.min() - xs if mirrored else xs
    out = TRUTH.copy()
    out[ys, xs] = TRUTH[ys + dy, source + dx]
    return out


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg])
def test_a_result_that_holds_has_nothing_to_report(encode):
    region = examined(holding(TRUTH, MASK), encode)
    assert region.findings == [] and region.overall > 0.9


@pytest.mark.slow
def test_a_copy_is_found_with_its_source():
    region = examined(copied())
    finding = next(f for f in region.findings if f.kind == "repeat")
    assert (
        finding.evidence.offset_px == pytest.approx([150, 10], abs=2)
        and not finding.evidence.mirrored
    )
    x, y, w, h = finding.bbox
    assert 240 < x + w / 2 < 360 and 170 < y + h / 2 < 290
    assert finding.measure.value > 0.8 > 0.3 > finding.measure.natural.high


@pytest.mark.slow
def test_a_mirrored_copy_is_found_as_one():
    finding = next(f for f in examined(copied(mirrored=True)).findings if f.kind == "repeat")
    assert finding.evidence.mirrored and finding.measure.value > 0.9


@pytest.mark.slow
@pytest.mark.parametrize(("degrees", "scale"), [(5, 1.0), (90, 1.0), (0, 1.1), (-12, 0.8)])
def test_a_copy_that_was_turned_or_scaled_is_found_with_its_angle_and_scale(degrees, scale):
    matrix = cv2.getRotationMatrix2D((450.0, 230.0), degrees, scale)
    matrix[:, 2] -= (150, 0)
    fill = cv2.warpAffine(
        TRUTH, matrix, TRUTH.shape[1::-1], flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
    )
    finding = next(f for f in examined(filled(TRUTH, MASK, fill)).findings if f.kind == "repeat")
    assert abs(finding.evidence.turned_degrees) == pytest.approx(
        abs(degrees), abs=2
    ) and finding.evidence.scale == pytest.approx(scale, rel=0.06)
    x, y, w, h = finding.evidence.source
    assert x + w / 2 == pytest.approx(450, abs=25) and y + h / 2 == pytest.approx(230, abs=25)


@pytest.mark.slow
@pytest.mark.parametrize(("degrees", "scale"), [(0, 0.85), (10, 0.8)])
@pytest.mark.parametrize("encode", [png, jpeg])
def test_a_small_copy_that_was_turned_or_scaled_is_found_too(degrees, scale, encode):
    mask = disc(TRUTH.shape[:2], 300, 230, 34)
    matrix = cv2.getRotationMatrix2D((420.0, 200.0), degrees, scale)
    matrix[:, 2] -= (120, -30)
    fill = cv2.warpAffine(
        TRUTH, matrix, TRUTH.shape[1::-1], flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
    )
    region = check(
        read(encode(with_thing(TRUTH, mask))),
        read(encode(filled(TRUTH, mask, fill))),
        from_mask(mask),
    ).regions[0]
    finding = next(f for f in region.findings if f.kind == "repeat")
    assert abs(finding.evidence.turned_degrees) == pytest.approx(
        degrees, abs=1
    ) and finding.evidence.scale == pytest.approx(scale, rel=0.03)
    assert finding.measure.value > finding.measure.natural.high + 0.1


def boards_alike() -> np.ndarray:
    """A wall of boards that are alike but for their grain: every place looks like a hundred others,
    and none has a corner.
    """
    rng = np.random.default_rng(8)
    x = np.arange(620) % 26
    wall = 128 - 34 * np.exp(-(((x - 3) / 1.2) ** 2)) + 5 * (x > 14) + np.zeros((460, 1))
    noise = cv2.GaussianBlur(rng.normal(0, 1, (460, 620, 3)).astype(np.float32), (0, 0), 0.6)
    return np.clip(wall[..., None] + 2.4 * noise / noise.std(), 0, 255).round().astype(np.uint8)


@pytest.mark.slow
@pytest.mark.parametrize(("degrees", "scale"), [(4, 1.0), (0, 1.06), (-10, 0.8)])
def test_a_copy_that_was_turned_or_scaled_is_known_by_its_grain_where_all_is_alike(degrees, scale):
    wall = boards_alike()
    matrix = cv2.getRotationMatrix2D((430.0, 250.0), degrees, scale)
    matrix[:, 2] -= (130, 20)
    fill = cv2.warpAffine(
        wall, matrix, wall.shape[1::-1], flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
    )
    judge = lambda result: check(
        read(png(with_thing(wall, MASK))), read(png(result)), from_mask(MASK), kinds=("repeat",)
    ).regions[0]
    (finding,) = judge(filled(wall, MASK, fill)).findings
    assert abs(finding.evidence.turned_degrees) == pytest.approx(
        abs(degrees), abs=1
    ) and finding.evidence.scale == pytest.approx(scale, rel=0.03)
    x, y, w, h = finding.evidence.source
    assert x + w / 2 == pytest.approx(430, abs=25) and y + h / 2 == pytest.approx(250, abs=25)
    # Boards themselves are no copies of one another.
    assert judge(holding(wall, MASK)).scores["repeat"] < 0.1


@pytest.mark.slow
def test_a_copy_is_found_through_jpeg():
    assert "repeat" in [f.kind for f in examined(copied(151, 11), jpeg).findings]


@pytest.mark.slow
def test_a_step_in_tone_is_a_seam():
    region = examined(filled(TRUTH, MASK, TRUTH.astype(float) + 18))
    assert region.findings[0].kind == "seam"
    assert region.findings[0].evidence.step.lightness > 3


@pytest.mark.slow
def test_a_fringe_in_the_things_colour_is_a_halo_from_too_tight_an_outline():
    inside = (
        np.minimum(1, np.maximum(0, np.hypot(*np.mgrid[-230:230, -300:320][::1]) - 46) / 4)[
            ..., None
        ]
        * MASK[..., None]
    )
    result = filled(
        TRUTH, MASK, TRUTH * (1 - 0.6 * inside) + 0.6 * inside * np.array([40, 60, 170])
    )
    region = examined(result)
    halo = next(f for f in region.findings if f.kind == "halo")
    assert halo.evidence.likeness_to_removed > 0.5
    assert any(group.cause == "outline too tight" for group in region.groups)


@pytest.mark.slow
def test_scores_grow_with_the_step():
    scores = [
        examined(filled(TRUTH, MASK, TRUTH.astype(float) + levels)).scores["seam"]
        for levels in (0, 6, 14, 30)
    ]
    assert scores == sorted(scores) and scores[0] < 0.3 < 0.9 < scores[-1]


def test_nothing_done_is_untouched_and_the_other_kinds_say_nothing():
    region = check(read(png(ORIGINAL)), read(png(ORIGINAL)), from_mask(MASK)).regions[0]
    (finding,) = region.findings
    assert (
        finding.kind == "untouched"
        and finding.measure.value == 0
        and region.groups[0].cause == "not worked on"
    )
    assert set(region.abstained) == set(KINDS) - {"untouched", "overreach"}
    assert "untouched" in [f.kind for f in examined(ORIGINAL, jpeg).findings]


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg])
def test_washed_out_texture_is_a_smear(encode):
    import cv2

    region = examined(filled(TRUTH, MASK, cv2.GaussianBlur(TRUTH, (0, 0), 3)), encode)
    finding = next(f for f in region.findings if f.kind == "smear")
    assert finding.measure.value > finding.measure.natural.high
    fine_inside, fine_around = finding.evidence.inside[1], finding.evidence.around[1]
    assert fine_inside < 0.75 * fine_around
    x, y, w, h = finding.bbox
    assert abs(x + w / 2 - 300) < 20 and abs(y + h / 2 - 230) < 20


@pytest.mark.slow
def test_streaks_are_a_smear_and_their_direction_is_reported():
    import cv2

    kernel = np.zeros((25, 25), np.float32)
    kernel[12] = 1 / 25
    finding = next(
        f
        for f in examined(
            filled(TRUTH, MASK, cv2.filter2D(TRUTH.astype(np.float32), -1, kernel))
        ).findings
        if f.kind == "smear"
    )
    angle = finding.evidence.streaks.angle
    assert finding.evidence.streaks.coherence > 0.4 and min(angle, 180 - angle) < 12


def lined(shift=0.0, turn=0.0):
    """A quiet ground with two straight edges that run through the region at a slight slope."""
    y, x = np.mgrid[: TRUTH.shape[0], : TRUTH.shape[1]].astype(float)
    if turn:
        c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
        x, y = 300 + c * (x - 300) - s * (y - 230), 230 + s * (x - 300) + c * (y - 230)
    ground = TRUTH.astype(float) * 0.35 + 80
    for level in (205, 258):
        ground += 15 * np.tanh(y + shift - level - 0.1 * (x - 300))[..., None]
    return np.clip(ground, 0, 255).round().astype(np.uint8)


def line_case(fill):
    behind = lined()
    report = check(
        read(png(with_thing(behind, MASK))), read(png(filled(behind, MASK, fill))), from_mask(MASK)
    )
    return report.regions[0]


@pytest.mark.slow
def test_lines_that_go_on_are_no_finding():
    region = line_case(lined() + np.random.default_rng(2).normal(0, 0.2, TRUTH.shape))
    assert region.findings == [] and "line" not in region.abstained


@pytest.mark.slow
@pytest.mark.parametrize("shift", [-4, 3, 6])
def test_lines_that_jump_off_are_found_with_their_offset(shift):
    finding = next(f for f in line_case(lined(shift)).findings if f.kind == "line")
    assert (
        finding.evidence.what == "offset"
        and finding.measure.value == pytest.approx(abs(shift), abs=0.6)
        and finding.evidence.count == 2
    )
    assert finding.evidence.lines[0].angle == pytest.approx(5.7, abs=1.5)


@pytest.mark.slow
def test_lines_that_turn_away_are_found():
    finding = next(f for f in line_case(lined(turn=7)).findings if f.kind == "line")
    assert finding.evidence.what in ("kink", "offset", "tilt")


def test_a_tilted_line_is_reported_in_degrees():
    finding = next(f for f in line_case(lined(turn=3)).findings if f.kind == "line")
    assert (
        finding.evidence.what == "tilt"
        and finding.measure.value == pytest.approx(3, abs=0.5)
        and finding.measure.unit == "degrees"
    )


def waved(amount):
    y, x = np.mgrid[: TRUTH.shape[0], : TRUTH.shape[1]].astype(np.float32)
    return cv2.remap(
        lined(),
        x,
        y + np.float32(amount) * np.sin(2 * np.pi * x / 52).astype(np.float32),
        cv2.INTER_CUBIC,
    )


def test_a_board_that_undulates_swings():
    finding = next(f for f in line_case(waved(4)).findings if f.kind == "line")
    assert (
        finding.evidence.what == "wave"
        and finding.measure.value == pytest.approx(4, abs=1.2)
        and finding.measure.unit == "px"
    )


def boards(turn=0.0):
    """Boards that run to a vanishing point 900 px to the right and above."""
    y, x = np.mgrid[: TRUTH.shape[0], : TRUTH.shape[1]].astype(float)
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    x, y = 300 + c * (x - 300) - s * (y - 230), 230 + s * (x - 300) + c * (y - 230)
    number = np.degrees(np.arctan2(y + 120, 1200 - x)) / 1.1
    tone = np.random.default_rng(3).normal(0, 14, 400)[np.floor(number).astype(int) % 400]
    joint = 45 * np.exp(-((((number - np.floor(number)) * 17 - 1) / 1.1) ** 2))
    return (
        np.clip(TRUTH.astype(float) * 0.3 + 90 + (tone - joint)[..., None], 0, 255)
        .round()
        .astype(np.uint8)
    )


@pytest.mark.slow
def test_courses_that_leave_their_vanishing_point_are_reported_by_their_angle():
    def courses(turn):
        behind = boards()
        report = check(
            read(png(with_thing(behind, MASK))),
            read(png(filled(behind, MASK, boards(turn)))),
            from_mask(MASK),
            kinds=("line",),
        )
        return [f for f in report.regions[0].findings if f.evidence.what == "course"]

    assert courses(0) == []
    (found,) = courses(5)
    assert found.measure.value == pytest.approx(
        5, abs=0.7
    ) and found.evidence.vanishing_point == pytest.approx([1200, -120], abs=60)


@pytest.mark.slow
def test_lines_that_end_are_missing():
    region = line_case(TRUTH.astype(float) * 0.35 + 80)
    finding = next(f for f in region.findings if f.kind == "line")
    assert (
        finding.evidence.what == "missing"
        and finding.measure.value > 0.6
        and finding.evidence.from_both_sides
    )
    assert any(group.cause == "no perspective" for group in region.groups)


@pytest.mark.slow
def test_a_line_scores_higher_the_farther_it_jumps():
    scores = [line_case(lined(shift)).scores["line"] for shift in (0, 2, 5)]
    assert scores == sorted(scores) and scores[0] < 0.2 < 0.8 < scores[-1]


@pytest.mark.slow
def test_the_same_input_gives_the_same_report():
    first, second = (
        check(read(png(ORIGINAL)), read(png(copied())), from_mask(MASK)).to_json() for _ in range(2)
    )
    assert first == second


@pytest.mark.parametrize(
    "region", [disc((64, 64), 32, 32, 60), disc((64, 64), 0, 0, 0), disc((64, 64), 60, 3, 9)]
)
@pytest.mark.parametrize("ground", ["textured", "flat", "black"])
def test_tiny_frames_odd_masks_and_flat_pictures_give_a_plain_answer(region, ground):
    truth = (
        textured(64, 64)
        if ground == "textured"
        else np.full((64, 64, 3), 90 if ground == "flat" else 0, np.uint8)
    )
    result = filled(truth, region, truth.astype(float) + 12)
    report = check(read(png(truth)), read(png(result)), from_mask(region))
    text = report.to_json()
    assert "NaN" not in text and "Infinity" not in text and len(report.regions) == 1


def test_pictures_of_other_frames_are_unmatched_with_the_reason():
    for other in (textured(460, 620, seed=77), textured(300, 410, seed=78)):
        report = check(read(png(ORIGINAL)), read(png(other)), from_mask(MASK))
        assert (
            report.alignment["kind"] == "unmatched"
            and "not show the same" in report.alignment["reason"]
            and report.regions == []
        )


@pytest.mark.slow
def test_sixteen_bit_results_are_judged_like_eight_bit_ones():
    import cv2

    deep = (holding(TRUTH, MASK).astype(np.uint16) * 257)[..., ::-1]
    ok, data = cv2.imencode(".png", deep)
    region = check(read(png(ORIGINAL)), read(data.tobytes()), from_mask(MASK)).regions[0]
    assert ok and region.findings == []


@pytest.mark.parametrize("quarters", [1, 2, 3])
def test_a_copy_turned_by_quarters_is_found_where_texture_has_no_corners(quarters):
    there = TRUTH[150:310, 20:180]
    fill = TRUTH.copy()
    fill[150:310, 220:380] = np.rot90(there, quarters)
    report = check(
        read(png(with_thing(TRUTH, MASK))),
        read(png(filled(TRUTH, MASK, fill))),
        from_mask(MASK),
        kinds=("repeat",),
    )
    (finding,) = report.regions[0].findings
    assert abs(finding.evidence.turned_degrees) == pytest.approx(
        {1: 90, 2: 180, 3: 90}[quarters], abs=3
    ) and finding.evidence.scale == pytest.approx(1, abs=0.05)
    x, y, w, h = finding.evidence.source
    assert 20 < x + w / 2 < 180 and 150 < y + h / 2 < 310


def test_a_place_is_no_copy_of_itself():
    (region,) = from_mask(MASK)
    pixels = TRUTH.astype(np.float32)
    window = Window(region, (0, 0), pixels, pixels, MASK, MASK, MASK.shape, False)
    searcher = Searcher(window, high_pass, steepness)
    seen = np.array([(270, 200), (330, 200), (330, 260), (270, 260)], float)
    at = lambda dx: np.array([[1, 0, dx], [0, 1, 0]], float)
    # A search that slides ends where it began, and everything agrees with itself.
    assert (
        searcher.verified(at(0.0), False, MASK, seen) is None
        and searcher.verified(at(2.0), False, MASK, seen) is None
    )
    assert searcher.verified(at(150.0), False, MASK, seen).agreement < 0.3


def test_where_structure_is_unlike_nothing_is_brought_into_register():
    rng = np.random.default_rng(4)
    # Clumps of some 20 px, each place its own; and a large fill that was copied, turned by 30
    # degrees.
    ground = cv2.GaussianBlur(rng.normal(0, 1, (640, 900)).astype(np.float32), (0, 0), 6)
    turned = cv2.getRotationMatrix2D((660.0, 330.0), 30, 1.0)
    turned[:, 2] -= (360, 20)
    mask = disc(ground.shape, 300, 310, 140)
    there = cv2.warpAffine(ground, turned, ground.shape[::-1], flags=cv2.INTER_CUBIC)
    luma = (128 + 40 * np.where(mask, there, ground) / ground.std()).astype(np.float32)
    pixels = np.repeat(luma[..., None], 3, axis=2)
    (region,) = from_mask(mask)
    searcher = Searcher(
        Window(region, (0, 0), pixels, pixels, mask, mask, mask.shape, False), high_pass, steepness
    )
    assert not searcher.small
    seen = np.array([(230, 250), (370, 250), (370, 380), (230, 380)], float)
    true = cv2.invertAffineTransform(turned)
    # A few pixels off it is alike still, as a few features know it; elsewhere it is not.
    beside, elsewhere = (
        true + np.array([[0, 0, 2.0], [0, 0, -2.0]]),
        true - np.array([[0, 0, 70.0], [0, 0, 30.0]]),
    )
    assert searcher.structure_likeness(true, mask, seen) > 0.95 and searcher.structure_likeness(
        beside, mask, seen
    ) > ALIKE[False] > ALIKE[True] > searcher.structure_likeness(elsewhere, mask, seen)


def test_a_steps_profile_leaves_the_band_that_rims_placed_elsewhere_read():
    fill = np.clip(TRUTH.astype(int) + 24, 0, 255)
    report = check(
        read(png(with_thing(TRUTH, MASK))),
        read(png(filled(TRUTH, MASK, fill))),
        from_mask(MASK),
        kinds=("seam",),
    )
    evidence = next(finding for finding in report.regions[0].findings).evidence
    across, low, high = (
        np.array(getattr(evidence.profile, name)) for name in ("lightness", "low", "high")
    )
    assert len(across) == len(low) == len(high) == len(evidence.profile.offset_px)
    beyond = (across < low) | (across > high)
    assert beyond.mean() > 0.5 and (low < high).all()
    # At the line's points the step stands out over its parallels, and outward is away from the
    # region's middle.
    strip = evidence.strip
    assert np.mean(np.array(strip.value) > np.array(strip.high)) > 0.7
    away = np.array(evidence.line) - (300, 230)
    assert np.mean((away * np.array(strip.outward)).sum(axis=1) > 0.8 * np.hypot(*away.T)) > 0.9


@pytest.mark.parametrize("middle", [(0, 0), (-14, 230), (300, -16), (619, 459)])
def test_a_region_cut_off_by_the_frame_is_judged_along_what_is_left_of_its_boundary(middle):
    mask = disc(TRUTH.shape[:2], *middle, 52)
    judge = lambda result: check(
        read(png(with_thing(TRUTH, mask))),
        read(png(result)),
        from_mask(mask),
        kinds=("seam", "halo"),
    ).regions[0]
    (finding,) = judge(filled(TRUTH, mask, TRUTH.astype(float) + 9)).findings
    assert (
        finding.kind == "seam"
        and finding.confidence > 0.8
        and finding.measure.natural.null == "outline"
    )
    assert not judge(holding(TRUTH, mask)).findings


def test_a_copy_in_a_wires_place_is_found_though_no_tile_fits_it():
    wire = np.zeros(TRUTH.shape[:2], np.uint8)
    cv2.polylines(wire, [np.array([[120, 300], [240, 262], [380, 236], [500, 226]])], False, 1, 12)
    mask = wire.astype(bool)
    ground = (
        np.clip(TRUTH * 0.6 + 40 + np.random.default_rng(21).normal(0, 2.5, TRUTH.shape), 0, 255)
        .round()
        .astype(np.uint8)
    )
    judge = lambda result: check(
        read(png(with_thing(ground, mask))), read(png(result)), from_mask(mask), kinds=("repeat",)
    ).regions[0]
    finding = judge(filled(ground, mask, np.roll(ground, (44, 30), (0, 1)))).findings[0]
    assert finding.evidence.offset_px == pytest.approx([-30, -44], abs=1.5)
    assert judge(holding(ground, mask)).scores["repeat"] < 0.3


def test_of_a_tile_that_lies_in_the_fill_by_half_that_half_is_compared():
    rng = np.random.default_rng(22)
    first, flat, half = (
        rng.normal(0, 1, (40, 40)),
        np.zeros((40, 40)),
        np.arange(40)[:, None] < 20 + np.zeros((1, 40)),
    )
    second = np.where(half, first, rng.normal(0, 1, (40, 40)))
    assert (
        plain_agreement(first, second, flat, half)[0] == pytest.approx(1.0)
        and plain_agreement(first, second, flat)[0] < 0.7
    )
