"""The Desk where several supervise, words on rulings, and a new original that is looked at and left."""

from __future__ import annotations

import re

import cv2
from playwright.sync_api import expect
from walk import SETTLED, look_at_both_sides, open_picture

from demo import scenario
from zweiblick_core.io import read


def row(page, name):
    return page.get_by_role("listitem").filter(has_text=name)


def test_a_picture_is_taken_over_found_among_ones_own_and_handed_over_with_a_word(
    signed_in, no_barriers
):
    page = signed_in()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    page.get_by_role("button", name="take over Shed door, third shot").click()
    mine = row(page, "Shed door, third shot")
    expect(mine).to_contain_text("you are in charge")
    page.get_by_role("button", name="narrow it down").click()
    no_barriers()
    page.get_by_label("in charge", exact=True).select_option("you are in charge")
    expect(page.get_by_text(re.compile("^1 picture of"))).to_be_visible()
    page.get_by_role("button", name="hand over Shed door, third shot").click()
    dialog = page.get_by_role("dialog", name="Hand over Shed door, third shot")
    dialog.get_by_role("combobox", name="to", exact=True).select_option("Ines Dorn")
    dialog.get_by_label("a word with it").fill("The board moved between the shots.")
    no_barriers()
    dialog.get_by_role("button", name="hand it over").click()
    expect(page.get_by_text("No such pictures")).to_be_visible()
    page.get_by_role("button", name="show all").click()
    expect(mine).to_contain_text("Ines Dorn is in charge")
    # As it was.
    page.get_by_role("button", name="take over Shed door, third shot").click()
    expect(mine).to_contain_text("you are in charge")
    page.get_by_role("button", name="hand over Shed door, third shot").click()
    dialog.get_by_role("combobox", name="to", exact=True).select_option("whoever comes first")
    dialog.get_by_role("button", name="hand it over").click()
    expect(mine).not_to_contain_text("in charge")


def test_words_are_put_to_a_ruling_by_key_and_go_with_it(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Shed door, second shot")
    page.keyboard.press('"')
    expect(page.get_by_role("alert")).to_contain_text("words belong to a ruling")
    look_at_both_sides(page)
    page.keyboard.press("l")
    ruling = page.get_by_role("group", name="Ruling")
    expect(ruling.get_by_role("status")).to_contain_text("rework")
    page.keyboard.press('"')
    dialog = page.get_by_role(
        "dialog", name=re.compile(r"^Words on region 1 in attempt \d: rework")
    )
    dialog.get_by_label("in your words").fill("the hinge is gone too")
    no_barriers()
    page.keyboard.press("Control+Enter")
    expect(dialog).to_have_count(0)
    page.get_by_role("button", name=re.compile(r"region 1 .*attempt \d: rework")).first.click()
    expect(page.get_by_label("words on the ruling")).to_contain_text("the hinge is gone too")
    page.keyboard.press("u")
    expect(page.get_by_label("words on the ruling")).to_have_count(0)


def test_a_new_original_says_what_it_touches_before_it_is_taken(signed_in, no_barriers):
    page = signed_in()
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("link", name="Harbour Year").first.click()
    page.get_by_role("button", name="a new original for Shed door, third shot").click()
    dialog = page.get_by_role("dialog", name="A new original for Shed door, third shot")
    pixels = read(scenario.file_of("door-3")).pixels.copy()
    x, y, w, h = cv2.boundingRect(scenario.scene("door-3").regions[0].astype("uint8"))
    pixels[y + h // 2, x + w // 2] ^= 64
    dialog.get_by_label("the new original").set_input_files(
        {
            "name": "door-graded.png",
            "mimeType": "image/png",
            "buffer": cv2.imencode(".png", pixels[..., ::-1])[1].tobytes(),
        }
    )
    touched = dialog.get_by_role("group", name="Which regions does it touch?")
    expect(touched).to_contain_text("differs there", timeout=60_000)
    expect(touched.get_by_role("checkbox")).to_be_checked()
    expect(dialog.get_by_role("button", name="take it as the original")).to_be_visible()
    no_barriers()
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    page.get_by_role("link", name="bring pictures in").click()
    page.get_by_role("button", name="forget door-graded.png").click()
    expect(page.get_by_text("nothing waits")).to_be_visible()
    assert page.locator(SETTLED).count() == 0
