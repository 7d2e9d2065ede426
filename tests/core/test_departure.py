"""A fill belongs where what it adjoins goes on in it."""

import cv2
import numpy as np
import pytest
from builders import disc, holding, png, with_thing
from evidences import shown

from zweiblick_core.align import Pair
from zweiblick_core.check import check
from zweiblick_core.evidence import Copy, Departs, Rim
from zweiblick_core.explaining.departing import named, with_departures
from zweiblick_core.features.departure import departure
from zweiblick_core.io import read
from zweiblick_core.null import Natural
from zweiblick_core.regions.masks import from_mask
from zweiblick_core.report import Measure, Reading, Signal
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.window import open_window

SHAPE = (440, 620)
AREA = disc(SHAPE, 310, 220, 56)
#: From it on a fill is reported, see `kinds/invented.py`.
HALF = 1.9


def ground(scale, strength, seed, level=140.0):
    """Grey ground with texture of one size, and grain."""
    rng = np.random.default_rng(seed)
    plane = cv2.GaussianBlur(rng.normal(size=SHAPE).astype(np.float32), (0, 0), scale)
    plane = level + strength * plane / plane.std()
    return plane[..., None] + rng.normal(0, 1.0, (*SHAPE, 3))


def blended(outside, inside):
    """One ground in another, mixed over some pixels, of the same mean: no step gives it away."""
    depth = cv2.distanceTransform(AREA.astype(np.uint8), cv2.DIST_L2, 5)
    weight = np.clip(depth / 6, 0, 1)[..., None]
    inside = inside - inside[AREA].mean(axis=0) + outside[AREA].mean(axis=0)
    return outside + (inside - outside) * weight


def pictures(outside, fill):
    truth = np.clip(outside, 0, 255).round().astype(np.uint8)
    result = np.where(AREA[..., None], np.clip(fill, 0, 255).round(), truth).astype(np.uint8)
    return read(png(with_thing(truth, AREA))), read(png(result))


def departs(outside, fill):
    (region,) = from_mask(AREA)
    return departure(open_window(Scene(Pair(*pictures(outside, fill))), region, [region]))


GROUNDS = {
    "coarse": ground(8, 14, 1),
    "fine": ground(1.5, 14, 2),
    "plain": ground(8, 0.0, 3),
}


@pytest.mark.parametrize("name", GROUNDS)
def test_what_belongs_departs_by_no_more_than_the_same_outline_elsewhere(name):
    outside = GROUNDS[name]
    found = departs(outside, outside + np.random.default_rng(4).normal(0, 0.6, outside.shape))
    assert found.amount < 1.2
    assert len(found.natural) >= 6 and np.median(found.natural) < 1.0


@pytest.mark.parametrize(
    ("outside", "inside"),
    [("coarse", "fine"), ("fine", "coarse"), ("fine", "plain"), ("plain", "fine")],
)
def test_another_ground_departs_however_softly_it_was_blended_in(outside, inside):
    found = departs(GROUNDS[outside], blended(GROUNDS[outside], GROUNDS[inside]))
    assert found.amount > HALF + 1
    # The names of what differs, and which way.
    fine = found.difference[0]
    assert fine > 0.3 if inside == "fine" else fine < -0.3


def test_a_patch_of_another_colour_differs_in_colour_and_not_in_detail():
    outside = GROUNDS["coarse"]
    found = departs(outside, outside + np.array([16.0, 0.0, -16.0]))
    assert found.by_channel[[5, 6]].max() > 3 > found.by_channel[:4].max()


def test_a_picture_with_no_room_for_the_same_outline_says_nothing():
    large = disc(SHAPE, 310, 220, 180)
    region = max(from_mask(large), key=lambda one: one.mask.sum())
    truth = np.clip(GROUNDS["coarse"], 0, 255).round().astype(np.uint8)
    pair = Pair(read(png(with_thing(truth, large))), read(png(holding(truth, large))))
    assert departure(open_window(Scene(pair), region, [region])) is None


