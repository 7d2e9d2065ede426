"""Hard steps between two pixels, read right across the boundary."""

import cv2
import numpy as np
import pytest
from builders import disc, filled, holding, jpeg, png, textured, with_thing

from zweiblick_core.align import Pair
from zweiblick_core.check import check
from zweiblick_core.features.rim.edges import edge_of, location, pairs_of, read
from zweiblick_core.features.rim.nulls import controls_of
from zweiblick_core.io import read as decoded
from zweiblick_core.regions import from_mask
from zweiblick_core.scene.boundary import rims_of
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.window import open_window

TRUTH = textured(440, 600, seed=31)
MASK = disc(TRUTH.shape[:2], 290, 220, 56)
ORIGINAL = with_thing(TRUTH, MASK)
OWN = np.random.default_rng(4).normal(0, 0.4, TRUTH.shape)


def first(fill, encode=png):
    findings = (
        check(
            decoded(encode(ORIGINAL)),
            decoded(encode(filled(TRUTH, MASK, fill + OWN))),
            from_mask(MASK),
        )
        .regions[0]
        .findings
    )
    return findings[0] if findings else None


def test_a_location_is_not_ruled_by_what_crosses_the_boundary():
    rng = np.random.default_rng(1)
    differences = rng.normal(2.0, 1.0, (400, 3))
    differences[:80] += rng.choice([-40, 60], (80, 1))
    assert (
        location(differences) == pytest.approx([2, 2, 2], abs=0.5)
        and abs(differences.mean() - 2) > 0.5
    )


def test_pairs_lie_right_across_the_boundary_and_tell_a_step_to_a_fraction_of_a_level():
    rim = rims_of(MASK)[0]
    pairs = pairs_of(MASK, rim)
    outside = pairs.inner + pairs.out
    assert (
        MASK[tuple(pairs.inner.T)].all()
        and not MASK[tuple(outside.T)].any()
        and len(pairs.at) > 0.9 * len(rim)
    )
    plane = np.repeat(
        (
            cv2.GaussianBlur(np.random.default_rng(2).normal(0, 1, MASK.shape), (0, 0), 1.0) * 40
            + 3.0 * MASK
        )[..., None],
        3,
        2,
    )
    assert location(read(plane, pairs)[:, 1]) == pytest.approx([3, 3, 3], abs=0.8)


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg], ids=["lossless", "compressed"])
@pytest.mark.parametrize("levels", [7.0, -9.0])
def test_a_step_of_a_few_levels_in_texture_is_a_seam(levels, encode):
    finding = first(TRUTH + levels, encode)
    assert (
        finding.kind == "seam"
        and finding.evidence.step.lightness * levels > 0
        and finding.measure.value > finding.measure.natural.high
    )
    if encode is png:
        assert finding.evidence.step.lightness == pytest.approx(levels / 2.6, abs=0.6)


@pytest.mark.slow
@pytest.mark.parametrize("levels", [0.0, 0.8])
def test_what_nobody_sees_is_no_seam_however_surely_it_is_there(levels):
    assert first(TRUTH + levels) is None


@pytest.mark.slow
def test_a_ring_cut_off_at_the_outline_is_a_halo_since_it_is_gone_farther_in():
    inside = cv2.distanceTransform(MASK.astype(np.uint8), cv2.DIST_L2, 5)
    finding = first(TRUTH + 14.0 * np.exp(-(((inside - 2.0) / 4.0) ** 2))[..., None])
    assert (finding.kind, finding.evidence.what) == ("halo", "ring")


def odds_of(shape):
    """How much likelier a ring's edge is than a step's, where the fill departs by `shape` of the
    distance inside.
    """
    inside = cv2.distanceTransform(MASK.astype(np.uint8), cv2.DIST_L2, 5) - 0.5
    pair = Pair(
        decoded(png(ORIGINAL)),
        decoded(png(filled(TRUTH, MASK, TRUTH + shape(inside)[..., None] + OWN))),
    )
    (region,) = from_mask(MASK)
    controls = controls_of(open_window(Scene(pair), region, [region]))
    rim = controls.rims[0]
    edge = edge_of(controls, rim, MASK)
    return edge.ring(np.arange(len(rim)), len(rim), edge.step(np.arange(len(rim)), len(rim)))


def test_slopes_inside_are_likelier_beside_a_ring_or_beside_a_step():
    step, ring = (
        odds_of(lambda inside: 12.0 + 0 * inside),
        odds_of(lambda inside: 16.0 * np.exp(-(((inside - 3.0) / 4.0) ** 2))),
    )
    assert step.odds < -1 and ring.odds > 1
    assert step.share == pytest.approx(0, abs=3 * step.natural) and ring.share == pytest.approx(
        1, abs=3 * ring.natural
    )


def test_of_less_that_is_gone_farther_in_the_odds_are_less():
    odds = [
        odds_of(
            lambda inside, part=part: (
                12.0 * (1 - part) + part * 16.0 * np.exp(-(((inside - 3.0) / 4.0) ** 2))
            )
        ).odds
        for part in (0.0, 0.5, 1.0)
    ]
    assert odds == sorted(odds)


@pytest.mark.slow
def test_an_edge_of_the_picture_that_touches_the_outline_is_no_seam():
    ground = TRUTH.astype(float)
    ground[:, 346:] += 30.0
    original = np.where(
        disc(TRUTH.shape[:2], 290, 220, 52)[..., None],
        np.uint8(70),
        np.clip(ground, 0, 255).astype(np.uint8),
    )
    report = check(
        decoded(png(original)),
        decoded(png(holding(np.clip(ground, 0, 255).astype(np.uint8), MASK))),
        from_mask(MASK),
    )
    assert [f.kind for f in report.regions[0].findings] == []
