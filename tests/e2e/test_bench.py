"""The supervisor's way, by keyboard, in a real browser. Tests run in this order on one demo: later
ones find what earlier ones ruled.
"""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import expect
from walk import (
    at_full_size,
    choose_released,
    current,
    look_at_both_sides,
    middle,
    open_picture,
    seen,
    settled,
    soon,
    waylay,
)

from zweiblick_core.io import read


def test_sign_in_says_what_is_wrong_and_has_no_barriers(page, no_barriers):
    page.goto("/")
    expect(page.get_by_label("name")).to_be_visible()
    no_barriers()
    page.get_by_label("name").fill("vera")
    page.get_by_label("password").fill("wrong")
    page.get_by_label("password").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("do not go together")
    assert page.get_by_label("name").input_value() == "vera"


def test_the_desk_says_what_awaits_a_decision(signed_in, no_barriers):
    page = signed_in()
    # A pass comes over to what came back once that is examined.
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    expect(page.get_by_text(re.compile("checks? running"))).to_have_count(0, timeout=600_000)
    expect(page.get_by_role("link", name=re.compile("Warehouse row"))).to_contain_text(
        "2 of 2 regions undecided"
    )
    expect(page.get_by_text("17 regions in 11 pictures await your decision.")).to_be_visible()
    no_barriers()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("link", name=re.compile("Warehouse row"))).to_be_focused()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("link", name=re.compile("Boat shed"))).to_be_focused()
    for name in ("Market hall", "Quay railing", "Jetty"):
        expect(page.get_by_role("link", name=re.compile(name))).to_be_visible()


