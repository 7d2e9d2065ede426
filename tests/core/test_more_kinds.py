"""Residue, shadow, tone, grain, soft, invented and overreach: found where they are, and not where
they are not.
"""

import cv2
import numpy as np
import pytest
from builders import disc, filled, holding, jpeg, png, textured, with_thing

from zweiblick_core.check import check, judged_against
from zweiblick_core.errors import Refused
from zweiblick_core.features.tones.humps import heights, humps_of
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask

TRUTH = textured(520, 700, seed=21)
MASK = disc(TRUTH.shape[:2], 330, 260, 62)
ORIGINAL = with_thing(TRUTH, MASK)
INNER = disc(TRUTH.shape[:2], 330, 260, 40)
QUIET = np.random.default_rng(3).normal(0, 0.2, TRUTH.shape)


def examined(fill, original=ORIGINAL, encode=png, mask=MASK):
    return check(
        read(encode(original)), read(encode(filled(original, mask, fill))), from_mask(mask)
    )


def found(report, kind):
    return next((f for f in report.regions[0].findings if f.kind == kind), None)


@pytest.mark.slow
def test_what_was_really_there_has_no_finding_of_any_kind():
    for encode in (png, jpeg):
        report = check(
            read(encode(ORIGINAL)),
            read(encode(filled(TRUTH, MASK, TRUTH + QUIET))),
            from_mask(MASK),
        )
        assert (
            report.regions[0].findings == []
            and report.overreach["findings"] == []
            and report.overall > 0.9
        )


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg], ids=["lossless", "compressed"])
def test_dots_that_an_outline_left_out_are_residue(encode):
    fill = TRUTH + QUIET
    spots = disc(TRUTH.shape[:2], 310, 250, 3) | disc(TRUTH.shape[:2], 350, 270, 3)
    fill[spots] = ORIGINAL[spots]
    finding = found(examined(fill, encode=encode), "residue")
    assert finding is not None and finding.evidence.what in ("dot", "sliver")
    x, y, w, h = finding.bbox
    assert spots[int(y) : int(y + h) + 1, int(x) : int(x + w) + 1].any()


@pytest.mark.slow
def test_a_sliver_at_the_frames_edge_says_so_and_why():
    mask = disc(TRUTH.shape[:2], 8, 260, 62)
    original = with_thing(TRUTH, mask)
    original[:, :3][mask[:, :3]] = (40, 60, 170)
    fill = TRUTH + QUIET
    fill[:, :4] = original[:, :4]
    report = examined(fill, original, mask=mask)
    finding = found(report, "residue")
    assert (
        finding.evidence.what == "sliver at the frame's edge"
        and report.regions[0].groups[0].cause == "feather at the frame's edge"
    )


def lettered():
    """The thing carries lettering."""
    out = ORIGINAL.copy()
    ink = np.zeros(MASK.shape, np.uint8)
    for row in range(5):
        cv2.putText(
            ink, "MOLE 7", (282, 222 + 20 * row), cv2.FONT_HERSHEY_DUPLEX, 0.7, 255, 2, cv2.LINE_AA
        )
    return np.where((ink > 0)[..., None] & INNER[..., None], 235, out).astype(np.uint8)


@pytest.mark.slow
def test_a_ghost_of_lettering_is_residue_and_more_of_it_scores_higher():
    original = lettered()
    scores = [
        examined(TRUTH * (1 - a) + original * a + QUIET, original).regions[0].scores["residue"]
        for a in (0.0, 0.12, 0.3)
    ]
    assert scores[0] < 0.2 < 0.5 < min(scores[1:])
    finding = found(examined(TRUTH * 0.7 + original * 0.3 + QUIET, original), "residue")
    assert finding.evidence.what == "ghost" and finding.measure.value > finding.measure.natural.high


def grainy():
    """The thing is plain, and the picture has a sensor's grain of its own in every colour."""
    return np.clip(
        np.where(INNER[..., None], np.uint8([150, 140, 120]), flat())
        + np.random.default_rng(21).normal(0, 3, TRUTH.shape),
        0,
        255,
    )


@pytest.mark.slow
@pytest.mark.parametrize(("part", "told"), [(0.0, False), (0.1, True), (0.2, True)])
def test_a_trace_of_a_plain_thing_is_a_trace_of_its_grain(part, told):
    original = grainy().round().astype(np.uint8)
    # The fill has grain too, and not the original's.
    fill = flat() + np.random.default_rng(22).normal(0, 3, TRUTH.shape)
    inside = (
        np.clip(cv2.distanceTransform(INNER.astype(np.uint8), cv2.DIST_L2, 5) / 12, 0, 1)[..., None]
        * part
    )
    score = examined(fill * (1 - inside) + original * inside, original).regions[0].scores["residue"]
    assert score > 0.64 if told else score < 0.2


