import pytest
from hypothesis import given
from hypothesis import strategies as st

from zweiblick_core.errors import Refused
from zweiblick_core.report import Signal
from zweiblick_core.visibility import (
    NATIVE,
    just_noticeable,
    lightness_sensitivity,
    parse_size,
    visibility,
    word,
)

FRAME = (1800, 1200)


def step(height, length=200.0):
    return Signal(tuple((2.0**-k, 0.32 * height, 0.0) for k in range(1, 7)), length, length * 8)


def test_sizes_are_read_as_they_are_written():
    size = parse_size("594x420mm@150dpi@700mm")
    assert (size.width, size.height, size.unit, size.dpi, size.distance) == (
        594,
        420,
        "mm",
        150,
        700,
    )
    assert size.scale(1800, 1200) == pytest.approx(
        min(594 / 25.4 * 150 / 1800, 420 / 25.4 * 150 / 1200)
    )
    assert size.scale(1200, 1800) == pytest.approx(size.scale(1800, 1200)), (
        "a print may be hung either way"
    )
    assert parse_size("1080px").scale(*FRAME) == pytest.approx(0.6)
    assert parse_size(None) is NATIVE and NATIVE.scale(*FRAME) == 1


@pytest.mark.parametrize(
    "text", ["", "1080", "x1080px", "0px", "420x0mm", "10mm@5dpi", "420x594mm@150dpi@1mm", "-3px"]
)
def test_other_sizes_are_refused(text):
    with pytest.raises(Refused):
        parse_size(text)


def test_fine_detail_is_not_seen_once_the_output_cannot_hold_it():
    fine = Signal(((0.5, 8.0, 0.0),), 100, 10_000)
    assert visibility(fine, NATIVE, FRAME) < visibility(fine, parse_size("3600px"), FRAME)
    assert visibility(fine, parse_size("600px"), FRAME) == 0


def test_a_grating_at_published_threshold_is_just_noticeable():
    # Half a per cent of contrast at the curve's peak, over a quarter square degree.
    ppd = NATIVE.pixels_per_degree
    grating = Signal(((7.9 / ppd, 0.5, 0.0),), ppd / 2, 0.25 * ppd**2)
    assert just_noticeable(grating, 1.0, ppd) == pytest.approx(1.0, rel=0.05)
    assert lightness_sensitivity(30) < 0.2 < lightness_sensitivity(7.9) == 1


def test_words_grow_with_the_flaw():
    words = [
        word(visibility(step(height), parse_size("594x420mm@150dpi@700mm"), FRAME))
        for height in (0.05, 1.2, 2.2, 20)
    ]
    assert words == ["not visible at this size", "faint", "clear", "glaring"]


@given(
    st.floats(0, 60),
    st.floats(0, 60),
    st.integers(200, 6000),
    st.integers(200, 6000),
    st.floats(10, 4000),
)
def test_severity_never_falls_with_strength_or_size(weak, strong, small, large, length):
    weak, strong = sorted((weak, strong))
    small, large = sorted((small, large))
    low, high = parse_size(f"{small}px"), parse_size(f"{large}px")
    assert (
        visibility(step(weak, length), low, FRAME)
        <= visibility(step(strong, length), low, FRAME) + 1e-12
    )
    assert (
        visibility(step(weak, length), low, FRAME)
        <= visibility(step(weak, length), high, FRAME) + 1e-12
    )
    assert 0 <= visibility(step(strong, length), high, FRAME) <= 1


def test_a_print_knows_how_large_a_pixel_is_on_paper():
    assert parse_size("594x420mm@150dpi@700mm").millimetres(6000, 4000) == pytest.approx(
        594 / 6000, rel=0.07
    )
    assert parse_size("297mm@300dpi").millimetres(3000, 2000) == pytest.approx(0.099)
    assert parse_size("1080px").millimetres(6000, 4000) is None
