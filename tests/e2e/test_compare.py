"""Comparing A and B by keyboard: in every way and at every zoom what is shown is the right pixel of
the right image.
"""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import expect
from walk import (
    SETTLED,
    STAGE,
    bench_of,
    middle,
    open_picture,
    patch_of,
    placed,
    seen,
    settled,
    shows,
    soon,
)


@pytest.fixture
def at_rest(signed_in):
    """The boat shed's third attempt (by a service), at 100 %."""
    page = signed_in()
    open_picture(page, "Boat shed")
    page.keyboard.press("1")
    settled(page)
    page.keyboard.press("d")
    return page


def test_beat_alternates_slowly_enough_and_stops_by_its_key(at_rest):
    page = at_rest
    page.evaluate("""() => { window.every = []; const real = window.setInterval;
        window.setInterval = (does, after, ...rest) => { window.every.push(after); return real(does, after, ...rest); };
        const at = document.querySelector('[data-side]'); window.turns = [at.dataset.side];
        new MutationObserver(() => { if (at.dataset.side !== window.turns.at(-1)) window.turns.push(at.dataset.side); }).observe(at, { attributes: true }); }""")
    page.keyboard.press("t")
    expect(page.locator('[data-mode="beat"]')).to_be_visible()

    def turned():
        assert page.evaluate("window.turns.length") >= 5

    soon(page, turned, 60)
    assert page.evaluate("window.turns.slice(0, 5)") == ["B", "A", "B", "A", "B"]
    # What flashes more than three times a second can do harm: each side is asked to stay for a
    # third of a second at the least.
    every = page.evaluate("window.every")
    assert every and min(every) >= 334
    page.keyboard.press("t")
    expect(page.locator('[data-side="B"]')).to_be_visible()
    expect(page.locator('[data-mode="one"]')).to_be_visible()


