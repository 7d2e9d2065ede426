"""Screens and open dialogs that no other test looks at for barriers: WCAG 2.2 AA by axe, no
exception.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect
from walk import SETTLED, STAGE, drawn, look_at_both_sides, open_picture, settled


@pytest.fixture
def bench(signed_in):
    page = signed_in()
    open_picture(page, "Market hall")
    return page


def test_the_bench_in_each_mode_has_no_barriers(bench, no_barriers):
    page = bench
    no_barriers()
    for key, mode in (("w", "wipe"), ("i", "difference"), ("t", "beat")):
        page.keyboard.press(key)
        expect(page.locator(f'[data-mode="{mode}"]')).to_be_visible()
        no_barriers()
        if mode == "difference":
            for _ in range(2):
                page.keyboard.press("r")
            expect(page.get_by_role("button", name=re.compile("CIEDE2000"))).to_be_visible()
            no_barriers()
        page.keyboard.press(key)
    page.keyboard.press("p")
    expect(page.get_by_role("table", name="the pinned spot")).to_be_visible()
    no_barriers()


def test_findings_their_evidence_and_what_changed_outside_have_no_barriers(bench, no_barriers):
    page = bench
    page.goto(f"{page.url.split('?')[0]}?region=1&attempt=1")
    settled(page)
    expect(page.get_by_role("heading", name="lettering in attempt 1")).to_be_visible()
    look_at_both_sides(page)
    page.keyboard.press("f")
    expect(page.locator("[data-evidence] img").first).to_be_visible()
    no_barriers()
    page.keyboard.press(";")
    expect(page.get_by_role("dialog")).to_be_visible()
    no_barriers()


def test_history_has_no_barriers(bench, no_barriers):
    bench.keyboard.press("h")
    expect(bench.get_by_role("dialog", name="What was said and done")).to_be_visible()
    no_barriers()


def test_an_expired_sign_in_has_no_barriers(bench, context, no_barriers):
    context.clear_cookies()
    bench.keyboard.press("h")
    expect(bench.get_by_role("dialog", name="Your sign-in has expired")).to_be_visible()
    no_barriers()


def test_an_address_with_nothing_and_a_picture_that_is_not_there_have_no_barriers(
    signed_in, no_barriers
):
    page = signed_in()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    page.goto("/nowhere")
    expect(page.get_by_text("There is nothing at this address")).to_be_visible()
    no_barriers()
    page.goto("/pictures/987654")
    expect(page.get_by_role("alert").or_(page.get_by_role("heading")).first).to_be_visible()
    drawn(page)
    no_barriers()


def test_the_spread_through_an_aid_and_narrow_have_no_barriers(bench, no_barriers):
    page = bench
    page.keyboard.press("g")
    expect(page.locator("figure").first).to_be_visible()
    page.keyboard.press("z")
    expect(page.locator(STAGE).first).to_be_visible()
    drawn(page)
    no_barriers()
    page.set_viewport_size({"width": 1024, "height": 700})
    expect(page.locator(SETTLED).first).to_be_visible()
    no_barriers()


def test_a_password_is_changed_in_a_dialog_without_barriers_and_a_wrong_one_is_said(
    signed_in, no_barriers
):
    page = signed_in()
    page.get_by_role("button", name=re.compile("Vera Lund")).click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("old password")).to_be_visible()
    no_barriers()
    dialog.get_by_label("old password").fill("not this one")
    dialog.get_by_label("new password").fill("a much longer one")
    dialog.get_by_role("button", name="change it").click()
    expect(dialog.get_by_role("alert")).to_contain_text("another one")
