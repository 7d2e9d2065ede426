"""Flaws of the third and the fourth hand: each changes what it says and nothing else, and more when
asked for more.
"""

from pathlib import Path

import cv2
import numpy as np
import pytest
import skimage
from builders import with_thing

from training.makers.fourth import another_ground, blended, membrane, smooth_patch
from training.makers.third import MAKERS, strongest_edge
from training.outlines import along_an_edge, at_the_frame, blob, pole
from zweiblick_core.report import KINDS

TRUTH = cv2.imread(str(Path(skimage.__file__).parent / "data" / "coffee.png"))[..., ::-1].copy()
MASK = blob(np.random.default_rng(4), TRUTH.shape[:2], 120)
ORIGINAL = with_thing(TRUTH, MASK, (150, 60, 40))
#: The same with a board's edge across the mask.
BOARD = TRUTH.copy()
BOARD[int(np.nonzero(MASK)[0].mean()) :] //= 2
ALL = [(kind, maker) for kind, makers in MAKERS.items() for maker in makers]
OUTSIDE = ("shadow", "overreach")


def made(maker, strength, truth=TRUTH):
    """Original and result, by the first of some seeds that has room for it."""
    original = ORIGINAL if truth is TRUTH else with_thing(truth, MASK, (150, 60, 40))
    for seed in range(6):
        given = maker(strength)(truth, original, MASK, np.random.default_rng(seed))
        if given is not None:
            return given if isinstance(given, tuple) else (original, given)
    raise AssertionError(f"{maker.__name__} found no room")


def test_every_kind_but_untouched_has_two_makers_of_this_hand():
    assert set(MAKERS) == set(KINDS) - {"untouched"}
    assert all(len(makers) == 2 for makers in MAKERS.values())


@pytest.mark.parametrize(("kind", "maker"), ALL, ids=lambda one: getattr(one, "__name__", one))
def test_a_flaw_lies_where_it_says_and_shows_more_when_it_is_stronger(kind, maker):
    truth = BOARD if kind == "line" else TRUTH
    weak, strong = (made(maker, strength, truth) for strength in (0.1, 0.9))
    off = [np.abs(result.astype(float) - truth) for _, result in (weak, strong)]
    where = MASK if kind not in OUTSIDE else ~MASK
    assert off[1][where].mean() > 1.15 * off[0][where].mean() > 0
    if kind not in OUTSIDE:
        around = ~cv2.dilate(MASK.astype(np.uint8), np.ones((25, 25))).astype(bool)
        assert (off[1][around] == 0).all()
    if kind == "shadow":
        # The shadow stood there before: outside the outline nothing was changed.
        far = ~cv2.dilate(MASK.astype(np.uint8), np.ones((11, 11))).astype(bool)
        before, result = strong
        assert np.abs(before.astype(int) - result)[far].max() <= 1


@pytest.mark.parametrize(("kind", "maker"), ALL, ids=lambda one: getattr(one, "__name__", one))
def test_the_same_seed_makes_the_same(kind, maker):
    truth = BOARD if kind == "line" else TRUTH
    first, again = made(maker, 0.5, truth), made(maker, 0.5, truth)
    assert all(np.array_equal(one, other) for one, other in zip(first, again, strict=True))


def test_a_line_is_broken_only_where_one_crosses():
    flat = np.full_like(TRUTH, 120)
    assert strongest_edge(flat, MASK) is None
    lined = flat.copy()
    ys, _ = np.nonzero(MASK)
    lined[int(ys.mean()) :] = 60
    (_, y), way = strongest_edge(lined, MASK)
    assert abs(y - int(ys.mean())) < 2 and abs(way[1]) < 0.05


def test_an_outline_along_an_edge_runs_along_one_that_is_there():
    rng = np.random.default_rng(1)
    halves = np.full((400, 600, 3), 90, np.uint8)
    halves[:, 300:] = 170
    halves = np.clip(halves + rng.normal(0, 3, halves.shape), 0, 255).astype(np.uint8)
    mask = along_an_edge(halves, rng, 110)
    ys, xs = np.nonzero(mask)
    # It ends at the border, from one side or the other, over much of its height.
    assert xs.max() in range(297, 303) or xs.min() in range(297, 303)
    last = xs.max() if xs.max() < 303 else xs.min()
    assert np.ptp(ys[abs(xs - last) < 2]) > 0.4 * np.ptp(ys)
    assert along_an_edge(np.full_like(halves, 120), rng, 110) is None


def test_other_outlines_are_thin_or_cut_by_the_frame():
    rng = np.random.default_rng(2)
    thin = pole(rng, (400, 600), 120)
    _, _, w, h = cv2.boundingRect(thin.astype(np.uint8))
    assert h > 2 * w
    cut = at_the_frame(rng, (400, 600), 120)
    assert cut[:, 0].any() or cut[-1].any()


def step_at_rim(result, mask):
    """How much the colour steps from just inside to just outside, levels."""
    luma = result.astype(np.float32).mean(axis=2)
    near = lambda area: cv2.dilate(area.astype(np.uint8), np.ones((7, 7))).astype(bool)
    return abs(float(luma[mask & near(~mask)].mean() - luma[~mask & near(mask)].mean()))


@pytest.mark.parametrize(
    "flaw",
    [another_ground, smooth_patch, lambda strength: blended(BOARD[::-1].copy(), strength)],
    ids=["another ground", "smooth patch", "another picture"],
)
def test_what_is_seen_at_a_glance_is_blended_in_and_unlike_what_lies_around(flaw):
    # Beans and crema: a place with texture to be unlike.
    mask = np.zeros(TRUTH.shape[:2], bool)
    mask[260:360, 60:170] = True
    for seed in range(8):
        result = flaw(0.2)(TRUTH, TRUTH, mask, np.random.default_rng(seed))
        if result is not None:
            break
    assert result is not None and np.array_equal(result[~mask], TRUTH[~mask])
    assert step_at_rim(result, mask) < step_at_rim(TRUTH, mask) + 4
    assert np.abs(result[mask].astype(float) - TRUTH[mask]).mean() > 5


def test_a_membrane_has_its_rims_values_and_no_more_within():
    mask = np.zeros((40, 60), bool)
    mask[10:30, 15:45] = True
    rim = np.zeros((40, 60, 1))
    rim[:, :30], rim[:, 30:] = 10.0, 50.0
    spread = membrane(rim, mask)[..., 0]
    assert (spread[~mask] == 0).all() and 10 <= spread[mask].min() < spread[mask].max() <= 50
    assert spread[20, 16] < spread[20, 30] < spread[20, 43]