@pytest.mark.slow
def test_ground_that_was_kept_in_another_light_has_its_grain_and_is_no_ghost():
    grain = np.random.default_rng(23).normal(0, 3, TRUTH.shape)
    small = disc(TRUTH.shape[:2], 330, 260, 40)
    ground = TRUTH + grain
    original = np.clip(np.where(small[..., None], 200, ground), 0, 255).round().astype(np.uint8)
    fill = (
        np.where(
            small[..., None], TRUTH + np.random.default_rng(24).normal(0, 3, TRUTH.shape), ground
        )
        + 18
    )
    assert examined(fill, original).regions[0].scores["residue"] < 0.5


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg], ids=["lossless", "compressed"])
def test_a_plain_thing_that_shows_through_is_residue_by_its_own_edge_and_a_step_at_the_outline_is_none(
    encode,
):
    thing = disc(TRUTH.shape[:2], 330, 260, 56)
    original = TRUTH.copy()
    original[thing] = np.clip(
        np.array((40, 60, 170)) + np.random.default_rng(6).normal(0, 2, (int(thing.sum()), 3)),
        0,
        255,
    )
    trace = TRUTH + QUIET + 0.12 * (original.astype(float) - TRUTH)
    report = examined(trace, original, encode)
    finding = found(report, "residue")
    assert finding.evidence.what == "ghost" and (
        finding.evidence.type,
        finding.runner_up,
    ) in (("rim", "seam"), ("rim", "halo"), ("tone", "tone"))
    assert (
        found(report, "seam") is None
        and found(report, "tone") is None
        and report.regions[0].groups[0].cause == "removed too weakly"
    )
    # The same colour up to the outline that was drawn is a seam.
    colour = (original.astype(float) - TRUTH)[thing].mean(axis=0)
    level = examined(TRUTH + QUIET + 0.12 * colour, original, encode)
    assert found(level, "residue") is None and any(found(level, kind) for kind in ("seam", "tone"))


@pytest.mark.slow
@pytest.mark.parametrize(("tint", "sign"), [((9, -5, -4), "a"), ((-4, -4, 9), "b")])
def test_a_cast_is_tone_and_says_which_way(tint, sign):
    soft = np.clip(cv2.distanceTransform(MASK.astype(np.uint8), cv2.DIST_L2, 5) / 25, 0, 1)[
        ..., None
    ]
    finding = found(examined(TRUTH + QUIET + soft * np.array(tint)), "tone")
    difference = finding.evidence.difference
    assert (difference.a > 3) if sign == "a" else (difference.b < -3)
    assert finding.evidence.delta_e > finding.evidence.difference.lightness


def crossed():
    """A ground on which nothing goes on for long: bands of other tones, some of them ending in the
    region.
    """
    rng = np.random.default_rng(12)
    out = TRUTH.astype(float)
    for x in range(20, TRUTH.shape[1], 46):
        out[int(rng.integers(0, 160)) : int(rng.integers(300, TRUTH.shape[0])), x : x + 23] += (
            rng.normal(0, 15)
        )
    return np.clip(out, 0, 255).round().astype(np.uint8)


@pytest.mark.slow
@pytest.mark.parametrize("levels", [0.0, 30.0, -30.0])
def test_a_patch_of_another_light_is_reported_by_its_slopes_where_edges_hide_it(levels):
    ground = crossed()
    original = np.where(INNER[..., None], np.uint8(200), ground)
    soft = np.clip(cv2.distanceTransform(MASK.astype(np.uint8), cv2.DIST_L2, 5) / 25, 0, 1)[
        ..., None
    ]
    finding = found(examined(ground + QUIET + levels * soft, original), "tone")
    assert (finding is None) == (levels == 0)
    if finding is not None:
        assert (
            finding.evidence.expected_from == "slopes"
            and finding.evidence.difference.lightness * np.sign(levels) > 4
        )


