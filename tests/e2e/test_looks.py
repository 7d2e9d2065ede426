"""Aids and the Spread, by keyboard: what is drawn is the core's, what is chosen is kept."""

from __future__ import annotations

import base64
import io
import re

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect
from walk import (
    SETTLED,
    STAGE,
    at_full_size,
    bench_of,
    drawn,
    middle,
    open_picture,
    patch_of,
    placed,
    settled,
    shows,
    soon,
    whole_of,
)

WHOLE = '[data-whole="true"]'


@pytest.fixture
def boat_shed(signed_in):
    page = signed_in()
    open_picture(page, "Boat shed")
    page.keyboard.press("1")
    settled(page)
    return page


def aided(image, name):
    return {**image, "tiles": f"/api/images/{image['id']}/aids/{name}/tiles/"}


def test_an_aid_shows_the_cores_own_tiles_on_the_sides_that_were_asked_for(boat_shed, no_barriers):
    page = boat_shed
    bench = bench_of(page)
    x, y, b = placed(page, bench)
    page.keyboard.press("z")
    expect(page.locator('[data-aid="fine-detail"]')).to_be_visible()
    page.keyboard.press("y")
    expect(page.locator('[data-aid="grain"]')).to_be_visible()
    expect(page.get_by_text("on one scale for both sides")).to_be_visible()
    expect(page.locator(WHOLE)).to_be_visible(timeout=60_000)
    settled(page)
    shows(page, patch_of(page, aided(b, "grain"), x, y, 80))
    page.keyboard.down("s")
    shows(page, patch_of(page, aided(bench["original"], "grain"), x, y, 80))
    page.keyboard.up("s")
    page.keyboard.press("0")
    expect(page.get_by_role("button", name="side A")).to_be_visible()
    # The aid is on A only: B is seen as it is.
    shows(page, patch_of(page, b, x, y, 80))
    page.keyboard.press("0")
    page.keyboard.press("w")
    first, second = (
        patch_of(page, bench["original"], x, y, 80),
        patch_of(page, aided(b, "grain"), x, y, 80),
    )
    shows(page, first, where=(slice(None), slice(22)))
    shows(page, second, where=(slice(None), slice(58, None)))
    no_barriers()
    page.keyboard.press("w")
    page.keyboard.press("z")
    shows(page, patch_of(page, b, x, y, 80))


def test_passing_through_an_aid_is_not_having_seen_it_at_100_per_cent(signed_in):
    page = signed_in()
    open_picture(page, "Boat shed")
    page.keyboard.press("z")
    expect(page.locator('[data-aid="fine-detail"]')).to_be_visible()
    page.keyboard.press("1")
    settled(page)
    page.keyboard.press("j")
    expect(page.get_by_text("Never seen at 100 %")).to_be_visible()


def frames(page):
    """What each stage shows, by its caption."""
    found = {}
    for figure in page.locator("figure").all():
        number = figure.get_attribute("data-attempt") or "original"
        found[number] = np.asarray(
            Image.open(io.BytesIO(figure.locator(STAGE).screenshot())).convert("RGB")
        ).astype(int)
    return found