@pytest.mark.parametrize("angle", [0, 90, 45])
def test_the_wipe_shows_a_on_its_side_of_the_line_and_b_on_the_other(at_rest, angle):
    page = at_rest
    bench = bench_of(page)
    x, y, b = placed(page, bench)
    page.keyboard.press("w")
    for _ in range(angle // 15):
        page.keyboard.press("r")
    expect(page.locator(f'[data-wipe="0.50 {angle}"]')).to_be_visible()
    first, second = patch_of(page, bench["original"], x, y, 80), patch_of(page, b, x, y, 80)
    rows, columns = np.mgrid[:80, :80] - 39.5
    off = columns * np.cos(np.radians(angle)) + rows * np.sin(np.radians(angle))
    # The line and its grip cover the middle itself.
    clear = np.hypot(rows, columns) > 14
    shows(page, first, where=(off < -4) & clear)
    shows(page, second, where=(off > 4) & clear)
    page.keyboard.press(".")
    expect(page.locator(f'[data-wipe="0.55 {angle}"]')).to_be_visible()


@pytest.mark.parametrize(("turns", "measure"), [(0, "absolute"), (1, "signed")])
def test_the_difference_is_that_of_the_two_images_pixels_amplified(at_rest, turns, measure):
    page = at_rest
    bench = bench_of(page)
    x, y, b = placed(page, bench)
    page.keyboard.press("i")
    for _ in range(turns):
        page.keyboard.press("r")
    page.keyboard.press(".")
    expect(page.get_by_role("button", name=re.compile(measure))).to_be_visible()
    expect(page.get_by_text("× 8")).to_be_visible()
    first, second = patch_of(page, bench["original"], x, y, 80), patch_of(page, b, x, y, 80)
    wanted = (
        np.clip(np.abs(second - first) * 8, 0, 255)
        if measure == "absolute"
        else np.clip(128 + (second - first) * 8, 0, 255)
    )
    shows(page, wanted, 0.5)
    page.keyboard.press("i")
    shows(page, second)


def test_beside_moves_in_step_and_keeps_its_place(at_rest, no_barriers):
    page = at_rest
    bench = bench_of(page)
    x, y, b = placed(page, bench)
    page.keyboard.press("v")
    expect(page.locator(STAGE)).to_have_count(2)
    whole = patch_of(page, bench["original"], x - 8, y - 8, 96), patch_of(page, b, x - 8, y - 8, 96)

    def both_in_step():
        shown = (middle(seen(page, f"{STAGE} >> nth=0"), 30), middle(seen(page), 30))
        fits = [
            min(
                (np.abs(image[dy : dy + 60, dx : dx + 60] - one).mean(), dx, dy)
                for dy in range(8, 29)
                for dx in range(8, 29)
            )
            for image, one in zip(whole, shown, strict=True)
        ]
        # Both show their own image at the same place, which is where the one stage stood.
        assert (
            fits[0][0] < 1.0
            and fits[1][0] < 1.0
            and abs(fits[0][1] - fits[1][1]) <= 1
            and fits[0][2] == fits[1][2]
        )

    soon(page, both_in_step)
    no_barriers()
    page.keyboard.press("v")
    expect(page.locator(STAGE)).to_have_count(1)


def test_any_attempt_can_be_a_and_a_follows_the_walk(at_rest):
    page = at_rest
    bench = bench_of(page)
    page.keyboard.press("x")
    side = page.get_by_label("side A")
    assert side.input_value() == str(
        next(a["id"] for a in bench["attempts"] if a["id"] != int_of(page, bench))
    )
    page.keyboard.down("s")
    held = next(a["image"]["id"] for a in bench["attempts"] if str(a["id"]) == side.input_value())
    expect(page.locator(f'{STAGE}[data-image="{held}"]')).to_be_visible()
    page.keyboard.up("s")


def test_turned_round_the_original_is_b_and_nothing_is_ruled_on_that_is_not_on_the_stage(
    signed_in, no_barriers
):
    page = signed_in()
    open_picture(page, "Boat shed")
    page.keyboard.press("1")
    settled(page)
    bench = bench_of(page)
    judged = next(a for a in bench["attempts"] if a["id"] == int_of(page, bench))
    x, y, b = placed(page, bench)
    image_of = lambda: page.locator(STAGE).get_attribute("data-image")
    page.keyboard.press("\\")
    expect(page.get_by_label("side B", exact=True)).to_have_value("")
    expect(page.locator('[data-side="B"]')).to_have_text("B original")
    expect(page.locator(f'{SETTLED}[data-image="{bench["original"]["id"]}"]')).to_be_visible()
    # The original alone is no ground for a ruling, nor does it uncover the findings; with the
    # attempt, which is A now, both sides were seen.
    assert (
        page.get_by_role("group", name="Ruling")
        .get_by_role("button", name="rework")
        .get_attribute("aria-disabled")
        == "true"
    )
    expect(page.get_by_text("is not on the stage")).to_be_visible()
    no_barriers()
    page.keyboard.down("s")
    expect(page.locator(f'{SETTLED}[data-image="{judged["image"]["id"]}"]')).to_be_visible()
    assert (
        page.get_by_role("group", name="Ruling")
        .get_by_role("button", name="rework")
        .get_attribute("aria-disabled")
        == "false"
    )
    page.keyboard.up("s")
    expect(page.get_by_text("show findings")).to_have_count(0)
    assert image_of() == str(bench["original"]["id"])
    # In the wipe the sides have changed too: the attempt on A's, the original beyond.
    page.keyboard.press("w")
    page.keyboard.down("d")
    first, second = patch_of(page, b, x, y, 80), patch_of(page, bench["original"], x, y, 80)
    columns = np.broadcast_to(np.arange(80) - 39.5, (80, 80))
    clear = np.hypot(columns, columns.T) > 14
    shows(page, first, where=(columns < -4) & clear)
    shows(page, second, where=(columns > 4) & clear)
    page.keyboard.up("d")
    page.keyboard.press("w")
    page.keyboard.press("x")
    other = page.get_by_label("side B", exact=True).input_value()
    expect(
        page.locator(
            f'[data-image="{next(a["image"]["id"] for a in bench["attempts"] if str(a["id"]) == other)}"]'
        )
    ).to_be_visible()
    page.keyboard.press("\\")
    expect(page.get_by_label("side A", exact=True)).to_have_value(other)
    assert image_of() == str(judged["image"]["id"])


def int_of(page, bench):
    shown = page.locator(STAGE).get_attribute("data-image")
    return next(a["id"] for a in bench["attempts"] if str(a["image"]["id"]) == shown)


def test_a_pinned_spot_is_read_in_both_images_and_moved_by_key(at_rest, no_barriers):
    page = at_rest
    bench = bench_of(page)
    page.keyboard.press("p")
    table = page.get_by_role("table", name="the pinned spot")
    expect(table).to_be_visible()

    def agrees():
        x, y = (
            int(value)
            for value in page.locator("[data-spot]").get_attribute("data-spot").split(",")
        )
        shown = int_of(page, bench)
        b = next(a["image"] for a in bench["attempts"] if a["id"] == shown)
        for side, image in (("A", bench["original"]), ("B", b)):
            wanted = patch_of(page, image, x, y, 1)[0, 0]
            assert page.locator(f'[data-side-srgb="{side}"]').inner_text() == " ".join(
                map(str, wanted)
            )
        return x, y

    first = agrees()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Shift+ArrowUp")
    expect(page.locator(f'[data-spot="{first[0] + 3},{first[1] - 1}"]')).to_be_visible()
    agrees()
    no_barriers()
    # The cell did not change: those keys are the spot's while Shift is down.
    assert int_of(page, bench) == next(
        a["id"]
        for a in bench["attempts"]
        if str(a["image"]["id"]) == page.locator(STAGE).get_attribute("data-image")
    )
    page.keyboard.press("p")
    expect(page.get_by_role("table", name="the pinned spot")).to_have_count(0)