def test_slopes_tell_how_high_a_patch_stands_whatever_edges_cross_it():
    shape = disc((40, 40), 20, 20, 15)
    shapes = humps_of(shape)
    rng = np.random.default_rng(3)
    colour = rng.normal(0, 0.4, (40, 40, 3))
    colour[:, 17:] += (30.0, 8.0, -6.0)
    colour[25:] -= (22.0, 0.0, 9.0)
    for k, hump in enumerate(shapes):
        assert heights(
            (colour + hump[..., None] * np.array([5.0, -3.0, 2.0])).astype(np.float32),
            shapes,
            np.ones((40, 40), bool),
        )[k] == pytest.approx([5, -3, 2], abs=1.0)


@pytest.mark.slow
def test_a_step_all_round_is_a_seam_and_not_a_tone_besides():
    kinds = [f.kind for f in examined(TRUTH + 14).regions[0].findings]
    assert "seam" in kinds and "tone" not in kinds


def flat():
    """A quiet ground that shows grain alone."""
    rng = np.random.default_rng(4)
    broad = cv2.GaussianBlur(rng.normal(0, 1, TRUTH.shape[:2]).astype(np.float32), (0, 0), 70)
    return np.repeat((120 + 14 * broad / broad.std())[..., None], 3, 2)


@pytest.mark.slow
@pytest.mark.parametrize(("sigma", "what"), [(0.4, "less grain"), (4.5, "more grain")])
def test_grain_that_is_missing_or_too_much(sigma, what):
    ground, rng = flat(), np.random.default_rng(8)
    truth = np.clip(ground + rng.normal(0, 2.2, ground.shape), 0, 255).round().astype(np.uint8)
    report = check(
        read(png(with_thing(truth, MASK))),
        read(png(filled(truth, MASK, ground + rng.normal(0, sigma, ground.shape)))),
        from_mask(MASK),
    )
    finding = found(report, "grain")
    assert finding.evidence.what == what and finding.evidence.ratio == pytest.approx(
        sigma / 2.2, rel=0.35
    )
    # Of luma: each colour has a grain of its own, and they even one another out.
    in_luma = 2.2 * np.hypot.reduce([0.299, 0.587, 0.114])
    assert finding.evidence.sigma_around == pytest.approx(in_luma, rel=0.2)
    low, high = finding.measure.natural.low, finding.measure.natural.high
    assert 0.8 < low <= high < 1.25


@pytest.mark.slow
def test_grain_cannot_be_reported_where_compression_took_it():
    region = check(
        read(jpeg(ORIGINAL, 80)), read(jpeg(holding(TRUTH, MASK), 75)), from_mask(MASK)
    ).regions[0]
    assert "compression" in region.abstained["grain"]


def detailed():
    """A ground with detail at every scale."""
    rng = np.random.default_rng(14)
    out = np.full(TRUTH.shape[:2], 128, np.float32)
    for sigma, levels in ((0.7, 13), (1.6, 12), (3.5, 12), (12, 12)):
        part = cv2.GaussianBlur(rng.normal(0, 1, out.shape).astype(np.float32), (0, 0), sigma)
        out += levels * part / part.std()
    return np.clip(np.repeat(out[..., None], 3, 2), 0, 255).round().astype(np.uint8)


@pytest.mark.parametrize("radius", [16, 20])
def test_a_ghost_in_a_small_fill_is_reported_though_untouched_ground_is_near_all_of_it(radius):
    truth = detailed()
    mask = disc(truth.shape[:2], 330, 260, radius)
    thing = np.random.default_rng(31).normal(40, 9, truth.shape).clip(0, 255)
    original = (
        np.where(disc(truth.shape[:2], 330, 260, radius - 3)[..., None], thing, truth)
        .round()
        .astype(np.uint8)
    )
    scores = []
    for trace in (0.0, 0.25):
        result = png(filled(truth, mask, truth * (1 - trace) + original * trace + QUIET))
        scores.append(
            check(read(png(original)), read(result), from_mask(mask), kinds=("residue",))
            .regions[0]
            .scores["residue"]
        )
    assert scores[0] < 0.2 < 0.9 < scores[1]


@pytest.mark.slow
@pytest.mark.parametrize("what", ["soft", "sharp"])
def test_sharpness_that_does_not_fit_goes_both_ways(what):
    truth = detailed()
    blurred = cv2.GaussianBlur(truth, (0, 0), 0.8).astype(float)
    fill = blurred if what == "soft" else truth + 1.4 * (truth - blurred)
    report = check(
        read(png(with_thing(truth, MASK))), read(png(filled(truth, MASK, fill))), from_mask(MASK)
    )
    scores = report.regions[0].scores
    holds = (
        check(
            read(png(with_thing(truth, MASK))),
            read(png(filled(truth, MASK, truth + QUIET))),
            from_mask(MASK),
        )
        .regions[0]
        .scores
    )
    assert scores["soft"] > 0.5 > holds["soft"]
    # What was sharpened is no smear; a blur of this size may be called either.
    named = next(f.kind for f in report.regions[0].findings if f.kind in ("soft", "smear"))
    assert named in (("soft",) if what == "sharp" else ("soft", "smear"))


