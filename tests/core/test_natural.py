"""What looks like a flaw and is none: regular things, things that are alike on both sides, a rim
that grazes something strong, a file that was saved again.
"""

from __future__ import annotations

from types import SimpleNamespace

import cv2
import numpy as np
import pytest
from builders import disc, filled, holding, jpeg, png, textured, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.copies.agreed import alike_itself, beyond_itself
from zweiblick_core.features.copies.grain import plain_agreement, steepness
from zweiblick_core.features.copies.matches import Match
from zweiblick_core.features.copies.turned import Searcher
from zweiblick_core.features.rim.nulls import learn_temper
from zweiblick_core.io import read
from zweiblick_core.overreach import measure as overreach_of
from zweiblick_core.regions import from_mask
from zweiblick_core.scene.carriers import measure_carriers

GROUND = textured(460, 620, seed=11)
MASK = disc(GROUND.shape[:2], 300, 230, 56)


def kinds_in(truth, result, encode=png, mask=MASK):
    report = check(read(encode(with_thing(truth, mask))), read(encode(result)), from_mask(mask))
    return {finding.kind for finding in report.regions[0].findings}


def on_ground(drawn):
    """Something drawn in uint8 (height, width), blurred as by a lens, laid over the ground, with
    grain.
    """
    soft = cv2.GaussianBlur(drawn.astype(np.float32), (0, 0), 1.0)[..., None] / 255
    return (
        np.clip(
            GROUND * (1 - soft)
            + 225 * soft
            + np.random.default_rng(2).normal(0, 1.2, GROUND.shape),
            0,
            255,
        )
        .round()
        .astype(np.uint8)
    )


def symmetrical():
    drawn = np.zeros(GROUND.shape[:2], np.uint8)
    cv2.ellipse(drawn, (300, 220), (70, 44), 0, 0, 360, 255, 9)
    return on_ground(drawn)


def striped():
    drawn = np.zeros(GROUND.shape[:2], np.uint8)
    for x in range(-400, 1000, 46):
        cv2.line(drawn, (x, 0), (x + 260, 460), 255, 12)
    return on_ground(drawn)


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg])
@pytest.mark.parametrize("scene", [symmetrical, striped])
def test_what_is_alike_on_both_sides_or_all_along_itself_is_no_copy(scene, encode):
    truth = scene()
    assert "repeat" not in kinds_in(truth, holding(truth, MASK), encode)


@pytest.mark.slow
def test_a_copy_among_stripes_is_one_all_the_same():
    truth = striped()
    # One stripe's distance to the right: stripes fit, grain tells.
    copy = filled(truth, MASK, np.roll(truth, -138, axis=1))
    assert "repeat" in kinds_in(truth, copy)


def test_grain_agrees_in_a_copy_and_not_between_two_stripes():
    luma = cv2.cvtColor(striped(), cv2.COLOR_RGB2GRAY).astype(np.float32)
    fine = luma - cv2.GaussianBlur(luma, (0, 0), 1.3)
    slope = steepness(luma)
    here, there = np.s_[100:164, 100:164], np.s_[100:164, 146:210]
    both = np.maximum(slope[here], slope[there])
    alike = lambda a, b: 1 - float((a - b).var()) / float(a.var() + b.var())
    natural, grain = plain_agreement(fine[here], fine[there], both)
    # Over all pixels the stripes agree by nature; where neither has structure they do not.
    assert alike(fine[here], fine[there]) > 0.3 > 0.15 > abs(natural) and grain > 0.5
    assert plain_agreement(fine[here], fine[here], both)[0] == pytest.approx(1.0)


def test_a_few_strong_places_make_no_rim_and_a_weak_step_all_along_does():
    rng = np.random.default_rng(4)
    nature = [rng.normal(0, 1, (300, 4, 3)) for _ in range(6)]
    temper = learn_temper(nature, 2.5)
    crossed = rng.normal(0, 1, (300, 1, 3))
    crossed[:12, 0, 0] += 60
    stepped = rng.normal(0, 1, (300, 1, 3))
    stepped[:, 0, 0] += 0.9
    plain = [float(np.linalg.norm(one.mean(axis=0))) for one in (crossed, stepped)]
    held = [float(np.linalg.norm(temper(one).mean(axis=0))) for one in (crossed, stepped)]
    assert plain[0] > 2 * plain[1] and held[1] > 2 * held[0]
    assert np.linalg.norm(temper(crossed) @ temper.whiten, axis=-1).max() <= 2.5 + 1e-6


