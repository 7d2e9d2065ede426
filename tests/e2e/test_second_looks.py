"""Asking somebody else, and letting a thing stay; in a real browser."""

from __future__ import annotations

from playwright.sync_api import expect
from walk import at_full_size, open_picture, settled

PICTURE = "Shed door, third shot"


def findings(page):
    return page.get_by_role("region", name="Findings")


def test_another_supervisor_rules_without_seeing_the_first_and_then_both_are_shown(
    signed_in, no_barriers
):
    page = signed_in()
    open_picture(page, PICTURE)
    page.keyboard.press("@")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("whom").select_option(label="Ines Dorn, supervisor")
    dialog.get_by_label("what about it").fill("Is the left edge straight?")
    no_barriers()
    dialog.get_by_role("button", name="ask Ines Dorn").click()
    expect(findings(page)).to_contain_text("Ines Dorn is asked: “Is the left edge straight?”")
    expect(page.locator('[data-state="asked"]')).to_have_count(1)
    no_barriers()
    page.context.clear_cookies()

    signed_in("ines")
    row = page.get_by_role("link", name=PICTURE)
    expect(row).to_contain_text("your second look is waited for at 1 region")
    page.get_by_label("what they need").select_option(label="your second look is waited for")
    row.click()
    settled(page, 30_000)
    expect(findings(page)).to_contain_text("Vera Lund asks you: “Is the left edge straight?”")
    at_full_size(page)
    page.keyboard.press("l")
    expect(findings(page)).to_contain_text("Ines Dorn, asked by Vera Lund: rework")
    page.context.clear_cookies()

    page.goto("/")
    signed_in()
    open_picture(page, PICTURE)
    expect(findings(page)).to_contain_text("Ines Dorn, asked by Vera Lund: rework")


def test_a_thing_that_stays_makes_its_region_none_until_it_is_taken_in_again(
    signed_in, no_barriers
):
    page = signed_in()
    open_picture(page, "Crowded deck")
    rows = page.get_by_role("table", name="Ledger: regions down, attempts across").locator(
        "tbody th"
    )
    before = rows.count()
    page.keyboard.press("_")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("why").fill("The harbour office wants it.")
    no_barriers()
    dialog.get_by_role("button", name="it stays").click()
    stays = page.get_by_role("list", name="What stays, and what was withdrawn")
    expect(stays).to_contain_text("said Vera Lund: “The harbour office wants it.”")
    expect(rows).to_have_count(before - 1)
    no_barriers()
    stays.get_by_role("button", name="take it in again").click()
    expect(stays).to_have_count(0)
    expect(rows).to_have_count(before)