def test_the_bench_opens_on_the_first_undecided_region_in_its_best_attempt(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Warehouse row")
    expect(current(page)).to_have_attribute(
        "aria-label", re.compile("region 1 ladder, attempt 4: undecided; nothing found")
    )
    no_barriers()


def test_people_first_machine_second(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Warehouse row")
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    expect(current(page)).to_have_attribute("aria-label", re.compile("attempt 2"))
    expect(page.get_by_text("Look first")).to_be_visible()
    expect(page.locator("[data-finding]")).to_have_count(0)
    look_at_both_sides(page)
    expect(page.locator("[data-finding]").first).to_be_visible()
    expect(page.locator("[data-finding]").first).to_contain_text(re.compile("this one reads"))
    no_barriers()


def test_findings_are_walked_and_answered_by_key_and_answers_survive_a_reload(signed_in):
    page = signed_in()
    open_picture(page, "Boat shed")
    for _ in range(2):
        page.keyboard.press("ArrowLeft")
    expect(current(page)).to_have_attribute("aria-label", re.compile("attempt 2"))
    look_at_both_sides(page)
    expect(page.locator("[data-finding]").filter(has_text="repeat").first).to_be_visible()
    page.keyboard.press("c")
    expect(page.locator("[data-finding]").first).to_contain_text("sure; confirmed")
    with page.expect_response(re.compile("/answer/")) as told:
        page.keyboard.press("a")
    assert told.value.ok
    page.reload()
    settled(page)
    look_at_both_sides(page)
    expect(page.locator("[data-finding]").first).to_contain_text("sure; acceptable")
    page.keyboard.press("a")
    expect(page.locator("[data-finding]").first).to_contain_text("sure; unread")


@pytest.mark.parametrize(("key", "percent", "block"), [("1", "100", 1), ("2", "200", 2)])
def test_what_is_shown_is_the_right_pixel_of_the_right_image(signed_in, key, percent, block):
    """The middle of the stage at 100 % and 200 % is the attempt's own pixels; with the key held,
    the original's.
    """
    page = signed_in()
    open_picture(page, "Warehouse row")
    page.keyboard.press(key)
    expect(page.get_by_text(re.compile(f"^{percent} %$")).first).to_be_visible()
    bench = page.evaluate(
        "async () => (await fetch(location.pathname.replace('/pictures', '/api/pictures') + '/bench/')).json()"
    )
    region = bench["regions"][0]
    for image, hold in ((bench["attempts"][3]["image"], False), (bench["original"], True)):
        if hold:
            page.keyboard.down("s")
        tiles = f"{image['tiles']}full/max/0/default.png"
        tile = page.evaluate(
            """async (at) => { const out = []; for (const [x, y, w, h] of at.boxes) {
            const blob = await (await fetch(`${at.tiles}${x},${y},${w},${h}/${w},${h}/0/default.png`)).blob();
            out.push(await new Promise((done) => {
                const reader = new FileReader(); reader.onload = () => done(reader.result.split(',')[1]); reader.readAsDataURL(blob); })); } return out; }""",
            {"tiles": image["tiles"], "boxes": boxes(image["width"], image["height"])},
        )
        whole = assembled(tile, image["width"], image["height"])
        assert tiles and whole.shape[:2] == (image["height"], image["width"])
        x, y, w, h = region["bbox"]

        def found(whole=whole, at=(int(y + h / 2), int(x + w / 2))):
            """A patch around the region's middle, searched within two pixels of where it must lie
            and found exactly.
            """
            patch = middle(seen(page), 60)
            small = patch if block == 1 else patch.reshape(60, 2, 60, 2, 3).mean((1, 3))
            best = min(
                (
                    np.abs(
                        whole[at[0] + dy :, at[1] + dx :][: small.shape[0], : small.shape[1]]
                        - small
                    ).mean(),
                    dy,
                    dx,
                )
                for dy in range(-64 // block - 3, -56 // block + 4)
                for dx in range(-64 // block - 3, -56 // block + 4)
            )
            assert best[0] < (0.01 if block == 1 else 6), best

        soon(page, found)
        if hold:
            page.keyboard.up("s")


def boxes(width, height, tile=512):
    return [
        [x, y, min(tile, width - x), min(tile, height - y)]
        for y in range(0, height, tile)
        for x in range(0, width, tile)
    ]


def assembled(tiles, width, height):
    import base64

    whole = np.zeros((height, width, 3), int)
    for (x, y, w, h), data in zip(boxes(width, height), tiles, strict=True):
        whole[y : y + h, x : x + w] = read(base64.b64decode(data)).pixels
    return whole


def test_the_original_is_shown_while_the_key_is_held_and_never_longer(signed_in):
    page = signed_in()
    open_picture(page, "Warehouse row")
    before = seen(page)

    def differs(low, high):
        off = np.abs(seen(page) - before).mean()
        assert low < off < high, off

    page.keyboard.down("s")
    expect(page.locator('[data-side="A"]')).to_be_visible()
    soon(page, lambda: differs(1, 255))
    page.keyboard.up("s")
    expect(page.locator('[data-side="B"]')).to_be_visible()
    soon(page, lambda: differs(-1, 1.5))  # marks may have appeared


def test_ruling_folds_goes_on_takes_back_and_ends_with_done(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Warehouse row")
    page.keyboard.press("j")
    expect(page.get_by_role("alert")).to_contain_text("Never seen at 100 %")
    at_full_size(page)
    page.keyboard.press("j")
    expect(page.get_by_text("region 1 in attempt 4: passes")).to_be_visible()
    expect(current(page)).to_have_attribute("aria-label", re.compile("region 2 barrel, attempt 4"))
    for attempt in (1, 2, 3):
        expect(
            page.get_by_role(
                "button", name=re.compile(f"region 1 ladder, attempt {attempt}: not needed")
            )
        ).to_be_visible()
    expect(page.get_by_text("1 undecided")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_text("2 undecided")).to_be_visible()
    expect(current(page)).to_have_attribute(
        "aria-label", re.compile("region 1 ladder, attempt 4: undecided")
    )
    for region in (1, 2):
        expect(current(page)).to_have_attribute(
            "aria-label", re.compile(f"region {region} .*, attempt 4")
        )
        at_full_size(page)
        with page.expect_response(re.compile("/verdict/")):
            page.keyboard.press("j")
    expect(page.get_by_text("done: attempt 4 holds everywhere")).to_be_visible()
    page.keyboard.press("h")
    expect(page.get_by_role("dialog")).to_contain_text("verdict taken back")
    no_barriers()
    page.keyboard.press("Escape")
    page.reload()
    expect(page.get_by_text("done: attempt 4 holds everywhere")).to_be_visible()
    page.keyboard.press("q")
    expect(page.get_by_role("link", name=re.compile("Warehouse row"))).to_contain_text(
        "one attempt holds everywhere"
    )


def test_where_what_was_found_covers_half_the_region_one_ruling_is_offered(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Jetty")
    page.goto(f"{page.url.split('?')[0]}?region=2&attempt=1")
    settled(page)
    offer = page.get_by_role("button", name="does not hold")
    expect(offer).to_have_count(0)
    page.get_by_role("button", name="show findings").click()
    expect(
        page.get_by_text(re.compile("What was found covers [5-9][0-9] % of the region"))
    ).to_be_visible()
    no_barriers()
    with page.expect_response(re.compile("/verdict/")) as told:
        offer.click()
    assert told.value.ok
    with page.expect_response(re.compile("/verdict/")):
        page.keyboard.press("u")


def test_a_ruling_the_server_never_got_is_said_and_nothing_is_lost(signed_in):
    page = signed_in()
    open_picture(page, "Boat shed")
    waylay(page, re.compile("/verdict/"), lambda route: route.abort())
    page.keyboard.press("l")
    expect(page.get_by_role("alert")).to_contain_text("cannot be reached")
    page.unroute(re.compile("/verdict/"))
    expect(page.get_by_text("1 undecided")).to_be_visible()
    with page.expect_response(re.compile("/verdict/")):
        page.keyboard.press("l")
    expect(page.get_by_text(re.compile(": rework"))).to_be_visible()
    with page.expect_response(re.compile("/verdict/")):
        page.keyboard.press("u")
    expect(page.get_by_text("1 undecided")).to_be_visible()


def test_a_ruling_can_be_taken_back_before_the_server_has_answered(signed_in):
    page = signed_in()
    open_picture(page, "Boat shed")
    before = current(page).get_attribute("aria-label")
    asked = []

    def slowly(route):
        asked.append(route.request.method)
        page.wait_for_timeout(700)
        route.continue_()

    waylay(page, re.compile("/verdict/"), slowly)
    with page.expect_response(
        lambda answer: "/verdict/" in answer.url and answer.request.method == "DELETE"
    ):
        page.keyboard.press("l")
        page.keyboard.press("u")
    page.unroute(re.compile("/verdict/"))
    assert asked == ["POST", "DELETE"]
    expect(current(page)).to_have_attribute("aria-label", before)
    expect(page.get_by_text("1 undecided")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^take back"))).to_have_count(0)


def test_an_expired_sign_in_is_renewed_over_the_page(signed_in, context):
    page = signed_in()
    open_picture(page, "Boat shed")
    context.clear_cookies(name="zweiblick_session")
    page.keyboard.press("l")
    expect(page.get_by_role("dialog")).to_contain_text("sign-in has expired")
    page.get_by_label("password").fill("quellmuende")
    page.get_by_role("dialog").get_by_role("button", name="sign in").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    settled(page)
    expect(page.get_by_text("1 undecided")).to_be_visible()


def test_single_keys_can_be_changed_and_switched_off(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Boat shed")
    page.keyboard.press("?")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("one picture pixel on one screen pixel")
    no_barriers()
    dialog.get_by_label("key for: whole picture").fill("$")
    dialog.get_by_label("key for: 200 %").fill("$")
    expect(dialog.get_by_role("alert")).to_contain_text("already means")
    page.keyboard.press("Escape")
    page.keyboard.press("$")
    expect(page.get_by_role("button", name=re.compile("^whole"))).to_have_attribute(
        "aria-pressed", "true"
    )
    page.keyboard.press("?")
    dialog.get_by_label("single keys act").uncheck()
    page.keyboard.press("Escape")
    page.keyboard.press("3")
    expect(page.get_by_role("button", name=re.compile("^whole"))).to_have_attribute(
        "aria-pressed", "true"
    )


def test_the_size_judged_for_rewords_the_findings_without_a_new_check(signed_in):
    page = signed_in()
    open_picture(page, "Boat shed")
    page.keyboard.press("ArrowLeft")
    look_at_both_sides(page)
    before = page.locator("[data-finding]").first.inner_text()
    page.get_by_label("judged for").select_option(label="phone, 1080 px")
    expect(page.locator("[data-finding]").first).not_to_have_text(before)
    assert "size=" in page.url


@pytest.mark.parametrize("surround", ["dark", "light"])
def test_the_grey_around_the_picture_has_three_steps_without_barriers(
    signed_in, no_barriers, surround
):
    page = signed_in()
    open_picture(page, "Boat shed")
    page.keyboard.press("?")
    page.get_by_label(surround).check()
    no_barriers()
    page.keyboard.press("Escape")
    look_at_both_sides(page)
    no_barriers()


def test_a_retoucher_looks_and_does_not_rule(signed_in):
    page = signed_in("mona")
    open_picture(page, "Boat shed")
    expect(page.get_by_text("A supervisor rules here.")).to_be_visible()
    expect(page.get_by_role("button", name="rework")).to_have_count(0)
    page.keyboard.press("j")
    expect(page.get_by_text("1 undecided")).to_be_visible()


def test_a_guest_sees_released_pictures_and_nothing_else(signed_in, no_barriers):
    page = signed_in("archive")
    choose_released(page, "Boat shed")
    settled(page, 20_000)
    no_barriers()
    page.goto("/pictures/1")
    choose_released(page, "Boat shed")
    expect(page.get_by_text("undecided")).to_have_count(0)


def test_each_further_kind_has_its_evidence_and_what_changed_outside_stands_below(
    signed_in, no_barriers
):
    page = signed_in()
    open_picture(page, "Market hall")
    to = lambda number: page.get_by_role(
        "button", name=re.compile(f"region . [a-z ]+, attempt {number}: ")
    ).first.click()
    to(5)
    look_at_both_sides(page)
    outside = page.get_by_role("region", name="Outside every region")
    expect(outside).to_contain_text("overreach")
    outside.locator("[data-outside] button").first.click()
    expect(outside).to_contain_text("levels against the original")
    settled(page)
    no_barriers()
    expect(outside).to_contain_text("It holds this attempt up")
    page.keyboard.press("a")
    expect(outside).to_contain_text("acceptable, said Vera")
    expect(outside).not_to_contain_text("It holds this attempt up")
    page.keyboard.press("a")
    expect(outside).to_contain_text("It holds this attempt up")
    expect(page.locator("[data-finding]").filter(has_text="soft").first).to_be_visible()
    to(6)
    look_at_both_sides(page)
    residue = page.locator("[data-finding]").filter(has_text="residue").first
    expect(residue).to_be_visible()
    expect(
        page.get_by_text("pixels here are still the original's, and look like the thing").first
    ).to_be_visible()
    no_barriers()