@pytest.mark.slow
def test_two_short_joints_in_one_line_are_no_broken_line():
    drawn = np.zeros(GROUND.shape[:2], np.uint8)
    # Bricks: long courses, and joints of one course height that happen to stand above each other,
    # with a whole brick between.
    for y in (60, 130, 330, 400):
        cv2.line(drawn, (0, y), (620, y), 255, 5)
    for top, bottom in ((130, 182), (278, 330)):
        cv2.line(drawn, (300, top), (300, bottom), 255, 5)
    truth = on_ground(drawn)
    assert "line" not in kinds_in(truth, holding(truth, MASK))


@pytest.mark.slow
@pytest.mark.parametrize("quality", [95, 98])
def test_a_file_that_was_saved_again_changed_nothing_outside(quality):
    rng = np.random.default_rng(7)
    scene = textured(700, 900, seed=21).astype(np.float32)
    # Strong colours with hard edges, and bright dots that clip: where encodings err.
    scene[100:300, 500:800] = (228, 38, 42)
    scene[420:600, 80:320] = (40, 60, 205)
    for x, y in rng.integers(20, 680, (60, 2)):
        cv2.circle(scene, (int(x), int(y)), 2, (255, 250, 235), -1)
    scene = (
        np.clip(cv2.GaussianBlur(scene, (0, 0), 0.8) + rng.normal(0, 1.5, scene.shape), 0, 255)
        .round()
        .astype(np.uint8)
    )
    mask = disc(scene.shape[:2], 450, 350, 60)
    first = read(jpeg(with_thing(scene, mask)))
    again = np.where(
        cv2.dilate(mask.astype(np.uint8), np.ones((9, 9), np.uint8))[..., None] > 0,
        read(jpeg(scene)).pixels,
        first.pixels,
    )
    report = check(first, read(jpeg(again, quality)), from_mask(mask))
    assert report.overreach["findings"] == []


def test_a_busy_places_change_is_still_found_though_it_is_the_only_busy_place():
    calm = np.clip(
        np.full((600, 800, 3), 128.0) + np.random.default_rng(1).normal(0, 1.2, (600, 800, 3)),
        0,
        255,
    )
    stripes = np.indices((160, 160))[1] // 6 % 2 * 90
    calm[60:220, 500:660] += stripes[..., None] - 45
    before = calm.round().astype(np.uint8)
    after = before.astype(int)
    after[60:220, 500:660] += 5
    first, second = read(jpeg(before, 90)), read(jpeg(np.clip(after, 0, 255).astype(np.uint8), 90))
    outside = np.ones((600, 800), bool)
    luma = [cv2.cvtColor(picture.pixels, cv2.COLOR_RGB2GRAY) for picture in (first, second)]
    readings = overreach_of(first, second, outside, measure_carriers(first, second, *luma), False)
    best = max(readings, key=lambda reading: reading.score)
    x, y, w, h = best.bbox
    assert best.score > 0.5 and 480 < x + w / 2 < 680 and 40 < y + h / 2 < 240


def test_what_is_reported_of_a_seam_and_a_halo_grows_with_them_though_single_places_are_held_back():
    def told(kind, amount):
        fill = GROUND.astype(float) + amount
        if kind == "halo":
            ring = cv2.dilate(MASK.astype(np.uint8), np.ones((7, 7), np.uint8)).astype(
                bool
            ) & ~cv2.erode(MASK.astype(np.uint8), np.ones((7, 7), np.uint8)).astype(bool)
            result = GROUND.copy()
            result[ring] = np.clip(GROUND[ring].astype(float) + amount, 0, 255).astype(np.uint8)
        else:
            result = filled(GROUND, MASK, fill)
        report = check(
            read(png(with_thing(GROUND, MASK))), read(png(result)), from_mask(MASK), kinds=(kind,)
        )
        return next(
            finding.measure.value for finding in report.regions[0].findings if finding.kind == kind
        )

    for kind in ("seam", "halo"):
        steps = [told(kind, amount) for amount in (12, 24, 48)]
        assert steps[1] > 1.3 * steps[0] and steps[2] > 1.1 * steps[1], (kind, steps)


