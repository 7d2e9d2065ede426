"""Poles, wires and limbs: a fill that is long and narrow is judged like any other, though no large
square of it is ever full.
"""

import cv2
import numpy as np
import pytest
from builders import disc, filled, jpeg, png, textured, with_thing

from zweiblick_core.check import check
from zweiblick_core.features.detail.ground import LEAST_CONTROLS, Ground, ground_of
from zweiblick_core.features.detail.means import pools
from zweiblick_core.io import read
from zweiblick_core.kinds import smear
from zweiblick_core.kinds.tone import cell_side
from zweiblick_core.regions import from_mask

TRUTH = textured(560, 760, seed=33)


def pole(thickness):
    mask = np.zeros(TRUTH.shape[:2], np.uint8)
    cv2.line(mask, (400, 60), (368, 470), 1, thickness)
    return mask.astype(bool)


def judged(mask, fill, encode=png):
    original = with_thing(TRUTH, mask)
    return check(
        read(encode(original)), read(encode(filled(original, mask, fill))), from_mask(mask)
    ).regions[0]


def held(rng=3):
    return TRUTH + np.random.default_rng(rng).normal(0, 0.2, TRUTH.shape)


@pytest.mark.slow
@pytest.mark.parametrize("encode", [png, jpeg], ids=["lossless", "compressed"])
@pytest.mark.parametrize("thickness", [16, 22, 28])
def test_a_poles_place_that_was_washed_out_is_reported(thickness, encode):
    region = judged(pole(thickness), cv2.GaussianBlur(TRUTH, (0, 0), 3), encode)
    assert "smear" not in region.abstained and any(
        finding.kind in ("smear", "soft") for finding in region.findings
    )


@pytest.mark.slow
@pytest.mark.parametrize("thickness", [16, 22, 28])
def test_a_poles_place_that_holds_has_no_finding_and_every_kind_of_detail_was_asked(thickness):
    region = judged(pole(thickness), held())
    assert region.findings == []
    assert not {"smear", "grain", "soft", "tone", "invented"} & set(region.abstained)


@pytest.mark.slow
def test_a_poles_place_without_grain_is_reported():
    mask = pole(22)
    grain = np.random.default_rng(5).normal(0, 4.0, TRUTH.shape)
    original = with_thing(TRUTH + grain, mask)
    region = check(
        read(png(original)), read(png(filled(original, mask, TRUTH))), from_mask(mask)
    ).regions[0]
    assert any(
        finding.kind == "grain" and finding.evidence.what == "less grain"
        for finding in region.findings
    )


@pytest.mark.slow
def test_a_poles_place_that_was_sharpened_is_reported():
    truth = TRUTH.astype(np.float32)
    fill = truth + 1.4 * (truth - cv2.GaussianBlur(truth, (0, 0), 1.2))
    assert any(finding.kind in ("soft", "grain") for finding in judged(pole(22), fill).findings)


@pytest.mark.slow
def test_a_poles_place_in_another_light_is_reported_and_cells_are_small_enough_to_lie_across_it():
    mask = pole(22)
    soft = cv2.GaussianBlur(
        cv2.erode(mask.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(np.float32), (0, 0), 3
    )[..., None]
    region = judged(mask, held() + 40 * soft)
    assert any(finding.kind in ("tone", "seam") for finding in region.findings)
    assert cell_side(mask) <= 6 and cell_side(np.pad(np.ones((200, 200), bool), 50)) == 16


@pytest.mark.slow
def test_what_a_square_must_hold_follows_from_what_a_thin_fill_has_of_any(monkeypatch):
    seen = []
    monkeypatch.setattr(
        smear, "ground_of", lambda window: seen.append(ground_of(window)) or seen[-1]
    )
    judged(pole(20), held())
    ground: Ground = seen[0]
    # Of seven cells by seven, a pole of two and a half cells has about eighteen: less than nearly
    # half.
    assert 0.2 * 49 <= ground.least(7) < 0.45 * 49
    (pool,) = pools(np.ones(ground.inside.shape), ground.inside, (7,), ground)
    assert (pool == 1).sum() > 0.4 * ground.inside.sum()
    (without,) = pools(np.ones(ground.inside.shape), ground.inside, (7,))
    assert (without == 1).sum() < (pool == 1).sum()


def test_a_pool_that_no_control_knows_hides_no_other():
    ground = object.__new__(Ground)
    values = np.column_stack(
        [np.linspace(0, 1, LEAST_CONTROLS + 2), np.full(LEAST_CONTROLS + 2, -9.0)]
    )
    usable = ground.usable(values)
    assert len(usable) == len(values) and np.array_equal(usable[:, 0], values[:, 0])
    # Nothing found comes near what it is compared with there.
    assert usable[:, 1].min() > 100
    # A control that lacks what others know is not compared with.
    values[0, 0] = -9.0
    assert len(ground.usable(values)) == len(values) - 1
    assert len(ground.usable(np.full((6, 2), -9.0))) == 0


@pytest.mark.slow
@pytest.mark.parametrize("radius", [16, 20, 26])
@pytest.mark.parametrize("sigma", [2.5, 4.0])
def test_what_borders_on_a_small_fill_is_no_edge_that_was_kept(radius, sigma):
    # Where edges stand, grain was taken. A blur leaves none; around a small fill there are some.
    region = judged(disc(TRUTH.shape[:2], 330, 260, radius), cv2.GaussianBlur(TRUTH, (0, 0), sigma))
    assert (
        next(
            finding.kind
            for finding in region.findings
            if finding.kind in ("smear", "soft", "grain")
        )
        == "smear"
    )
