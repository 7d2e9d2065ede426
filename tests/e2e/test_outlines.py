"""Drawing a region's outline in a real browser: by hand and by key, kept as a version, with what
it means for rulings.
"""

from __future__ import annotations

import re

from playwright.sync_api import expect
from walk import SETTLED, open_picture, settled, soon

FOOT = "footer [role=status]"


def outlines_of(page):
    return page.evaluate(
        "async () => (await fetch('/api/pictures/' + location.pathname.split('/')[2] + '/outlines/')).json()"
    )


def to_outlines(page, name):
    open_picture(page, name)
    page.keyboard.press("#")
    expect(page.get_by_role("heading", name=re.compile("outlines"))).to_be_visible()
    settled(page, 20_000)


def on_stage(page, x, y):
    """Where a place of the picture is on the screen."""
    box = page.locator("main [role=img]").bounding_box()
    left, top, resolution = map(float, page.locator(SETTLED).get_attribute("data-view").split())
    return (
        box["x"] + box["width"] / 2 + (x - left) / resolution,
        box["y"] + box["height"] / 2 + (y - top) / resolution,
    )


def drag(page, points):
    start, *rest = [on_stage(page, *point) for point in points]
    page.mouse.move(*start)
    page.mouse.down()
    for point in rest:
        page.mouse.move(*point, steps=4)
    page.mouse.up()


def pixels(page):
    found = re.search(r"; ([\d,]+) px", page.locator(FOOT).inner_text())
    return int(found[1].replace(",", "")) if found else 0


def drawn(page, step):
    expect(page.locator(f"{FOOT}[data-steps='{step}']")).not_to_contain_text("drawing")
    return pixels(page)


def test_a_region_is_drawn_by_hand_with_undo_kept_and_examined(signed_in, no_barriers):
    page = signed_in()
    to_outlines(page, "Quay railing")
    no_barriers()
    page.get_by_role("button", name="a new region").click()
    page.keyboard.press("4")
    settled(page)
    page.get_by_label("a new region, called").fill("mooring post")
    x, y = 60, 60
    drag(page, [(x, y), (x + 80, y), (x + 80, y + 80), (x, y + 80), (x, y)])
    first = drawn(page, 1)
    assert 5000 < first < 8000
    page.get_by_role("main").click(position={"x": 5, "y": 5}, trial=True)
    page.keyboard.press("t")
    page.keyboard.press("h")
    drag(page, [(x + 40, y + 10), (x + 40, y + 70)])
    second = drawn(page, 2)
    assert second < first - 800
    page.keyboard.press("u")
    assert drawn(page, 1) == first
    page.keyboard.press("i")
    assert drawn(page, 2) == second
    page.keyboard.press("+")
    page.keyboard.press("+")
    expect(page.locator(FOOT)).to_contain_text("grown by 2 px")
    assert drawn(page, 3) > second
    no_barriers()
    # What is drawn survives a page that is loaded anew.
    page.reload()
    expect(page.locator(FOOT)).to_contain_text("grown by 2 px")
    page.get_by_label("a new region, called").fill("mooring post")
    page.get_by_role("button", name=re.compile("keep it")).click()
    expect(page.get_by_role("button", name="3 mooring post")).to_be_visible()
    kept = outlines_of(page)["regions"][-1]
    assert (kept["name"], kept["version"]) == ("mooring post", 1)
    page.get_by_role("button", name="withdraw it").click()
    expect(page.get_by_role("region", name="Withdrawn")).to_contain_text("mooring post")
    expect(page.get_by_role("button", name="3 mooring post")).to_have_count(0)


def test_by_key_alone_points_are_set_painted_and_picked_where_the_cross_is(signed_in):
    page = signed_in()
    to_outlines(page, "Quay railing")
    page.keyboard.press("b")
    page.keyboard.press("h")
    page.keyboard.press("t")
    for key in ("ArrowRight", "ArrowRight", " "):
        page.keyboard.press(key)
    soon(page, lambda: expect(page.locator(FOOT)).to_contain_text("painted, taken away"))
    page.keyboard.press("g")
    page.keyboard.press("r")
    for key in ("ArrowLeft", " ", *["ArrowDown"] * 6, " ", *["ArrowRight"] * 6, " "):
        page.keyboard.press(key)
    page.keyboard.press("Escape")
    expect(page.locator(FOOT)).to_contain_text("drawn around, added")
    page.keyboard.press("j")
    page.keyboard.press("ArrowUp")
    page.keyboard.press(" ")
    expect(page.locator(FOOT)).to_contain_text("a colour, added")
    before = pixels(page)
    page.keyboard.press(".")
    soon(page, lambda: _differs(page, before))
    assert page.locator(FOOT).get_attribute("data-steps") == "3"
    page.keyboard.press("b")
    expect(page.get_by_role("toolbar", name="Drawing the outline")).to_have_count(0)
    assert outlines_of(page)["regions"][0]["version"] == 1


def _differs(page, before):
    assert pixels(page) != before


def test_an_edit_is_a_version_that_can_be_begun_from_and_somebody_elses_is_not_lost(signed_in):
    page = signed_in()
    to_outlines(page, "Quay railing")
    start = outlines_of(page)["regions"][0]
    page.keyboard.press("b")
    page.keyboard.press("o")
    expect(page.locator(FOOT)).to_contain_text("smoothed")
    # Somebody else keeps another one meanwhile.
    status = page.evaluate(
        """async ([id, mask]) => (await fetch(`/api/regions/${id}/outline/`, {method: 'POST',
        headers: {'Content-Type': 'application/json', 'X-CSRFToken': document.cookie.match(/zweiblick_csrf=([^;]+)/)[1]},
        body: JSON.stringify({mask, version: 1})})).status""",
        [start["id"], start["area"]["mask"]],
    )
    assert status == 200
    page.keyboard.press("n")
    # Said when theirs was fetched, so that keeping again replaces it knowingly.
    expect(page.get_by_role("alert")).to_contain_text("Somebody else drew this outline")
    drawn(page, 1)
    page.keyboard.press("n")
    expect(page.get_by_role("list", name="Versions")).to_contain_text("outline 3, Vera")
    page.get_by_role("button", name="begin from it").last.click()
    expect(page.locator(FOOT)).to_contain_text("outline 1")
    page.get_by_role("button", name=re.compile("^leave it as it was")).click()
    expect(page.get_by_role("button", name=re.compile("draw at it"))).to_be_visible()


def test_a_retoucher_sees_outlines_and_draws_none(signed_in):
    page = signed_in("mona")
    to_outlines(page, "Quay railing")
    expect(page.get_by_text("Only a supervisor of this job draws regions.")).to_be_visible()
    expect(page.get_by_role("button", name="a new region")).to_have_count(0)
