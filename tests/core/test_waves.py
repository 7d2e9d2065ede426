"""What bends to and fro in a fill is told by the way edges run, though no line is found or
followed.
"""

from pathlib import Path

import cv2
import numpy as np
import pytest
from builders import disc, filled, jpeg, png, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.lines.waves import waves
from zweiblick_core.io import read
from zweiblick_core.regions.masks import from_mask

SHAPE = (500, 700)
AREA = disc(SHAPE, 350, 250, 55)
APART = cv2.dilate(AREA.astype(np.uint8), np.ones((9, 9), np.uint8)).astype(bool)
PLACES = [(dx, dy) for dx in (-230, -115, 115, 230) for dy in (-150, 0, 150)]
Y, X = np.mgrid[: SHAPE[0], : SHAPE[1]].astype(np.float32)
GRAIN = np.random.default_rng(3).normal(0, 1.3, SHAPE)


def striped(across, wide=24.0):
    return 110 + 20 * np.tanh(6 * np.sin(2 * np.pi * across / wide))


LEVEL = striped(Y)


def laid(fill, ground=LEVEL):
    return (np.where(AREA, fill, ground) + GRAIN).astype(np.float32)


def read_of(plane, places=PLACES):
    return waves(plane, AREA, APART, places)


@pytest.mark.parametrize("pixels", [2.0, 4.0])
@pytest.mark.parametrize("turned", [False, True])
def test_boards_that_undulate_are_reported_and_by_how_many_pixels(pixels, turned):
    along, across = (Y, X) if turned else (X, Y)
    found = read_of(
        laid(striped(across + pixels * np.sin(2 * np.pi * along / 50)), striped(across))
    )
    assert found.far > 3 and found.turning > 4 * np.median(found.nature)
    assert pixels * 0.6 < found.swings.max() < pixels * 1.25
    # The traces follow the boards, through the area.
    for trace in found.traces:
        assert (
            np.hypot(*(trace.mean(axis=0) - (350, 250))) < 55
            and np.hypot(*(trace[-1] - trace[0])) > 18
        )


def test_straight_boards_do_not():
    assert abs(read_of(laid(striped(Y))).far) < 0.3


def test_nor_do_round_things_that_go_on_turning_one_way():
    assert read_of(laid(striped(np.hypot(X - 350, Y - 250)))).far < 0.5


def test_nor_does_a_bare_fill_whose_grain_runs_every_way():
    for levels in (1.0, 4.0):
        assert read_of(laid(110 + np.random.default_rng(5).normal(0, levels, SHAPE))).far < 1.0


def test_where_all_around_undulates_too_nothing_is_reported():
    everywhere = striped(Y + 4 * np.sin(2 * np.pi * X / 50))
    assert read_of(laid(everywhere, everywhere)).far < 0.5
    # And where what lies just around does, though nothing farther away.
    near = np.hypot(X - 350, Y - 250) < 100
    assert read_of(laid(everywhere, np.where(near, everywhere, striped(Y)))).far < 0.8


def test_with_too_few_places_known_nothing_can_be_said():
    waving = laid(striped(Y + 4 * np.sin(2 * np.pi * X / 50)))
    assert read_of(waving, PLACES[:2]) is None
    assert read_of(waving, PLACES[:3]).far < read_of(waving).far


def test_a_large_fill_is_looked_at_smaller_and_reported_in_its_own_pixels():
    large = cv2.resize(laid(striped(Y + 4 * np.sin(2 * np.pi * X / 50))), None, fx=4, fy=4)
    area = cv2.resize(AREA.astype(np.uint8), None, fx=4, fy=4, interpolation=cv2.INTER_NEAREST) > 0
    found = waves(
        large,
        area,
        cv2.dilate(area.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0,
        [(4 * dx, 4 * dy) for dx, dy in PLACES],
    )
    assert found.far > 3 and 10 < found.swings.max() < 20


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg])
def test_on_a_photograph_of_boards_it_is_one_finding_that_shows_what_swings(encode):
    data = (Path(__file__).parents[2] / "demo" / "pictures" / "boatshed-truth.jpg").read_bytes()
    truth = read(data).pixels[:900, :1200].copy()
    mask = disc(truth.shape[:2], 560, 420, 60)
    y, x = np.mgrid[: truth.shape[0], : truth.shape[1]].astype(np.float32)
    inside = np.clip(cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5) / 14, 0, 1) * 4
    wavy = cv2.remap(
        truth,
        x,
        y + inside * np.sin(2 * np.pi * x / 48).astype(np.float32),
        cv2.INTER_CUBIC,
        borderMode=cv2.BORDER_REFLECT,
    )
    report = check(
        read(encode(with_thing(truth, mask))),
        read(encode(filled(truth, mask, wavy))),
        from_mask(mask),
    )
    lines = [one for one in report.regions[0].findings if one.kind == "line"]
    assert len(lines) == 1 and lines[0].evidence.what == "wave" and lines[0].score > 0.7
    assert 1.5 < lines[0].evidence.amount < 6
    for line in lines[0].evidence.lines:
        assert len(line.trace) >= 3 and len(line.straight) == 2
        assert all(
            mask[int(py), int(px)] or np.hypot(px - 560, py - 420) < 70 for px, py in line.trace
        )
