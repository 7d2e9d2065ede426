"""A run through what is undecided; in a real browser, by the keys."""

from __future__ import annotations

import re

from playwright.sync_api import expect
from walk import settled


def test_a_run_goes_from_one_undecided_region_to_the_next_and_back_by_one_key(
    signed_in, no_barriers
):
    page = signed_in()
    # What is not examined yet is in no run.
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    expect(page.get_by_text(re.compile("checks? running"))).to_have_count(0, timeout=600_000)
    page.get_by_label("in which order to run").select_option("surest first")
    page.get_by_role("button", name="run through them").click()
    run = page.get_by_role("group", name="Run")
    expect(run).to_contain_text(re.compile("0 of [0-9]+ ruled"))
    expect(run).to_contain_text(re.compile("likely: |asked in full"))
    settled(page, 30_000)
    no_barriers()
    first = page.url
    page.keyboard.press("l")
    expect(run).to_contain_text(re.compile("1 of [0-9]+ ruled"))
    expect(page).not_to_have_url(first)
    settled(page, 30_000)
    # The last ruling stands in another picture: one key goes there and takes it back.
    page.keyboard.press("u")
    expect(run).to_contain_text(re.compile("0 of [0-9]+ ruled"))
    expect(page).to_have_url(first)
    settled(page, 30_000)
    run.get_by_role("link", name="end the run").click()
    expect(page.get_by_role("heading", name="Run")).to_be_visible()
    expect(page.get_by_role("region", name="Agreement")).to_contain_text("nothing is known")
    expect(page.get_by_role("link", name="go on with it")).to_be_visible()
    no_barriers()