def test_two_encodings_that_meet_leave_an_edge_that_nobody_sees_and_a_hard_edge_is_one():
    rng = np.random.default_rng(5)
    calm = (
        np.clip(
            np.linspace(120, 150, 620)[None, :, None] + rng.normal(0, 0.6, (460, 620, 3)), 0, 255
        )
        .round()
        .astype(np.uint8)
    )
    first = read(jpeg(with_thing(calm, MASK)))
    wide = cv2.dilate(MASK.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    kept = np.where(wide[..., None], read(jpeg(calm)).pixels, first.pixels)
    report = check(first, read(png(kept)), from_mask(MASK), kinds=("seam",))
    assert report.regions[0].findings == []
    hard = kept.copy()
    hard[wide] = np.clip(kept[wide].astype(int) + 8, 0, 255)
    report = check(first, read(png(hard)), from_mask(MASK), kinds=("seam",))
    assert [finding.kind for finding in report.regions[0].findings] == ["seam"]


def test_one_channel_that_an_encoding_moved_is_no_change_outside_and_all_three_are():
    rng = np.random.default_rng(6)
    before = np.clip(np.full((600, 800, 3), 128.0) + rng.normal(0, 2, (600, 800, 3)), 0, 255)
    place = np.s_[200:240, 300:340]
    first = read(jpeg(before.round().astype(np.uint8), 95))

    def found(*moved):
        after = before.copy()
        after[place] += moved
        second = read(jpeg(np.clip(after, 0, 255).round().astype(np.uint8), 95))
        luma = [cv2.cvtColor(picture.pixels, cv2.COLOR_RGB2GRAY) for picture in (first, second)]
        return max(
            reading.score
            for reading in overreach_of(
                first,
                second,
                np.ones((600, 800), bool),
                measure_carriers(first, second, *luma),
                False,
            )
        )

    assert found(-2.4, 0, 0) < 0.5 < found(-2.4, -2.4, -2.4) and found(-7, 0, 0) > 0.5


def printed() -> np.ndarray:
    """A cloth with one print again and again, and a camera's grain over it."""
    rng = np.random.default_rng(5)
    one = cv2.GaussianBlur(
        np.tile(rng.normal(0, 1, (58, 74, 3)).astype(np.float32), (3, 3, 1)), (0, 0), 0.9
    )[58:116, 74:148]
    cloth = np.tile(one / one.std() * 14, (9, 10, 1))[:460, :620]
    return np.clip(130 + cloth + rng.normal(0, 3.5, cloth.shape), 0, 255).round().astype(np.uint8)


@pytest.mark.slow
def test_where_all_of_a_picture_has_its_like_only_the_grain_itself_makes_a_copy():
    cloth = printed()
    assert "repeat" not in kinds_in(cloth, holding(cloth, MASK))
    assert "repeat" in kinds_in(cloth, filled(cloth, MASK, np.roll(cloth, -148, axis=1)))


def test_what_runs_straight_on_agrees_with_itself_and_grain_does_not():
    rng = np.random.default_rng(12)
    y, x = np.mgrid[:200, :300].astype(np.float32)
    across = (y - 100) * np.cos(0.35) - (x - 150) * np.sin(0.35)
    noise = lambda: rng.normal(0, 1, (200, 300)).astype(np.float32)
    grooves, grain = 3 * np.sin(across * 1.1).astype(np.float32) + noise(), 2 * noise()
    along, none = (
        alike_itself(plane, np.zeros_like(plane), (130, 80), 48) for plane in (grooves, grain)
    )
    assert along > 0.6 and abs(none) < 0.2


def test_a_place_must_agree_with_another_by_more_than_with_what_lies_beside_it():
    rng = np.random.default_rng(13)
    across = np.mgrid[:200, :300][0].astype(np.float32)
    plane = 3 * np.sin(across * 1.1) + rng.normal(0, 1, (200, 300)).astype(np.float32)
    match = Match((60, 80), (180, 80), 48, False, 0.8, 0.8, 1.0, 0.9)
    asks = lambda agreed: float(
        beyond_itself(
            plane,
            np.zeros_like(plane),
            np.ones(plane.shape, bool),
            [match],
            np.array([agreed]),
            np.array([0.5]),
        )[0]
    )
    assert asks(0.8) > 0.85 and asks(0.3) == 0.5


def test_an_edge_agrees_with_itself_along_itself_and_a_turned_copys_grain_does_not():
    rng = np.random.default_rng(14)
    y, x = np.mgrid[:300, :400].astype(np.float32)
    noise = lambda: rng.normal(0, 1, (300, 400)).astype(np.float32)
    area = disc((300, 400), 200, 150, 60)
    beside = lambda luma: Searcher.beside(SimpleNamespace(luma=luma, steepness=steepness), area)
    assert beside((128 + 12 * np.sin(0.9 * y + 0.2 * x) + noise()).astype(np.float32)) > 0.6
    assert abs(beside((128 + 3 * noise()).astype(np.float32))) < 0.2
    # At the frame there is as much of it as there is, and where there is none nothing is said.
    assert (
        Searcher.beside(
            SimpleNamespace(luma=noise()[:16, :16], steepness=steepness), np.ones((16, 16), bool)
        )
        == 0.0
    )
