"""Cold looks, flaws of one's own, the client's bar, what changed, assembling, and the size as
delivered, by keyboard.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect
from walk import STAGE, bench_of, current, drawn, look_at_both_sides, open_picture, settled


def at(page, name):
    open_picture(page, name)
    page.keyboard.press("1")
    settled(page)


def test_a_cold_look_shows_no_name_is_uncovered_and_counted(signed_in, no_barriers):
    page = signed_in("mona")
    page.get_by_role("link", name="Desk", exact=True).click()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    expect(page.get_by_text("not opened yet").first).to_be_visible()
    unseen = page.get_by_text("not opened yet").count()
    no_barriers()
    page.keyboard.press("8")
    settled(page)
    expect(page.locator('[data-cold="true"]')).to_be_visible()
    main = page.get_by_role("main", name="The picture")
    assert page.locator(STAGE).get_attribute("aria-label") == "a picture, alone" and not re.search(
        "Warehouse|Boat|Market|Quay|Jetty", page.content().split("<main")[1]
    )
    page.keyboard.press("r")
    expect(page.get_by_role("button", name="mirrored")).to_have_attribute("aria-pressed", "true")
    for _ in range(2):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.get_by_text("1 place so far")).to_be_visible()
    main.click(position={"x": 500, "y": 300})
    expect(page.get_by_text("2 places so far")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_text("1 place so far")).to_be_visible()
    no_barriers()
    page.keyboard.press("n")
    outcome = page.get_by_role("list", name="What came of it")
    expect(outcome).to_contain_text(re.compile(r"noticed in [01] of \d+ cold looks?"))
    no_barriers()
    page.keyboard.press("n")
    expect(page.get_by_text(re.compile(r"^2 of \d+$"))).to_be_visible()
    page.keyboard.press("q")
    expect(page.get_by_text("not opened yet")).to_have_count(unseen - 1)


def test_verdicts_are_given_from_the_cold_look_and_taken_back(signed_in, no_barriers):
    page = signed_in()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    page.keyboard.press("8")
    settled(page)
    page.keyboard.press("n")
    ruling = page.get_by_role("group", name="Ruling")
    expect(ruling).to_contain_text(re.compile(r"region \d+ in attempt \d+"))
    page.keyboard.press("ArrowRight")
    page.keyboard.press("3")
    drawn(page)
    settled(page)
    page.keyboard.press("l")
    expect(ruling.get_by_role("status")).to_contain_text(": rework")
    no_barriers()
    page.keyboard.press("u")
    expect(ruling.get_by_role("status")).to_have_count(0)


def test_an_own_flaw_is_outlined_by_key_counted_and_taken_back(signed_in, no_barriers):
    page = signed_in()
    at(page, "Boat shed")
    page.keyboard.press("p")
    expect(page.get_by_role("table", name="the pinned spot")).to_be_visible()
    page.keyboard.press("+")
    form = page.get_by_role("form", name="A flaw of your own")
    expect(form).to_be_visible()
    page.get_by_role("button", name=re.compile("ring around")).press("Enter")
    form.get_by_label("what it is").select_option("lost")
    form.get_by_label("glaring").check()
    form.get_by_label("in your words").fill("the latch is gone")
    no_barriers()
    form.get_by_role("button", name="mark it").press("Enter")
    seen = page.get_by_role("region", name="Seen by people")
    expect(seen).to_contain_text("lost, glaring at wall calendar, A2")
    expect(current(page)).to_have_attribute("aria-label", re.compile("worst: lost, glaring"))
    no_barriers()
    seen.get_by_role("button", name="take it back").press("Enter")
    expect(seen).to_have_count(0)
    expect(current(page)).not_to_have_attribute("aria-label", re.compile("lost"))


def test_an_outline_is_drawn_by_hand_and_lies_where_it_was_drawn(signed_in):
    page = signed_in()
    at(page, "Boat shed")
    page.keyboard.press("+")
    box = page.locator(STAGE).bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x - 40, y - 40)
    page.mouse.down()
    for dx, dy in ((40, -40), (40, 40), (-40, 40)):
        page.mouse.move(x + dx, y + dy, steps=5)
    page.mouse.up()
    expect(page.get_by_text("Outlined; drag again")).to_be_visible()
    page.get_by_label("what it is").select_option("scale")
    page.get_by_role("button", name="mark it").click()
    seen = page.get_by_role("region", name="Seen by people")
    expect(seen).to_contain_text("scale, clear")
    bench = bench_of(page)
    cell = page.evaluate(
        "async (id) => (await fetch(`/api/cells/${id}/`)).json()", cell_here(page, bench)["id"]
    )
    left, top, width, height = cell["own"][0]["bbox"]
    middle = [
        bench["regions"][0]["bbox"][0] + bench["regions"][0]["bbox"][2] / 2,
        bench["regions"][0]["bbox"][1] + bench["regions"][0]["bbox"][3] / 2,
    ]
    assert (
        abs(width - 80) < 6
        and abs(height - 80) < 6
        and abs(left + width / 2 - middle[0]) < 8
        and abs(top + height / 2 - middle[1]) < 8
    )
    seen.get_by_role("button", name="take it back").click()
    expect(seen).to_have_count(0)


def cell_here(page, bench):
    number = int(re.search(r"attempt=(\d+)", page.url)[1]) if "attempt=" in page.url else None
    shown = int(page.locator(STAGE).get_attribute("data-image"))
    attempt = next(
        one["id"]
        for one in bench["attempts"]
        if one["image"]["id"] == shown or one["number"] == number
    )
    return next(one for one in bench["cells"] if one["attempt"] == attempt)


@pytest.fixture
def bar_put_back(signed_in):
    page = signed_in()
    yield page
    job = bench_of(page)["job_id"]
    page.evaluate(
        """async (job) => fetch(`/api/jobs/${job}/bar/`, {method: 'PUT', headers: {'Content-Type': 'application/json',
        'X-CSRFToken': document.cookie.match(/zweiblick_csrf=([^;]*)/)[1]}, body: JSON.stringify({bar: {}})})""",
        job,
    )


def test_what_lies_under_the_clients_bar_is_shown_so_and_holds_nothing_up(
    bar_put_back, no_barriers
):
    page = bar_put_back
    at(page, "Boat shed")
    page.keyboard.press("ArrowLeft")
    look_at_both_sides(page)
    label = current(page).get_attribute("aria-label")
    kind = re.search(r"worst: ([a-z]+), (\w+)", label)[1]
    page.keyboard.press("9")
    dialog = page.get_by_role("dialog")
    choice = dialog.locator("label", has_text=re.compile(f"^{kind}")).locator("select")
    expect(choice).to_be_visible()
    no_barriers()
    choice.select_option("never")
    dialog.get_by_role("button", name="keep this bar").press("Enter")
    expect(dialog).to_have_count(0)
    expect(page.get_by_text("(under the bar)").first).to_be_visible()
    expect(current(page)).not_to_have_attribute("aria-label", re.compile(f"worst: {kind}"))


def test_what_changed_between_two_attempts_is_told(signed_in, no_barriers):
    page = signed_in()
    at(page, "Warehouse row")
    page.keyboard.press("6")
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("region by region")).to_be_visible()
    expect(dialog.get_by_role("row", name=re.compile("^method"))).to_be_visible()
    expect(dialog.get_by_text("fixed").first).to_be_visible()
    no_barriers()
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)


def test_the_best_of_two_is_put_together_and_shown(signed_in, no_barriers):
    page = signed_in()
    at(page, "Warehouse row")
    count = len(bench_of(page)["attempts"])
    page.keyboard.press("7")
    dialog = page.get_by_role("dialog")
    button = dialog.get_by_role("button", name="put together")
    expect(button).to_have_attribute("aria-disabled", "true")
    choice = dialog.get_by_label(re.compile("barrel"))
    choice.select_option(choice.locator("option").nth(1).get_attribute("value"))
    no_barriers()
    button.press("Enter")
    expect(dialog.get_by_text(f"Attempt {count + 1} stands")).to_be_visible(timeout=120_000)
    dialog.get_by_role("button", name="show it").press("Enter")
    expect(page.get_by_text(re.compile(f"in attempt {count + 1}$")).first).to_be_visible()
    made = bench_of(page)["attempts"][-1]
    assert made["method"] == "assembled" and len(made["made_from"]) == 2


def test_a_print_is_as_large_as_on_paper_once_the_screen_was_measured(signed_in, no_barriers):
    page = signed_in()
    at(page, "Boat shed")
    size = next(one for one in bench_of(page)["sizes"] if one["millimetres"])
    page.get_by_label("judged for").select_option(str(size["id"]))
    page.keyboard.press("5")
    page.get_by_role("button", name="screen not measured").press("Enter")
    no_barriers()
    page.get_by_role("slider").press("ArrowRight")
    page.get_by_role("dialog").get_by_role("button", name="that is its width").press("Enter")
    expect(page.get_by_role("button", name="screen measured")).to_be_visible()
    per = float(
        page.evaluate(
            "localStorage.getItem(Object.keys(localStorage).find((name) => name.startsWith('zweiblick.screen')))"
        )
    )
    # The slider's own steps are hundredths.
    assert per == pytest.approx(96 / 25.4, abs=0.02)
    expect(page.locator(STAGE)).to_have_attribute("data-zoom", f"{size['millimetres'] * per:.3f}")
