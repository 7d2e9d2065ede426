"""A finding's picture shows what the finding says."""

from __future__ import annotations

import numpy as np
import pytest
from builders import disc, filled, textured, with_thing

from zweiblick_core.regions import Region
from zweiblick_core.showing import HALF, show, unrolled

TRUTH = textured(300, 400, seed=33)
MASK = disc(TRUTH.shape[:2], 200, 150, 50)
REGION = Region("1", MASK[100:201, 150:251], (150, 100, 101, 101))
ORIGINAL = with_thing(TRUTH, MASK)


def test_an_unrolled_rim_has_the_inside_above_and_the_outside_below():
    picture = np.where(MASK[..., None], np.uint8(200), np.uint8(50)).repeat(3, axis=2)
    strip = unrolled(picture, MASK)
    assert strip.shape[0] == 2 * HALF + 1 and 200 < strip.shape[1] <= 540
    assert strip[:HALF - 3].min() > 190 and strip[HALF + 4:].max() < 60


def test_a_copy_stands_beside_its_source_and_their_grain_agrees():
    copied = filled(TRUTH, MASK, np.roll(TRUTH, 110, axis=1))
    shown = show("repeat", (180, 130, 40, 40), {"type": "copy", "offset_px": [-110, 0]}, ORIGINAL, copied, REGION)
    copy, source = shown.pixels[:40, :40], shown.pixels[:40, 44:84]
    assert np.array_equal(copy, source) and shown.agreement > 0.99 and "source" in shown.says
    honest = show("repeat", (180, 130, 40, 40), {"type": "copy", "offset_px": [-110, 0]}, ORIGINAL, TRUTH, REGION)
    assert abs(honest.agreement) < 0.2


def test_a_mirrored_copy_stands_beside_its_source_flipped():
    shown = show("repeat", (180, 130, 40, 40), {"offset_px": [-90, 0], "mirrored": True, "source": [90, 130, 40, 40]}, ORIGINAL, TRUTH, REGION)
    assert np.array_equal(shown.pixels[:, :64], TRUTH[118:182, 168:232]) and np.array_equal(shown.pixels[:, 68:], TRUTH[118:182, 78:142][:, ::-1]) and shown.agreement is None


def test_a_seam_is_shown_along_the_rim_in_both_pictures():
    stepped = filled(TRUTH, MASK, TRUTH.astype(float) + 40)
    shown = show("seam", (150, 100, 101, 101), {"type": "boundary"}, TRUTH, stepped, REGION)
    high = 2 * HALF + 1
    first, second = shown.pixels[:high].astype(float), shown.pixels[high + 4:].astype(float)
    step = lambda strip: strip[4:HALF - 3].mean() - strip[HALF + 4:-4].mean()
    assert step(second) - step(first) == pytest.approx(40, abs=3)


@pytest.mark.parametrize("kind", ["smear", "line", "residue", "grain", "soft", "shadow", "invented", "overreach", "untouched", "repeat"])
def test_every_other_kind_shows_the_place_in_both(kind):
    shown = show(kind, (170, 120, 30, 20), {"type": "x", "offset_px": [-900, 0]}, ORIGINAL, TRUTH, REGION)
    assert np.array_equal(shown.pixels[:, :54], ORIGINAL[108:152, 158:212]) and np.array_equal(shown.pixels[:, 58:], TRUTH[108:152, 158:212])


def test_a_region_that_is_the_whole_frame_is_shown_all_the_same():
    whole = Region("1", np.ones(TRUTH.shape[:2], bool), (0, 0, 400, 300))
    assert show("seam", (0, 0, 400, 300), {}, ORIGINAL, TRUTH, whole).pixels.size
