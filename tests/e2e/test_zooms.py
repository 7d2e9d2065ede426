"""At every zoom and in every mode: the right pixel of the right image."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import expect
from walk import (
    SETTLED,
    STAGE,
    bench_of,
    off_by,
    on_screen,
    open_picture,
    seen,
    soon,
    view_of,
    whole_of,
)

#: Zooms by their keys, and half the side of the square that is compared, screen pixels.
ZOOMS = {"1": 40, "2": 60, "3": 40, "4": 14, "5": 8}


@pytest.fixture
def boat_shed(signed_in):
    page = signed_in()
    open_picture(page, "Boat shed")
    page.keyboard.down("d")  # no marks over the pixels
    bench = bench_of(page)
    shown = page.locator(STAGE).get_attribute("data-image")
    b = next(one["image"] for one in bench["attempts"] if str(one["image"]["id"]) == shown)
    return page, bench, b


def place_of(page, bench, shape):
    """Where the first region's middle is on screen."""
    cx, cy, scale = view_of(page)
    x, y, w, h = bench["regions"][0]["bbox"]
    return (x + w / 2 - cx) / scale + shape[1] / 2, (y + h / 2 - cy) / scale + shape[0] / 2


def is_at(page, whole, at, half, most, which=STAGE):
    """A square of the stage shows this image's own pixels, soon, and at no place beside it as well;
    `at`: from the stage's shape to the square's middle.
    """

    def claim():
        shown = seen(page, which)
        here, aside = off_by(
            shown, on_screen(whole, view_of(page), shown.shape), at(shown.shape), half
        )
        assert here < most and here < 0.75 * aside, (here, aside)
        return here

    return soon(page, claim)


@pytest.mark.parametrize("key", list(ZOOMS))
def test_each_mode_shows_the_right_pixels_at_this_zoom(boat_shed, key):
    page, bench, b = boat_shed
    half = ZOOMS[key]
    page.keyboard.press(key)
    expect(page.locator(SETTLED).last).to_be_visible()
    place = lambda shape: place_of(page, bench, shape)
    original, result = whole_of(page, bench["original"]), whole_of(page, b)
    # Larger than life is drawn between pixels, smaller from a coarser level: what is exact is said
    # by the nearest.
    most = 1.0 if key == "1" else 5.0

    first = is_at(page, result, place, half, most)
    shown = seen(page)
    other, _ = off_by(
        shown, on_screen(original, view_of(page), shown.shape), place(shown.shape), half
    )
    assert other > 2 * first + 1

    page.keyboard.down("s")
    is_at(page, original, place, half, most)
    page.keyboard.up("s")

    page.keyboard.press("w")
    for side, whole in ((-1, original), (1, result)):
        # Beside the line, and clear of its grip.
        is_at(
            page,
            whole,
            lambda shape, side=side: (shape[1] / 2 + side * (half + 16), place(shape)[1]),
            half,
            most,
        )
    page.keyboard.press("w")

    page.keyboard.press("i")
    expect(page.get_by_text(re.compile("× [0-9]+")).first).to_be_visible()
    while page.get_by_text("× 1", exact=True).count() == 0:
        page.keyboard.press(",")

    def the_difference():
        shown = seen(page)
        here, aside = off_by(
            shown,
            on_screen(np.abs(result - original), view_of(page), shown.shape),
            place(shown.shape),
            half,
        )
        assert here < most + 2 and here < aside

    soon(page, the_difference)
    page.keyboard.press("i")

    page.keyboard.press("v")
    expect(page.locator(STAGE)).to_have_count(2)
    # The stages are half as wide and share the view; the middle is where the region is but for
    # "whole".
    is_at(page, result, place, min(half, 30), most)
    is_at(page, original, place, min(half, 30), most, f"{STAGE} >> nth=0")
    page.keyboard.press("v")
    expect(page.locator(STAGE)).to_have_count(1)


@pytest.mark.parametrize("key", list(ZOOMS))
def test_an_aid_shows_the_cores_pixels_at_this_zoom(boat_shed, key):
    page, bench, b = boat_shed
    page.keyboard.press(key)
    page.keyboard.press("z")
    expect(page.locator("[data-aid]")).to_be_visible()
    expect(page.locator('[data-whole="true"]')).to_be_visible(timeout=60_000)
    expect(page.locator(SETTLED).last).to_be_visible()
    name = page.locator("[data-aid]").get_attribute("data-aid")
    aided = whole_of(page, {**b, "tiles": f"/api/images/{b['id']}/aids/{name}/tiles/"})
    is_at(
        page,
        aided,
        lambda shape: place_of(page, bench, shape),
        ZOOMS[key],
        1.0 if key == "1" else 5.0,
    )


@pytest.mark.parametrize("key", list(ZOOMS))
def test_every_frame_of_the_spread_shows_its_own_image_at_the_same_place_at_this_zoom(
    boat_shed, key
):
    page, bench, _ = boat_shed
    page.keyboard.press("g")
    expect(page.locator("figure")).to_have_count(len(bench["attempts"]) + 1)
    page.keyboard.press(key)
    expect(page.locator(SETTLED)).to_have_count(len(bench["attempts"]) + 1)
    images = {
        None: bench["original"],
        **{str(one["number"]): one["image"] for one in bench["attempts"]},
    }
    x, y, w, h = bench["regions"][0]["bbox"]
    for number, figure in enumerate(page.locator("figure").all()):
        stage = f"figure >> nth={number} >> {STAGE}"
        whole = whole_of(page, images[figure.get_attribute("data-attempt")])

        def its_own(stage=stage, whole=whole, number=number):
            shown, view = seen(page, stage), view_of(page, stage)
            at = (
                (x + w / 2 - view[0]) / view[2] + shown.shape[1] / 2,
                (y + h / 2 - view[1]) / view[2] + shown.shape[0] / 2,
            )
            half = min(ZOOMS[key], 24, *(int(side / view[2] / 2) + 6 for side in (w, h)))
            here, aside = off_by(shown, on_screen(whole, view, shown.shape), at, half)
            assert here < 6 and here < aside, (number, here, aside)

        soon(page, its_own)
    assert (
        len({view_of(page, f"figure >> nth={number} >> {STAGE}") for number in range(len(images))})
        == 1
    )
