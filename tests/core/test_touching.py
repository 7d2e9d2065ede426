"""An edge of the scene that an outline touches runs up to it, along it for a while and away again:
that is no seam. What was cut off along the outline is one.
"""

import cv2
import numpy as np
import pytest
from builders import disc, png, with_thing
from evidences import shown

from zweiblick_core.check import check
from zweiblick_core.features.rim.touching import bends_along, strongest_path, touched
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask
from zweiblick_core.report import Measure, Natural, Reading, Signal
from zweiblick_core.scene.boundary import REACH, Rim

SHAPE = (1000, 1000)
#: The outline's top lies at (500, 270).
MASK, TOP = disc(SHAPE, 500, 500, 230), 270


def wall(seed, plate=None):
    """A plain wall with fresh grain; `plate`: a dark disc on it, as (x, y, radius)."""
    broad = cv2.GaussianBlur(
        np.random.default_rng(4).normal(0, 1, SHAPE).astype(np.float32), (0, 0), 50
    )
    luma = 165 + 6 * broad / broad.std()
    if plate is not None:
        x, y, radius = plate
        luma = luma - 70 * np.clip(
            radius - np.hypot(*np.ogrid[-y : SHAPE[0] - y, -x : SHAPE[1] - x]) + 0.5, 0, 1
        )
    luma = cv2.GaussianBlur(luma.astype(np.float32), (0, 0), 0.7)
    return (
        np.clip(luma[..., None] + np.random.default_rng(seed).normal(0, 1.2, (*SHAPE, 3)), 0, 255)
        .round()
        .astype(np.uint8)
    )


def findings(behind, fill):
    result = np.where(MASK[..., None], fill, behind)
    report = check(
        read(png(with_thing(behind, MASK))),
        read(png(result)),
        from_mask(MASK),
        kinds=("seam", "halo"),
    )
    return report.regions[0].findings


@pytest.mark.slow
@pytest.mark.parametrize("radius", [80, 150])
def test_a_plate_whose_edge_the_outline_touches_is_neither_cut_nor_haloed(radius):
    plate = (500, TOP + radius - 2, radius)
    assert findings(wall(1, plate), wall(2, plate)) == []


@pytest.mark.slow
@pytest.mark.parametrize(
    ("behind", "fill"),
    [((500, TOP - 40, 90), None), (None, (500, TOP + 70, 90)), ((500, TOP - 138, 150), None)],
    ids=[
        "a plate beyond it is cut off",
        "a plate in the fill is cut off",
        "a plate beyond it is bitten off by a little",
    ],
)
def test_a_plate_that_ends_at_the_outline_is_cut(behind, fill):
    (finding,) = findings(wall(1, behind), wall(2, fill))
    x, y, width, height = finding.bbox
    assert finding.kind == "seam" and finding.score > 0.9
    assert abs(x + width / 2 - 500) < 8 and abs(y + height / 2 - TOP) < 16 and width > 80


def along(edge, contrast=20.0, grain=0.5, count=600):
    """A strip whose edge lies at `edge` (count,) pixels from the boundary; NaN: none there."""
    across = np.arange(-REACH, REACH + 1)
    light = np.where(
        np.isnan(edge)[:, None],
        60.0,
        60 + contrast * np.clip(across - np.nan_to_num(edge)[:, None] + 0.5, 0, 1),
    )
    strip = np.stack([light, np.zeros_like(light), np.zeros_like(light)], -1)
    return (strip + np.random.default_rng(1).normal(0, grain, strip.shape)).astype(np.float32)


def ring(count=600):
    turn = 2 * np.pi * np.arange(count) / count
    normals = np.stack([np.cos(turn), np.sin(turn)], -1)
    return Rim(300 + count / 2 / np.pi * normals, normals, 1.0, np.ones(count, bool))


def told(stretch, kind="seam"):
    measure = Measure("edge", 5.0, "natural spreads", Natural(0, 1, 5, "outline"))
    return Reading(
        kind,
        0.9,
        [0, 0, 1, 1],
        [[0, 0], [1, 0], [1, 1]],
        Signal((), 1.0, 1.0),
        measure,
        shown(kind),
        stretch=stretch,
    )


AT = np.arange(600.0) - 300
GONE = lambda edge: np.where(np.abs(edge) > REACH - 4, np.nan, edge)


def test_an_edge_that_bends_away_into_the_fill_on_both_sides_touches_and_one_that_crosses_does():
    assert touched(along(GONE(-0.005 * AT**2)), ring(), told((275, 325)))
    assert touched(along(GONE(0.25 * AT + 0.002 * AT**2)), ring(), told((290, 310)))


def test_one_that_ends_with_the_stretch_or_turns_off_in_corners_or_leaves_outward_alone_does_not():
    stretch = (270, 330)
    assert not touched(along(np.where(np.abs(AT) <= 30, 0.0, np.nan)), ring(), told(stretch))
    assert not touched(along(GONE(-0.45 * np.maximum(np.abs(AT) - 30, 0))), ring(), told(stretch))
    assert not touched(along(GONE(0.005 * AT**2)), ring(), told(stretch))
    # It goes on along the outline itself: that is the seam, told in parts.
    assert not touched(along(np.where(np.abs(AT) <= 120, 0.0, np.nan)), ring(), told(stretch))
    # Fainter beyond.
    fades = along(GONE(-0.005 * AT**2))
    fades[np.abs(AT) > 30, :, 0] = 60 + 0.3 * (fades[np.abs(AT) > 30, :, 0] - 60)
    assert not touched(fades, ring(), told(stretch))


def test_on_restless_ground_what_is_hardly_seen_is_not_followed():
    plain = along(GONE(-0.005 * AT**2), grain=3.0)
    clumps = cv2.GaussianBlur(
        np.random.default_rng(5).normal(0, 1, plain.shape[:2]).astype(np.float32), (0, 0), 3
    )
    restless = plain + (15 * clumps / clumps.std())[..., None] * np.array([1, 0, 0], np.float32)
    assert touched(plain, ring(), told((275, 325))) and not touched(
        restless, ring(), told((275, 325))
    )


def test_most_of_a_boundary_is_no_place_that_an_edge_touches_and_an_edge_must_lie_where_the_kind_tells_of_it():
    edge = GONE(-0.005 * AT**2)
    assert not touched(along(edge), ring(), told((150, 450)))
    assert not touched(along(GONE(edge - 8)), ring(), told((275, 325))) and touched(
        along(GONE(edge - 8)), ring(), told((275, 325), "halo")
    )


def test_of_a_part_of_a_boundary_it_is_reported_only_within_and_never_along_the_frame():
    edge, whole = along(GONE(-0.005 * AT**2)), ring()
    part = whole.part(np.arange(600))
    assert touched(edge, part, told((275, 325))) and not touched(edge, part, told((5, 55)))
    whole.usable[240:262] = False
    assert not touched(edge, whole, told((275, 325)))


def test_the_strongest_path_is_followed_and_a_curve_is_reported_from_a_straight_piece_between_corners():
    at = np.linspace(-50, 50, 101)
    curve, corners = 30 - 0.006 * at**2, 30 - 0.45 * np.maximum(np.abs(at) - 20, 0)
    plane = lambda path: np.exp(-(((np.arange(61) - path[:, None]) / 1.2) ** 2))
    for path in (curve, corners):
        followed = strongest_path(plane(path), int(path[0]), 1.0)
        assert np.abs(followed - path).max() <= 1.0
    assert bends_along(plane(curve), curve.round().astype(int)) and not bends_along(
        plane(corners), corners.round().astype(int)
    )