def test_a_blended_patch_is_reported_and_as_visible_as_it_looks():
    outside, inside = GROUNDS["plain"], GROUNDS["fine"]
    report = check(*pictures(outside, blended(outside, inside)), from_mask(AREA))
    (first, *_) = report.regions[0].findings
    assert first.word in ("clear", "glaring") and first.confidence > 0.6
    x, y, w, h = first.bbox
    assert w > 80 and h > 80 and abs(x + w / 2 - 310) < 12 and abs(y + h / 2 - 220) < 12


def test_a_boundary_between_two_grounds_is_not_the_fills_doing():
    """The region lies across it: each half goes on what it adjoins."""
    left, right = ground(8, 14, 5), ground(1.5, 10, 6, level=90.0)
    both = np.where((np.arange(SHAPE[1]) < 305)[None, :, None], left, right)
    own = np.random.default_rng(7).normal(0, 0.6, both.shape)
    assert departs(both, both + own).amount < HALF


def reading(kind, evidence, bbox=(254.0, 164.0, 112.0, 112.0), likely=0.9):
    return Reading(
        kind,
        0.95,
        list(bbox),
        [[0.0, 0.0]],
        Signal(((0.1, 2.0, 0.0),), 100.0, 9000.0),
        Measure("m", 5.0, "spreads", Natural(0.0, 1.0, 12, "outline")),
        evidence,
        likely=likely,
    )


def departing(inside=(3.0, 3.0, 3.0, 3.0), around=(1.0, 1.0, 1.0, 1.0), most="direction"):
    odd = ({"what": most, "spreads": 6.0}, {"what": "fine detail", "spreads": 4.0})
    evidence = shown(
        Departs, odd=odd, inside=inside, around=around, wavelengths_px=(4.0, 8.0, 16.0, 32.0)
    )
    whole = reading("invented", evidence)
    whole.signal = Signal(((0.05, 9.0, 0.0),), 112.0, 9800.0)
    return whole


def test_what_no_finding_explains_is_a_finding_itself():
    edge = reading("seam", shown(Rim, what="step"))
    kept = with_departures([edge], [departing()])
    assert [one.kind for one in kept] == ["seam", "invented"]
    assert kept[1].runner_up == "seam"
    assert [one.kind for one in with_departures([], [departing()])] == ["invented"]


def test_a_finding_that_says_why_is_as_visible_as_the_departure():
    copy = reading("repeat", shown(Copy))
    (kept,) = with_departures([copy], [departing()])
    assert kept.kind == "repeat"
    assert (0.05, 9.0, 0.0) in kept.signal.bands and kept.signal.area == 9800.0


def test_what_covers_a_corner_of_it_does_not_say_why():
    spot = reading("tone", shown("tone"), bbox=(254.0, 164.0, 40.0, 40.0))
    kept = with_departures([spot], [departing()])
    assert [one.kind for one in kept] == ["tone", "invented"]


@pytest.mark.parametrize(
    ("kind", "most", "says"),
    [
        ("seam", "brightness", True),
        ("halo", "blue to yellow", True),
        ("seam", "fine detail", False),
        ("line", "direction", True),
        ("line", "brightness", False),
    ],
)
def test_a_rim_says_why_a_colour_differs_and_a_line_why_a_direction_does(kind, most, says):
    found = reading(kind, shown(kind))
    kept = with_departures([found], [departing(most=most)])
    assert kept == [found] if says else [one.kind for one in kept] == [kind, "invented"]


def test_where_only_detail_is_missing_it_is_washed_out_or_soft():
    missing = lambda coarse: departing((0.3, 0.3, 0.4, coarse), most="finest detail")
    assert named(missing(0.5)) == "smear" and named(missing(0.9)) == "soft"
    # What differs in direction too is something else.
    assert named(departing((0.3, 0.3, 0.4, 0.5))) == "invented"
    assert named(departing((0.9, 0.9, 0.9, 0.5), most="finest detail")) == "invented"
