"""An outline that runs along an edge of the scene, and a seam that makes one of its own."""

import cv2
import numpy as np
import pytest
from builders import png, with_thing

from zweiblick_core.align import Pair
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.outline_edges import outline_edges
from zweiblick_core.scene.window import open_window

SHAPE = (300, 400)
RNG = np.random.default_rng(3)
#: A dark wall to the right of a light one; the thing stood before the light one, up to the dark.
GROUND = np.full((*SHAPE, 3), 160.0)
GROUND[:, 220:] = 90
GROUND = np.clip(GROUND + RNG.normal(0, 2, GROUND.shape), 0, 255).astype(np.uint8)


def box(x0, x1):
    mask = np.zeros(SHAPE, bool)
    mask[100:200, x0:x1] = True
    return mask


def judged(truth, mask, shift=0):
    result = truth.copy()
    result[mask] = np.clip(result[mask].astype(int) + shift, 0, 255)
    regions = from_mask(mask)
    pair = Pair(read(png(with_thing(truth, mask))), read(png(result)))
    return outline_edges(open_window(Scene(pair), regions[0], regions))


def test_an_outline_along_a_walls_edge_runs_along_it_where_it_does():
    found = judged(GROUND, box(120, 220))
    assert found.along == pytest.approx(0.25, abs=0.08)
    assert found.leaving == pytest.approx(found.along, abs=0.03)


def test_an_outline_in_the_open_runs_along_nothing():
    found = judged(GROUND, box(60, 160))
    assert found.along < 0.05 and found.leaving < 0.05


def test_a_seam_is_an_edge_that_goes_nowhere():
    found = judged(GROUND, box(60, 160), 25)
    assert found.along > 0.8 and found.leaving < 0.1


def test_a_region_that_is_the_whole_picture_has_no_surroundings_to_say_so():
    found = judged(cv2.GaussianBlur(GROUND, (0, 0), 3), np.ones(SHAPE, bool), 5)
    assert (found.along, found.leaving) == (0.0, 0.0)
