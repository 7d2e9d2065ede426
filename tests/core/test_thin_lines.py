"""Thin lines: joints, wires, seams of cloth. They must go on straight through the fill as others of
their course do elsewhere.
"""

from dataclasses import replace

import cv2
import numpy as np
import pytest

from zweiblick_core.features.lines.faint import faint_lines
from zweiblick_core.features.lines.gone import faint_breaks, thin_gone

SHAPE, MIDDLE, RADIUS, APART = (560, 620), (310, 280), 62, 44
Y, X = np.mgrid[: SHAPE[0], : SHAPE[1]].astype(np.float32)
INSIDE = np.hypot(X - MIDDLE[0], Y - MIDDLE[1])
AREA = INSIDE <= RADIUS
#: Where the same outline lies over untouched ground.
PLACES = [(-180, 0), (170, 30), (0, -165), (20, 170), (-150, 150)]


def ground(seed=3):
    """Pebbles."""
    fine = np.random.default_rng(seed).normal(0, 1, SHAPE).astype(np.float32)
    return 128 + 9 * cv2.GaussianBlur(fine, (0, 0), 2.5) / 0.11 * 0.5


def joints(levels=-38.0, aside=0.0, lines=range(-8, 9)):
    """Dark lines 2 px wide, 44 px apart, at 20 degrees, one of them through the middle; `aside`:
    how far each place of them is displaced across, pixels.
    """
    across = (
        (Y - MIDDLE[1]) * np.cos(np.radians(20)) - (X - MIDDLE[0]) * np.sin(np.radians(20)) + aside
    )
    return sum(levels * np.exp(-(((across - number * APART) / 1.2) ** 2)) for number in lines)


def undulating(amount=4.0):
    """What a fill that undulates does to what lies in it; its rim stays where it was."""
    along = (X - MIDDLE[0]) * np.cos(np.radians(20)) + (Y - MIDDLE[1]) * np.sin(np.radians(20))
    return np.clip((RADIUS - INSIDE) / 14, 0, 1) * amount * np.sin(2 * np.pi * along / 48)


def broken(plane, places=PLACES):
    """Scores and breaks of what is told."""
    return [
        (score, one)
        for score, one in faint_breaks(np.clip(plane, 0, 255).astype(np.float32), AREA, places, [])[
            0
        ]
        if score >= 0.5
    ]


def through_the_middle(plane, place=(0, 0)):
    return [
        line
        for line in faint_lines(np.clip(plane, 0, 255).astype(np.float32), AREA, [place])[0]
        if line.thin and line.length > 100 and line.turned(line) == 0 and abs(line.angle - 20) < 4
    ]


def test_a_thin_line_that_goes_on_straight_is_known_and_no_flaw():
    (line,) = through_the_middle(ground() + joints())
    assert line.clear > 5 and line.missing < 0.25 and line.uneven < 0.4 and line.trace is None
    assert broken(ground() + joints()) == []


def test_where_the_fill_has_the_ground_but_not_its_joints_they_are_missing():
    told = broken(ground() + np.where(AREA, 0, joints()))
    assert told and max(score for score, _ in told) > 0.9
    assert all(
        one.what == "missing" and one.amount > 0.7 and abs(one.angle - 20) < 4 and one.paired
        for _, one in told
    )


@pytest.mark.parametrize("amount", [3.0, 4.0, 5.0])
def test_joints_that_undulate_are_reported_as_such_and_followed(amount):
    told = broken(ground() + joints(aside=np.where(AREA, undulating(amount), 0)))
    score, one = max(told, key=lambda pair: pair[1].length)
    assert score > 0.7 and one.what == "wave" and one.amount == pytest.approx(amount, abs=1.6)
    # The way shown is where the joint is.
    at = one.trace.round().astype(int)
    along = (at[:, 0] - MIDDLE[0]) * np.cos(np.radians(20)) + (at[:, 1] - MIDDLE[1]) * np.sin(
        np.radians(20)
    )
    across = (at[:, 1] - MIDDLE[1]) * np.cos(np.radians(20)) - (at[:, 0] - MIDDLE[0]) * np.sin(
        np.radians(20)
    )
    assert (
        np.ptp(along) > 80
        and np.median(np.abs(across + undulating(amount)[at[:, 1], at[:, 0]])) < 2.0
    )


def test_that_one_is_partly_missing_is_a_flaw_only_where_it_is_known_that_they_go_on_here():
    plane = ground() + joints(aside=np.where(AREA, undulating(4.0), 0))
    (line,) = [replace(line, missing=0.45) for line in through_the_middle(plane)]
    others = [other for place in PLACES for other in through_the_middle(plane, place)]
    course = [replace(line, missing=part) for part in (0.0, 0.05, -0.1, 0.1)]
    assert thin_gone(line, others) > 0.7 and thin_gone(line, course) > 0.9
    # Nothing is known of others; others of another course; and others that are gone for a while by
    # nature.
    assert thin_gone(line, course[:3]) < 0.2
    assert thin_gone(line, [replace(other, ends=other.ends[:, ::-1]) for other in course]) < 0.2
    assert thin_gone(line, [*course, replace(line, missing=0.5), replace(line, missing=0.6)]) < 0.2
    # One of which nothing is left is missing, whatever others do.
    assert thin_gone(replace(line, missing=0.95, sure=6.0), []) > 0.9


def test_what_hardly_stands_out_or_lies_in_a_row_by_chance_says_nothing():
    (line,) = through_the_middle(ground() + np.where(AREA, 0, joints()))
    course = [replace(line, missing=0.0)] * 5
    assert thin_gone(line, course) > 0.9
    assert (
        thin_gone(replace(line, clear=4.0), course) == 0
        and thin_gone(replace(line, uneven=0.5), course) == 0
    )
    assert thin_gone(replace(line, sure=1.0), course) < 0.1


def test_light_lines_are_reported_like_dark_ones():
    told = broken(ground() + np.where(AREA, 0, joints(38.0)))
    assert told and all(one.what == "missing" for _, one in told)
