"""A guest says something of a released picture, a supervisor answers; in a real browser."""

from __future__ import annotations

import re

from playwright.sync_api import expect
from walk import STAGE, choose_released, open_picture, settled


def test_a_guest_marks_a_place_and_is_answered(signed_in, no_barriers):
    page = signed_in("archive")
    choose_released(page, "Boat shed")
    settled(page, 30_000)
    stage = page.locator(STAGE)
    page.keyboard.down("s")
    expect(stage).to_have_attribute("aria-label", "Boat shed, before")
    page.keyboard.up("s")
    expect(stage).to_have_attribute("aria-label", "Boat shed")
    remarks = page.get_by_role("region", name="Remarks")
    expect(remarks.get_by_label("of the whole picture")).to_be_visible()
    box = stage.bounding_box()
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    remarks.get_by_label("of the marked place").fill("The board looks newer there.")
    no_barriers()
    remarks.get_by_role("button", name="say it").click()
    expect(remarks).to_contain_text("The board looks newer there.")
    expect(remarks).to_contain_text("not answered yet")
    page.context.clear_cookies()

    signed_in("vera")
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    open_picture(page, "Boat shed")
    page.goto(f"{page.url.split('?')[0]}/sign-off")
    said = page.get_by_role("region", name="Remarks of guests")
    expect(said).to_contain_text("The board looks newer there.")
    expect(said).to_contain_text(re.compile("a finding in folding sign"))
    no_barriers()
    said.get_by_label("answer").fill("It was repainted last year.")
    said.get_by_role("button", name="answer it").click()
    expect(said).to_contain_text("answered: It was repainted last year.")
    page.context.clear_cookies()

    page.goto("/")
    signed_in("archive")
    choose_released(page, "Boat shed")
    expect(page.get_by_role("region", name="Remarks")).to_contain_text(
        "It was repainted last year."
    )