def test_the_spread_shows_every_attempt_at_the_same_spot_in_the_machines_order(
    boat_shed, no_barriers
):
    page = boat_shed
    bench = bench_of(page)
    address = page.url
    page.keyboard.press("g")
    expect(page).to_have_url(re.compile("/regions/1/spread"))
    expect(page.locator("figure")).to_have_count(len(bench["attempts"]) + 1)
    numbers = {one["id"]: one["number"] for one in bench["attempts"]}
    assert [figure.get_attribute("data-attempt") for figure in page.locator("figure").all()] == [
        None,
        *[str(numbers[pk]) for pk in bench["regions"][0]["order"]],
    ]
    page.keyboard.press("1")
    expect(page.locator(SETTLED)).to_have_count(len(bench["attempts"]) + 1)
    images = {
        "original": bench["original"],
        **{str(one["number"]): one["image"] for one in bench["attempts"]},
    }
    # Where the first stands is found by its own pixels; all others must show theirs at that very
    # place.
    x, y, w, h = bench["regions"][0]["bbox"]
    side = 200
    left, top = int(x + w / 2) - side // 2, int(y + h / 2) - side // 2
    patches = {number: patch_of(page, image, left, top, side) for number, image in images.items()}

    def all_at_one_place():
        shown = frames(page)
        small = middle(shown["original"], 30)
        best = min(
            (np.abs(patches["original"][dy : dy + 60, dx : dx + 60] - small).mean(), dx, dy)
            for dy in range(62, 79)
            for dx in range(62, 79)
        )
        assert best[0] < 1
        for number, frame in shown.items():
            near = min(
                np.abs(
                    patches[number][best[2] + v : best[2] + v + 60, best[1] + u : best[1] + u + 60]
                    - middle(frame, 30)
                ).mean()
                for u in (-1, 0, 1)
                for v in (-1, 0, 1)
            )
            assert near < 1, number

    soon(page, all_at_one_place)
    no_barriers()
    first = page.locator("figure[aria-current=true]").get_attribute("data-attempt")
    page.keyboard.press("ArrowRight")
    expect(page.locator("figure[aria-current=true]")).not_to_have_attribute(
        "data-attempt", str(first)
    )
    second = page.locator("figure[aria-current=true]").get_attribute("data-attempt")
    page.keyboard.press("=")
    expect(page.locator("figure[aria-current=true]").get_by_text("picked")).to_be_visible()
    page.keyboard.press("g")
    expect(page).to_have_url(re.compile(rf"/pictures/\d+\?region=1&attempt={second}"))
    assert address.split("?")[0] == page.url.split("?")[0]


def test_blind_pairs_name_nothing_are_chosen_by_key_and_stand_beside_the_order(
    boat_shed, no_barriers
):
    page = boat_shed
    page.keyboard.press("g")
    expect(page.locator("figure").first).to_be_visible()
    page.keyboard.press("/")
    expect(page.get_by_role("main", name="A blind pair")).to_be_visible()
    chosen = lambda: int(
        re.search(
            r"(\d+) pairs? chosen by you",
            page.get_by_role("group", name="Which holds better?").inner_text(),
        )[1]
    )
    expect(page.get_by_text("chosen by you")).to_be_visible()
    before, pairs = chosen(), []
    for key in ("[", "]", "-"):
        expect(page.locator(SETTLED)).to_have_count(2)
        expect(page.get_by_role("button", name="left")).not_to_have_attribute(
            "aria-disabled", "true"
        )
        pairs.append([stage.get_attribute("data-image") for stage in page.locator(STAGE).all()])
        words = page.get_by_role("main").inner_text()
        assert "attempt" not in words and "Fortnimm" not in words and "hand" not in words
        page.keyboard.press(key)
        expect(
            page.get_by_text(re.compile(rf"\b{before + len(pairs)} pairs? chosen by you"))
        ).to_be_visible()
    assert len({frozenset(pair) for pair in pairs}) == 3
    no_barriers()
    page.keyboard.press("u")
    expect(page.get_by_text(re.compile(rf"\b{before + 2} pairs? chosen by you"))).to_be_visible()
    page.keyboard.press("/")
    expect(
        page.get_by_text(re.compile(rf"{before + 2} blind pairs; people and machine .*tau"))
    ).to_be_visible()
    expect(
        page.get_by_role(
            "img", name=re.compile("blind pairs: better than an average attempt")
        ).first
    ).to_be_visible()


