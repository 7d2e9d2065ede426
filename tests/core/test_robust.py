"""Whatever comes in, a report comes out: properties tried on many small, odd pictures and masks."""

import json
import os

import cv2
import numpy as np
import pytest
from builders import png, textured
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from zweiblick_core.check import check
from zweiblick_core.compare import same_pixels
from zweiblick_core.errors import Refused
from zweiblick_core.evidence import from_json
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask
from zweiblick_core.rules import advice
from zweiblick_core.rules.pairing import pair

#: More by `ZWEIBLICK_EXAMPLES=2000`.
QUICK = settings(
    max_examples=int(os.environ.get("ZWEIBLICK_EXAMPLES", "40")),
    deadline=None,
    derandomize=True,
    suppress_health_check=[HealthCheck.too_slow],
)


@st.composite
def masks(draw, height, width):
    """Blobs, single pixels, hairlines, everything, the frame's edge."""
    shape = draw(st.sampled_from(["blob", "pixel", "hairline", "all", "edge", "holes"]))
    mask = np.zeros((height, width), np.uint8)
    x, y = draw(st.integers(0, width - 1)), draw(st.integers(0, height - 1))
    if shape == "pixel":
        mask[y, x] = 1
    elif shape == "hairline":
        cv2.line(
            mask, (x, y), (draw(st.integers(0, width - 1)), draw(st.integers(0, height - 1))), 1, 1
        )
    elif shape == "all":
        mask[:] = 1
    elif shape == "edge":
        mask[:, : max(1, width // 5)] = 1
    else:
        cv2.circle(mask, (x, y), draw(st.integers(3, 40)), 1, -1)
        if shape == "holes":
            cv2.circle(mask, (x, y), 2, 0, -1)
    if not mask.any():
        mask[y, x] = 1
    return mask.astype(bool)


def ground(kind, height, width, seed):
    if kind == "flat":
        return np.full((height, width, 3), seed % 256, np.uint8)
    if kind == "lines":
        rows = ((np.arange(height) // 7) % 2 * 120 + 40).astype(np.uint8)
        return np.repeat(np.repeat(rows[:, None], width, 1)[..., None], 3, 2)
    return textured(height, width, seed=seed)


def spoilt(picture, mask, how, seed):
    rng = np.random.default_rng(seed)
    fill = {
        "noise": rng.integers(0, 256, picture.shape),
        "white": np.full(picture.shape, 255),
        "blur": cv2.GaussianBlur(picture, (0, 0), 3),
        "shift": np.roll(picture, (3, 5), (0, 1)),
        "nothing": picture,
    }[how]
    out = picture.copy()
    out[mask] = fill[mask]
    return out


@pytest.mark.slow
@QUICK
@given(st.data())
def test_every_picture_gets_a_report_without_a_number_that_is_none(data):
    height, width = data.draw(st.integers(16, 150)), data.draw(st.integers(16, 150))
    seed = data.draw(st.integers(0, 10_000))
    picture = ground(data.draw(st.sampled_from(["textured", "flat", "lines"])), height, width, seed)
    mask = data.draw(masks(height, width))
    result = spoilt(
        picture,
        mask,
        data.draw(st.sampled_from(["noise", "white", "blur", "shift", "nothing"])),
        seed,
    )
    report = check(read(png(picture)), read(png(result)), from_mask(mask))
    plain = json.loads(report.to_json())  # refuses what is infinite or undefined
    for region in plain["regions"]:
        assert 0 <= region["overall"] <= 1 and all(
            0 <= score <= 1 for score in region["scores"].values()
        )
        for finding in region["findings"]:
            x, y, w, h = finding["bbox"]
            assert (
                w > 0
                and h > 0
                and x >= -40
                and x + w <= width + 40
                and y >= -40
                and y + h <= height + 40
            )
            assert (
                len(finding["polygon"]) >= 3 and 0 <= finding["severity"] <= 1 and finding["group"]
            )
            advice.advise(
                advice.Case(
                    (advice.Flaw(finding["kind"], finding["bbox"], from_json(finding["evidence"])),)
                )
            )


@QUICK
@given(st.data())
def test_a_lock_holds_exactly_when_no_pixel_of_it_differs(data):
    height, width = data.draw(st.integers(20, 80)), data.draw(st.integers(20, 80))
    picture = textured(height, width, seed=data.draw(st.integers(0, 99)))
    mask = data.draw(masks(height, width))
    other = picture.copy()
    places = data.draw(
        st.lists(st.tuples(st.integers(0, height - 1), st.integers(0, width - 1)), max_size=4)
    )
    for y, x in places:
        other[y, x, 0] ^= 1
    changed = (picture != other).any(axis=2)
    for region in from_mask(mask):
        proof = same_pixels(picture, other, region, rim=0)
        assert proof.differing == int(
            (changed & region.full((height, width))).sum()
        ) and proof.same == (proof.differing == 0)


@QUICK
@given(
    st.lists(
        st.text(st.characters(codec="utf-8", exclude_characters="/\x00"), min_size=1, max_size=24),
        max_size=12,
    )
)
def test_pairing_takes_every_name_once_whatever_it_is(names):
    placed = [
        name
        for group in pair(names)
        for name in [group.original, group.mask, *group.results]
        if name is not None
    ]
    assert sorted(placed) == sorted(set(names))


@QUICK
@given(st.binary(max_size=300))
def test_bytes_that_are_no_picture_are_refused_and_nothing_else_happens(data):
    try:
        read(data)
    except Refused as error:
        assert str(error)
    else:
        raise AssertionError("random bytes were read as a picture")