@pytest.mark.slow
def test_something_that_belongs_to_nothing_around_is_invented():
    y, x = np.mgrid[: TRUTH.shape[0], : TRUTH.shape[1]]
    odd = np.stack([200 + 40 * np.sin(x / 3.0), 60 + 40 * np.sin(y / 4.0), 140 + 0.0 * x], -1)
    fill = TRUTH + QUIET
    inside = disc(TRUTH.shape[:2], 330, 260, 30)
    fill[inside] = odd[inside]
    report = examined(fill)
    finding = found(report, "invented")
    x0, y0, w, h = finding.bbox
    assert abs(x0 + w / 2 - 330) < 14 and abs(y0 + h / 2 - 260) < 14 and finding.evidence.odd
    assert any(group.cause == "too little context" for group in report.regions[0].groups)


@pytest.mark.slow
def test_a_shadow_that_stayed_is_a_hint_with_modest_confidence():
    truth = flat() + np.random.default_rng(8).normal(0, 2, TRUTH.shape)
    cast = disc(TRUTH.shape[:2], 420, 320, 55) & ~MASK
    soft = cv2.GaussianBlur(cast.astype(np.float32), (0, 0), 3)[..., None]
    darker = (
        np.clip(
            255 * ((np.clip(truth, 0, 255) / 255) ** 2.2 * (1 - 0.55 * soft)) ** (1 / 2.2), 0, 255
        )
        .round()
        .astype(np.uint8)
    )
    original = with_thing(darker, MASK)
    result = filled(original, MASK, truth)
    with_shadow = check(read(png(original)), read(png(result)), from_mask(MASK)).regions[0]
    plain = np.clip(truth, 0, 255).round().astype(np.uint8)
    without = check(
        read(png(with_thing(plain, MASK))), read(png(holding(plain, MASK))), from_mask(MASK)
    ).regions[0]
    assert (
        with_shadow.scores["shadow"] > 0.5 > without.scores["shadow"]
        and with_shadow.scores["shadow"] <= 0.8
    )
    assert any(group.cause == "shadow left out" for group in with_shadow.groups)


def shaded(angles, factor=0.45):
    """Light that is taken away outside the region, over some of the directions from its middle
    (degrees), alike in all colours; the original and the result.
    """
    y, x = np.mgrid[: TRUTH.shape[0], : TRUTH.shape[1]]
    away, bearing = np.hypot(x - 330, y - 260), np.degrees(np.arctan2(y - 260, x - 330)) % 360
    soft = cv2.GaussianBlur(
        ((away < 120) & (bearing >= angles[0]) & (bearing < angles[1])).astype(np.float32),
        (0, 0),
        3,
    )
    lit = cv2.GaussianBlur(MASK.astype(np.float32), (0, 0), 1.5)[..., None]
    truth = flat() + np.random.default_rng(8).normal(0, 2, TRUTH.shape)
    darker = 255 * (
        (np.clip(truth, 0, 255) / 255) ** 2.2 * (1 - (1 - factor) * soft[..., None])
    ) ** (1 / 2.2)
    original = np.where(MASK[..., None], with_thing(darker, MASK), darker).round().astype(np.uint8)
    return original, np.clip(truth * lit + darker * (1 - lit), 0, 255)


@pytest.mark.slow
def test_light_that_falls_off_across_a_part_of_the_boundary_is_a_shadow_that_was_left_and_all_round_it_tells_nothing():
    original, result = shaded((20, 130))
    finding = examined(result, original).regions[0].findings[0]
    assert (
        finding.kind == "shadow"
        and finding.evidence.crossing > 1
        and finding.evidence.darker == pytest.approx(0.55, abs=0.2)
    )
    original, result = shaded((0, 360))
    assert all(
        getattr(one.evidence, "crossing", 0) < 1
        for one in examined(result, original).regions[0].findings
    )


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, lambda pixels: jpeg(pixels, 90)], ids=["lossless", "q90"])
def test_a_patch_outside_every_region_is_overreach_at_its_place(encode):
    result = holding(TRUTH, MASK).astype(float)
    away = np.clip((45 - np.hypot(*np.ogrid[-120:400, -560:140])) / 12, 0, 1)[..., None]
    report = check(
        read(encode(ORIGINAL)),
        read(encode(np.clip(result + 5 * away, 0, 255).round().astype(np.uint8))),
        from_mask(MASK),
    )
    (finding,) = report.overreach["findings"]
    x, y, w, h = finding.bbox
    assert (
        abs(x + w / 2 - 560) < 16
        and abs(y + h / 2 - 120) < 16
        and finding.kind == "overreach"
        and report.regions[0].findings == []
    )
    assert report.overreach["groups"][0].cause == "outline too loose" and report.overall < 0.9


