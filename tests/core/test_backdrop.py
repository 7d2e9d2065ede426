"""What lies behind a region is proposed in words, from its surroundings alone."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from builders import disc, png, textured, with_thing

from zweiblick_core.align import brought_together, register
from zweiblick_core.io import read
from zweiblick_core.regions.masks import cropped
from zweiblick_core.scene.backdrop import backdrop
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.window import open_window

SHAPE = (300, 400)
MASK = disc(SHAPE, 200, 150, 30)


def grained(plain: np.ndarray, sigma: float) -> np.ndarray:
    noise = np.random.default_rng(5).normal(0, sigma, (*plain.shape, 3))
    return np.clip(plain[..., None] + noise, 0, 255).round().astype(np.uint8)


def sky() -> np.ndarray:
    return grained(np.broadcast_to(np.linspace(200, 150, SHAPE[0])[:, None], SHAPE), 0.8)


def railing() -> np.ndarray:
    x = np.arange(SHAPE[1])[None, :] + np.zeros((SHAPE[0], 1))
    return grained(150 - 70.0 * ((x // 9) % 3 == 0), 1.0)


def sand() -> np.ndarray:
    rng = np.random.default_rng(2)
    fine = cv2.GaussianBlur(rng.normal(0, 1, SHAPE), (0, 0), 1.2)
    return grained(140 + 26 * fine / fine.std(), 1.0)


def bushes() -> np.ndarray:
    """Dark gaps between broad leaves: strong edges here and there, of no one direction."""
    rng = np.random.default_rng(7)
    broad = cv2.GaussianBlur(rng.normal(0, 1, SHAPE), (0, 0), 9)
    return grained(120 + 50.0 * np.tanh(broad / broad.std() * 8), 1.0)


def words_for(ground: np.ndarray, mask: np.ndarray = MASK, others: tuple[np.ndarray, ...] = ()):
    masks = [mask, *others]
    removed = np.any(masks, axis=0)
    original = read(png(with_thing(ground, removed)))
    result = read(png(ground))
    regions = [cropped(one, str(number)) for number, one in enumerate(masks, 1)]
    scene = Scene(brought_together(original, result, register(original, result, ~removed)))
    return backdrop(open_window(scene, regions[0], regions))


@pytest.mark.parametrize(
    ("ground", "words"),
    [
        (sky, "plain gradient"),
        (railing, "straight structure"),
        (sand, "fine texture"),
        (bushes, "organic"),
    ],
)
def test_what_lies_behind_a_region_is_said_in_words(ground, words):
    assert words_for(ground()) == words


def test_a_region_that_the_frame_cuts_lies_at_the_frames_edge():
    assert words_for(textured(*SHAPE), disc(SHAPE, 6, 150, 30)) == "frame edge"


def test_where_hardly_anything_untouched_is_left_around_it_is_crowded():
    around = disc(SHAPE, 200, 150, 110) & ~disc(SHAPE, 200, 150, 30)
    assert words_for(textured(*SHAPE), MASK, (around,)) == "crowded"
