"""Where there is no structure, the grain alone tells: what lies twice, and what was washed out in a
part of the fill.
"""

import cv2
import numpy as np
import pytest
from builders import disc, filled, jpeg, png, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.copies.again import grain_again
from zweiblick_core.features.copies.grain import high_pass
from zweiblick_core.features.copies.quarters import quartered
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask

SHAPE = (460, 620)
MASK = disc(SHAPE, 300, 230, 50)


def sky(seed=7, grain=1.6):
    """An even slope of light with a sensor's grain."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[: SHAPE[0], : SHAPE[1]]
    noise = cv2.GaussianBlur(rng.normal(0, 1, (*SHAPE, 3)).astype(np.float32), (0, 0), 0.55)
    return (
        np.clip((150 + 0.06 * y + 0.02 * x)[..., None] + grain * noise / noise.std(), 0, 255)
        .round()
        .astype(np.uint8)
    )


TRUTH = sky()


def kinds(fill, encode=png, only=None):
    report = check(
        read(encode(with_thing(TRUTH, MASK))),
        read(encode(filled(TRUTH, MASK, fill))),
        from_mask(MASK),
        kinds=only,
    )
    return {finding.kind: finding for finding in report.regions[0].findings}


def copied(make, dx=131, dy=-47):
    """A square around the region from one beside it, as `make` turns it, at the region's own level."""
    fill = TRUTH.astype(np.float32)
    there = make(fill[170 + dy : 290 + dy, 240 + dx : 360 + dx])
    fill[170:290, 240:360] = (
        there + fill[170:290, 240:360].mean(axis=(0, 1)) - there.mean(axis=(0, 1))
    )
    return fill


@pytest.mark.parametrize(
    ("make", "what"),
    [
        (lambda part: part, {"mirrored": False}),
        (lambda part: part[:, ::-1], {"mirrored": True}),
        (lambda part: np.rot90(part), {"turned_degrees": 90}),
    ],
    ids=["plain", "mirrored", "turned"],
)
def test_a_copy_in_an_empty_sky_is_found_by_its_grain_with_its_source(make, what):
    finding = kinds(copied(make), only=("repeat",))["repeat"]
    x, y, w, h = finding.evidence.source
    assert abs(x + w / 2 - 431) < 16 and abs(y + h / 2 - 183) < 16
    for name, value in what.items():
        assert float(abs(getattr(finding.evidence, name))) == pytest.approx(
            float(value), abs=2 if value else 0.1
        )


def test_grain_of_its_own_lies_nowhere_else():
    fill = sky(seed=8)
    assert (
        kinds(fill, only=("repeat",)) == {}
        and grain_again(high_pass(fill[..., 0].astype(np.float32)), MASK, (0, 1, 2, 3), 5.5) == []
    )


@pytest.mark.parametrize("quarters", [1, 2, 3])
def test_a_square_turned_by_quarters_lies_where_its_matrix_says(quarters):
    plane = np.random.default_rng(2).normal(0, 1, (200, 200))
    at, there, last = (30, 40), (120, 90), 19
    plane[90:110, 120:140] = np.rot90(plane[40:60, 30:50], quarters)
    matrix = quartered(quarters, at, there, last)
    for x, y in [(30, 40), (49, 40), (37, 55)]:
        sx, sy = matrix @ (x, y, 1)
        assert plane[int(sy), int(sx)] == plane[y, x]


@pytest.mark.slow
def test_a_washed_out_part_of_an_even_ground_is_seen_by_its_grain_alone():
    washed = cv2.GaussianBlur(TRUTH.astype(np.float32), (0, 0), 2.5)
    part = cv2.GaussianBlur(disc(SHAPE, 285, 240, 22).astype(np.float32), (0, 0), 2)[..., None]
    found = kinds(
        TRUTH * (1 - part)
        + washed * part
        + np.random.default_rng(1).normal(0, 0.3, TRUTH.shape) * (1 - part)
    )
    # Grain is all that was there to lose; which of both kinds it is called is the other's
    # runner-up.
    finding = next(found[kind] for kind in ("grain", "smear", "soft") if kind in found)
    x, y, w, h = finding.bbox
    assert abs(x + w / 2 - 285) < 14 and abs(y + h / 2 - 240) < 14 and max(w, h) < 75


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg], ids=["lossless", "compressed"])
def test_an_even_ground_with_grain_like_its_surroundings_holds(encode):
    assert kinds(sky(seed=9), encode) == {}
