"""One region in near-identical pictures, side by side; in a real browser."""

from __future__ import annotations

import re

from playwright.sync_api import expect
from walk import open_picture


def test_siblings_stand_side_by_side_and_an_exception_is_left_out(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Shed door, first shot")
    # The machine finds them by itself, in a while.
    expect(page.get_by_role("link", name=re.compile("2 siblings"))).to_be_visible(timeout=90_000)
    page.keyboard.press("&")
    expect(page.get_by_role("heading", name=re.compile("3 near-identical"))).to_be_visible()
    expect(page.locator('[role=img][data-settled="true"]')).to_have_count(3, timeout=60_000)
    ruling = page.get_by_role("group", name="Ruling")
    expect(ruling).to_contain_text("one ruling for 3 regions")
    page.get_by_label("except Shed door, third shot").check()
    expect(ruling).to_contain_text("one ruling for 2 regions, 1 excepted")
    no_barriers()
    page.keyboard.press("l")
    figures = page.locator("figure")
    expect(figures.filter(has_text=": rework")).to_have_count(2)
    expect(figures.filter(has_text="third shot")).not_to_contain_text("rework")
    # Taken back, so that it stands as it did.
    for name in ("first", "second"):
        page.evaluate(
            """async (name) => {
              const csrf = document.cookie.match(/zweiblick_csrf=([^;]+)/)[1];
              const desk = await (await fetch("/api/desk/")).json();
              const one = desk.pictures.find((p) => p.name === `Shed door, ${name} shot`);
              const bench = await (await fetch(`/api/pictures/${one.id}/bench/`)).json();
              for (const cell of bench.cells.filter((c) => c.verdict))
                await fetch(`/api/cells/${cell.id}/verdict/`, {method: "DELETE", headers: {"X-CSRFToken": csrf}});
            }""",
            name,
        )
