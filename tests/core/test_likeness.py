"""Near-identical pictures are found by fingerprint, and their regions by where they lie."""

import numpy as np
from builders import disc, jpeg, png, textured

from zweiblick_core.align import register
from zweiblick_core.compare.likeness import NEAR, apart, counterpart, fingerprint
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask

FIRST = textured(420, 620, seed=5)
MOVED = np.roll(FIRST, (6, -9), (0, 1))


def test_a_small_move_another_exposure_or_encoding_hardly_change_a_fingerprint():
    bits = fingerprint(read(png(FIRST)))
    darker = np.clip(FIRST * 0.8 + 5, 0, 255).astype(np.uint8)
    for other in (png(MOVED), png(darker), jpeg(FIRST, 70)):
        assert apart(bits, fingerprint(read(other))) <= NEAR


def test_pictures_of_other_things_are_far_apart():
    bits = [fingerprint(read(png(textured(420, 620, seed=seed)))) for seed in range(20, 30)]
    distances = [apart(one, other) for one in bits for other in bits if one < other]
    assert min(distances) > NEAR


def test_a_region_s_counterpart_lies_where_it_does():
    lies = register(read(png(FIRST)), read(png(MOVED)))
    (region,) = from_mask(disc(FIRST.shape[:2], 200, 200, 30))
    here, *far = (
        from_mask(disc(FIRST.shape[:2], x, y, 34))[0] for x, y in ((195, 208), (420, 200))
    )
    found = counterpart(region, lies, FIRST.shape[:2], [*far, here])
    assert found is here
    assert counterpart(region, lies, FIRST.shape[:2], far) is None
    assert counterpart(region, lies, FIRST.shape[:2], []) is None
