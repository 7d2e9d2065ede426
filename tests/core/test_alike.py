"""A line of the scene that an outline happens to touch is no flaw; a flaw of the same look is."""

from pathlib import Path

import cv2
import numpy as np
import pytest
from builders import disc, filled, png, with_thing

from zweiblick_core.align import brought_together, register
from zweiblick_core.check import check
from zweiblick_core.features.rim.alike import lies_around
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask
from zweiblick_core.scene.boundary import rims_of
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.window import open_window

PICTURES = Path(__file__).parents[2] / "demo" / "pictures"
SHAPE = (1300, 1700)
RADIUS = 260
MASK = disc(SHAPE, 850, 640, RADIUS)


def boards(joints=True):
    """Boards with dark joints every 130 px; the outline's lowest point touches one of them."""
    rng = np.random.default_rng(5)
    luma = 150 + 6 * cv2.GaussianBlur(rng.normal(0, 1, SHAPE).astype(np.float32), (0, 0), 3.0) * 6
    if joints:
        y = np.arange(SHAPE[0])[:, None]
        luma = luma - 45 * np.exp(-(((((y - (640 + RADIUS) + 65) % 130) - 65) / 2.2) ** 2))
    return np.clip(luma[..., None] + rng.normal(0, 2, (*SHAPE, 3)), 0, 255).round().astype(np.uint8)


def window_of(truth, result):
    original, after = read(png(with_thing(truth, MASK))), read(png(result))
    regions = from_mask(MASK)
    return open_window(
        Scene(brought_together(original, after, register(original, after))),
        regions[0],
        regions,
        260,
    )


def lowest(rim, half=22):
    """The stretch about the outline's lowest point."""
    at = int(rim.points[:, 1].argmax())
    count = round(half / rim.step)
    return np.arange(at - count, at + count) % len(rim)


@pytest.mark.slow
def test_a_joint_that_the_outline_touches_lies_around_at_the_next_joint():
    truth = boards()
    window = window_of(
        truth, filled(truth, MASK, truth + 0.4 * np.random.default_rng(1).normal(0, 1, truth.shape))
    )
    rim = rims_of(window.judged)[0]
    dx, dy = lies_around(window, rim, lowest(rim))
    assert dy == pytest.approx(round(dy / 130) * 130, abs=2) and (dx, dy) != (0, 0)
    # The same asked of all of the boundary has no answer: it is no line of the scene.
    assert lies_around(window, rim, np.arange(len(rim))) is None


@pytest.mark.slow
def test_a_dark_rim_that_nothing_around_shows_is_the_fills():
    truth = boards(joints=False)
    mark = truth.astype(np.float32)
    mark[640 + RADIUS - 3 : 640 + RADIUS + 1, 820:880] -= 45
    window = window_of(
        truth, filled(truth, MASK, mark + 0.4 * np.random.default_rng(1).normal(0, 1, truth.shape))
    )
    rim = rims_of(window.judged)[0]
    assert lies_around(window, rim, lowest(rim)) is None


@pytest.mark.slow
def test_a_wall_of_boards_that_was_filled_truly_has_no_finding_where_joints_touch_the_outline():
    photograph = cv2.imread(str(PICTURES / "boatshed-truth.jpg"))[..., ::-1]
    large = cv2.resize(
        photograph,
        (4000, 4000 * photograph.shape[0] // photograph.shape[1]),
        interpolation=cv2.INTER_CUBIC,
    )[616:1816, 99:1299]
    truth = np.clip(large + np.random.default_rng(5).normal(0, 2, large.shape), 0, 255).astype(
        np.uint8
    )
    mask = disc(truth.shape[:2], 600, 600, 300)
    fill = filled(truth, mask, truth + 0.4 * np.random.default_rng(1).normal(0, 1, truth.shape))
    region = check(read(png(with_thing(truth, mask))), read(png(fill)), from_mask(mask)).regions[0]
    # Above and below two joints run along the outline for 60 and 85 px: stronger than what the
    # outline meets elsewhere.
    assert region.findings == [] and region.scores["halo"] < 0.64
