"""A trial from the Bench in a real browser: methods run, become attempts, are shown and examined."""

from __future__ import annotations

import re

from playwright.sync_api import expect
from walk import bench_of, current, open_picture, settled, soon


def test_two_methods_are_tried_and_become_attempts_that_are_shown(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Quay railing")
    before = len(bench_of(page)["attempts"])
    page.keyboard.press("*")
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("heading")).to_contain_text("A trial on 1 scaffold pole")
    expect(dialog.get_by_label("straight copy")).to_be_disabled()
    expect(dialog.get_by_role("list", name="Methods")).to_contain_text("worth a trial")
    dialog.get_by_label("flow diffusion").check()
    dialog.get_by_label("neighbourhood").fill("3")
    dialog.get_by_label("gradient fill").check()
    no_barriers()
    runs = dialog.get_by_role("region", name="Runs")
    done = runs.locator("[data-state=done]")
    already = done.count()
    dialog.get_by_role("button", name="run 2").click()
    expect(done).to_have_count(already + 2, timeout=120_000)
    row = done.filter(has_text="gradient fill").first
    number = row.get_by_text(re.compile(r"^attempt \d+$")).inner_text()
    row.get_by_role("button", name="show it").click()
    expect(dialog).to_have_count(0)
    settled(page, 30_000)
    expect(current(page)).to_have_attribute("aria-label", re.compile(rf"{number}\b"))

    def both():
        made = bench_of(page)["attempts"][before:]
        assert {one["method"] for one in made} == {"flow diffusion", "gradient fill"}
        return made

    made = soon(page, both)
    assert {one["kind"] for one in made} == {"built in"}
    radius = [one["settings"].get("radius") for one in made if one["method"] == "flow diffusion"]
    assert radius == [3]


def test_what_changed_outside_is_put_back_by_one_key(signed_in):
    page = signed_in()
    open_picture(page, "Market hall")
    number = next(
        one["number"]
        for one in bench_of(page)["attempts"]
        if one["check_of"] and one["check_of"]["outside"]
    )
    page.goto(f"{page.url.split('?')[0]}?region=1&attempt={number}")
    settled(page, 30_000)
    page.get_by_role("button", name="show findings").click()
    expect(page.get_by_role("region", name="Outside every region")).to_be_visible()
    page.keyboard.press("'")
    runs = page.get_by_role("dialog").get_by_role("region", name="Runs")
    expect(runs).to_contain_text("original put back outside")
    expect(runs.locator("[data-state=done]").first).to_be_visible(timeout=120_000)
    made = bench_of(page)["attempts"][-1]
    assert made["method"] == "original put back outside"


def test_a_removal_is_ordered_outside_once_it_was_seen_what_leaves(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Quay railing")
    before = len(bench_of(page)["attempts"])
    page.keyboard.press("*")
    outside = page.get_by_role("dialog").get_by_role("region", name="Outside service")
    expect(outside).to_contain_text("this job is for a paying client", timeout=30_000)
    expect(outside.get_by_label("credits that this job may spend")).to_have_value("40")
    spent = lambda: int(re.search(r"(\d+) of", outside.inner_text())[1])
    already = spent()
    outside.get_by_role("button", name="show what leaves").click()
    expect(outside).to_contain_text("No name, no place, no date, no profile goes along.")
    no_barriers()
    outside.get_by_role("button", name="let it leave for 3 credits").click()
    orders = outside.get_by_role("table", name="Orders")
    expect(orders.locator("[data-state=done]").get_by_role("button")).to_have_count(
        3, timeout=120_000
    )
    expect(outside).to_contain_text(f"{already + 3} of")
    orders.get_by_role("button").first.click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    made = bench_of(page)["attempts"][before:]
    assert {one["method"] for one in made} == {"Fortnimm"}
    page.keyboard.press("h")
    expect(page.get_by_role("dialog")).to_contain_text("left the house")
