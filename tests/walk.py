"""Ways through the browser that its tests share."""

from __future__ import annotations

import re

from playwright.sync_api import expect

SETTLED = '[role=img][data-settled="true"]'


def open_picture(page, name):
    expect(page.get_by_role("heading", name="Desk")).to_be_visible(timeout=30_000)
    expect(page.get_by_text(re.compile("checks? running"))).to_have_count(0, timeout=300_000)
    page.get_by_role("link", name=re.compile(name)).click()
    expect(page.locator(SETTLED)).to_be_visible(timeout=20_000)


def current(page):
    return page.locator('table [aria-current="true"]')


def look_at_both_sides(page):
    page.keyboard.down("s")
    expect(page.locator('[data-side="A"]')).to_be_visible()
    expect(page.locator(SETTLED)).to_be_visible()
    page.wait_for_timeout(150)
    page.keyboard.up("s")
    expect(page.locator('[data-side="B"]')).to_be_visible()
    expect(page.locator(SETTLED)).to_be_visible()
