"""What much of the same colour has by nature, what one strong edge says, and what a few tiles say,
is no flaw.
"""

from types import SimpleNamespace

import cv2
import numpy as np
import pytest
from builders import disc, filled, holding, png, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.copies.agreed import pooled_agreement
from zweiblick_core.features.copies.matches import Match
from zweiblick_core.features.detail.means import common_elsewhere, uncommon
from zweiblick_core.io import read
from zweiblick_core.kinds import shadow
from zweiblick_core.regions import from_mask

SHAPE = (460, 620)
MASK = disc(SHAPE, 300, 230, 52)


def stones(matt: list[tuple[int, int]]) -> np.ndarray:
    """Speckled ground on which matt discs of another colour lie."""
    rng = np.random.default_rng(4)
    speckles = cv2.GaussianBlur(rng.normal(0, 1, SHAPE).astype(np.float32), (0, 0), 1.6)
    ground = (130 + 26 * speckles / speckles.std())[..., None] * np.array([1.0, 0.9, 0.75])
    for x, y in matt:
        amount = cv2.GaussianBlur(disc(SHAPE, x, y, 36).astype(np.float32), (0, 0), 1.0)[..., None]
        ground = ground * (1 - amount) + np.array([96.0, 108.0, 122.0]) * amount
    return np.clip(ground + rng.normal(0, 1.6, ground.shape), 0, 255).round().astype(np.uint8)


def smeared(truth: np.ndarray, result: np.ndarray) -> list[float]:
    return [
        one.score
        for one in check(
            read(png(with_thing(truth, MASK))), read(png(result)), from_mask(MASK), kinds=("smear",)
        )
        .regions[0]
        .findings
    ]


def test_a_matt_stone_among_others_holds_and_washed_out_ground_of_the_same_size_does_not():
    truth = stones([(300, 230), (120, 90), (480, 120), (130, 350), (500, 360)])
    assert smeared(truth, holding(truth, MASK)) == []
    bare = stones([(120, 90), (480, 120), (130, 350), (500, 360)])
    inner = disc(SHAPE, 300, 230, 36)[..., None]
    assert (
        smeared(
            bare, filled(bare, MASK, np.where(inner, cv2.GaussianBlur(bare, (0, 0), 4.0), bare))
        )[0]
        > 0.9
    )


@pytest.mark.parametrize(
    ("own", "colour", "share"),
    [(-3.0, 0.0, 0.0), (-3.0, 20.0, 1.0), (1.0, 0.0, 1.0), (-3.0, 60.0, 0.0)],
)
def test_how_common_as_little_is_counts_only_what_has_the_same_colour(own, colour, share):
    # Half of what lies around is rich and grey, half is plain and of another colour.
    half = np.broadcast_to(np.arange(20) < 10, (20, 20))
    cells = lambda shape, a: SimpleNamespace(
        level=np.full(shape, 0.5), colour=np.stack([np.broadcast_to(a, shape), np.zeros(shape)], -1)
    )
    ground = SimpleNamespace(
        fill=cells((4, 4), colour),
        around=cells((20, 20), np.where(half, 0.0, 20.0)),
        inside=np.ones((4, 4), bool),
        known=np.ones((20, 20), bool),
    )
    found = common_elsewhere(ground, np.full((4, 4), own), np.where(half, 1.0, -3.0))
    # Of a corner too little is seen.
    assert found[1:-1, 1:-1] == pytest.approx(share)


def test_what_is_rare_counts_in_full_and_what_is_common_for_little():
    left = uncommon(np.array([0.0, 0.04, 0.08, 0.12, 0.9]))
    assert left[0] == left[1] == 1 and left[1] > left[2] > left[3] == left[4] > 0 and left[4] < 0.5


def test_a_cut_is_reported_all_along_and_one_strong_edge_that_the_outline_grazes_is_none():
    rng = np.random.default_rng(6)
    fine = cv2.GaussianBlur(rng.normal(0, 1, (*SHAPE, 1)).astype(np.float32), (0, 0), 1.1)
    truth = np.clip(
        140 + 9 * (fine / fine.std())[..., None] + rng.normal(0, 1.5, (*SHAPE, 3)), 0, 255
    )
    # A black beam whose edge the outline touches with a sixth of its length.
    y = np.arange(SHAPE[0])[:, None, None]
    truth = np.clip(truth - 120 / (1 + np.exp((y - 182.0) / 0.8)), 0, 255).round().astype(np.uint8)
    judge = lambda result: (
        check(
            read(png(with_thing(truth, MASK))), read(png(result)), from_mask(MASK), kinds=("seam",)
        )
        .regions[0]
        .scores["seam"]
    )
    assert judge(holding(truth, MASK)) < 0.5
    assert judge(filled(truth, MASK, truth.astype(float) + 9.0)) > 0.9


@pytest.mark.parametrize(
    ("tiles", "agreeing", "enough"), [(3, 2, True), (12, 2, False), (12, 6, True)]
)
def test_where_few_tiles_of_many_agree_they_must_agree_the_more(tiles, agreeing, enough):
    match = lambda k, copied: Match(
        (40 * k, 0),
        (40 * k + (200 if copied else 30 * k), 90),
        32,
        False,
        0.8,
        0.58 if copied else 0.02,
        1.5,
        0.9,
    )
    matches = [match(k, k < agreeing) for k in range(tiles)]
    agreed, needed = pooled_agreement(
        np.arange(600)[:, None] < 32 + np.zeros((1, 900)),
        False,
        matches,
        np.linspace(-0.1, 0.1, 14),
        0.0,
    )
    assert bool(agreed[0] > needed[0]) is enough


@pytest.mark.parametrize(
    ("high", "together", "enough"), [(32, 1, True), (14, 1, False), (14, 2, False), (14, 3, True)]
)
def test_a_part_of_a_tile_speaks_for_a_copy_only_together_with_others(high, together, enough):
    match = lambda k: Match(
        (40 * k, 0), (40 * k + (200 if k < together else 30 * k), 90), 32, False, 0.8, 0.9, 1.5, 0.9
    )
    agreed, needed = pooled_agreement(
        np.arange(600)[:, None] < high + np.zeros((1, 900)),
        False,
        [match(k) for k in range(5)],
        np.linspace(-0.1, 0.1, 14),
        0.0,
    )
    assert bool(agreed[0] > needed[0]) is enough


def test_light_that_falls_off_counts_for_less_where_few_places_say_what_is_natural(monkeypatch):
    truth = stones([(120, 90)])
    strip = np.zeros((330, 61, 3), np.float32)
    rim = SimpleNamespace(stretch=lambda start, end: np.arange(start, end), step=1.0)
    monkeypatch.setattr(
        shadow, "controls_of", lambda window: SimpleNamespace(strip=lambda rim: strip, rims=[rim])
    )
    monkeypatch.setattr(
        shadow,
        "ribbon",
        lambda rim, indices, first, last: np.array([[0.0, 0.0], [40.0, 0.0], [40.0, 9.0]]),
    )
    window = SimpleNamespace(to_frame=lambda points: points.tolist(), mask=MASK, result=truth)
    across = shadow.Crossing(0.3, 0.7, 1.0, 0, 90)
    few, many = (
        shadow.by_crossing(window, across, np.tile([0.05, 0.1, 0.12], some)) for some in (2, 5)
    )
    assert (
        many.score > 0.7
        and few.score < 0.5
        and few.evidence.crossing < 0.6 * many.evidence.crossing
    )