def test_a_ruling_in_the_spread_is_the_cells_ruling_and_is_taken_back(boat_shed):
    page = boat_shed
    page.keyboard.press("g")
    expect(page.locator("figure").first).to_be_visible()
    at_full_size(page)
    now = page.locator("figure[aria-current=true]")
    for _ in range(2):
        before = str(now.get_attribute("data-attempt"))
        page.keyboard.press("ArrowRight")
        expect(now).not_to_have_attribute("data-attempt", before)
    # Ruled is once what is current stands there; before that a key says nothing.
    settled(now)
    expect(
        page.get_by_role("group", name="Ruling").get_by_role("button", name="rework")
    ).to_have_attribute("aria-disabled", "false")
    drawn(page)
    page.keyboard.press("l")
    expect(
        page.get_by_role("group", name="Ruling")
        .get_by_text(re.compile("region 1 in attempt [0-9]+: rework"))
        .first
    ).to_be_visible()
    # A second arrow may still have been under way when the first had settled: ruled is what is
    # current then.
    number = page.locator("figure[aria-current=true]").get_attribute("data-attempt")
    expect(
        page.get_by_role("group", name="Ruling")
        .get_by_text(f"region 1 in attempt {number}: rework")
        .first
    ).to_be_visible()
    cell = next(one for one in bench_of(page)["cells"] if one["verdict"])
    assert cell["verdict"]["ruling"] == "rework"
    page.keyboard.press("u")
    expect(page.get_by_role("button", name="take back")).to_have_count(0)

    def nothing_ruled():
        assert all(one["verdict"] is None for one in bench_of(page)["cells"])

    soon(page, nothing_ruled)


def png_of(page, which):
    return np.asarray(
        Image.open(
            io.BytesIO(
                base64.b64decode(page.locator(which).first.get_attribute("src").split(",")[1])
            )
        ).convert("RGB")
    ).astype(int)


def test_a_findings_evidence_is_a_picture_of_the_pixels_it_speaks_of_and_large_by_key(
    signed_in, no_barriers
):
    page = signed_in()
    open_picture(page, "Market hall")
    bench = bench_of(page)
    cells = {
        cell["attempt"]: cell["id"]
        for cell in bench["cells"]
        if cell["region"] == bench["regions"][0]["id"]
    }
    found = {
        one["id"]: page.evaluate(
            "async ([pk]) => (await fetch(`/api/cells/${pk}/`)).json()", [cells[one["id"]]]
        )["findings"]
        for one in bench["attempts"]
    }
    number, finding = next(
        (one, finding)
        for one in bench["attempts"]
        for finding in found[one["id"]]
        if finding["evidence"]["type"] == "detail"
    )
    page.goto(f"{page.url.split('?')[0]}?region=1&attempt={number['number']}")
    settled(page)
    page.get_by_role("button", name="show findings").click()
    row = page.locator(f"[data-finding='{finding['id']}']")
    expect(page.locator("[data-finding]").first).to_be_visible()
    while row.count() == 0:
        page.get_by_role("button", name=re.compile("more group")).click()
    if row.locator("button[aria-expanded=true]").count() == 0:
        row.locator("button").first.click()
    expect(page.locator("[data-evidence] img")).to_be_visible()
    # The right half of its upper row is the attempt around the finding, pixel for pixel.
    shown = png_of(page, "[data-evidence] img")
    x, y, w, h = finding["bbox"]
    wide, high = (shown.shape[1] - 4) // 2, (shown.shape[0] - 4) // 2
    whole = whole_of(page, number["image"])
    left, top = (
        int(np.clip(at + size / 2 - side / 2, 0, limit - side))
        for at, size, side, limit in ((x, w, wide, whole.shape[1]), (y, h, high, whole.shape[0]))
    )
    assert np.array_equal(shown[:high, wide + 4 :], whole[top : top + high, left : left + wide])
    curve = page.locator("[data-curve=spectrum]").first
    expect(curve.get_by_role("img", name=re.compile("px: .* inside, .* around"))).to_be_visible()
    page.keyboard.press(";")
    expect(page.get_by_role("dialog", name=f"{finding['kind']}, seen closely")).to_be_visible()
    assert np.array_equal(png_of(page, "[data-evidence-large] img"), shown)
    no_barriers()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