def test_against_an_agreed_base_only_what_goes_beyond_it_is_overreach():
    patch = np.clip((45 - np.hypot(*np.ogrid[-120:400, -560:140])) / 12, 0, 1)[..., None]
    more = np.clip((45 - np.hypot(*np.ogrid[-400:120, -560:140])) / 12, 0, 1)[..., None]
    brighter = lambda *patches: read(
        png(np.clip(holding(TRUTH, MASK) + 8.0 * sum(patches), 0, 255).round().astype(np.uint8))
    )
    original, areas = read(png(ORIGINAL)), from_mask(MASK)
    alone = lambda result: check(original, result, areas, kinds=("overreach",))
    agreed = brighter(patch)
    outside = lambda result: judged_against(agreed, alone(result), result, areas)
    assert len(alone(agreed).overreach["findings"]) == 1
    follows = outside(agreed)
    assert follows.overreach["findings"] == [] and follows.overall > alone(agreed).overall
    (beyond,) = outside(brighter(patch, more)).overreach["findings"]
    assert beyond.bbox[1] > 300
    # What does not follow the base is judged against the original.
    assert outside(read(png(holding(TRUTH, MASK)))).overreach["findings"] == []
    with pytest.raises(Refused, match="another frame"):
        judged_against(read(png(ORIGINAL[8:])), alone(agreed), agreed, areas)


@pytest.mark.slow
def test_in_a_picture_of_24_megapixels_too_a_patch_of_four_levels_is_reported_at_its_place_and_nothing_without_it():
    large = cv2.resize(TRUTH, (6000, 4000), interpolation=cv2.INTER_CUBIC)
    mask = disc(large.shape[:2], 3000, 2000, 200)
    original = read(jpeg(large, 92))
    outside = lambda result: (
        check(original, read(jpeg(result, 88)), from_mask(mask), kinds=("overreach",)).overreach
    )
    assert outside(large)["findings"] == []
    patched = large.copy()
    patched[900:1060, 4700:4860] = np.clip(patched[900:1060, 4700:4860].astype(int) + 4, 0, 255)
    (finding,) = outside(patched)["findings"]
    x, y, w, h = finding.bbox
    # To a few of the places by which so large a picture is looked at.
    assert abs(x - 4700) < 40 and abs(y - 900) < 40 and abs(w - 160) < 64 and abs(h - 160) < 64


@pytest.mark.slow
def test_a_grading_is_offered_as_the_base_and_is_neither_flaw_nor_overreach():
    graded = lambda pixels: (
        np.clip(255 * (pixels / 255.0) ** np.array([0.9, 0.96, 1.08]) * 0.97 + 4, 0, 255)
        .round()
        .astype(np.uint8)
    )
    report = check(read(png(ORIGINAL)), read(png(graded(holding(TRUTH, MASK)))), from_mask(MASK))
    assert (
        report.base["kind"] == "grading"
        and report.base["agreed"] is False
        and report.base["mean_levels"] > 2
        and report.base["explained"] > 0.7
    )
    assert report.overreach["findings"] == [] and "seam" not in [
        f.kind for f in report.regions[0].findings
    ]
    for name, at in (("red", 0.9), ("blue", 1.08)):
        level = float(np.interp(128, report.base["nodes"], report.base["curves"][name]))
        assert level == pytest.approx(255 * (128 / 255) ** at * 0.97 + 4, abs=1.5)
    assert check(read(png(ORIGINAL)), read(png(holding(TRUTH, MASK))), from_mask(MASK)).base is None


def test_only_the_kinds_asked_for_are_examined():
    report = check(
        read(png(ORIGINAL)),
        read(png(holding(TRUTH, MASK))),
        from_mask(MASK),
        kinds=("tone", "overreach"),
    )
    assert report.examined == ["tone", "overreach"] and report.regions[0].scores["seam"] == 0
