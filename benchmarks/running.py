"""What deciding takes: keys and seconds a region in a run through many pictures, and keys from the
Desk to a picture that is signed off. Scripted in a real browser: a person's thinking is not in it.

.venv/bin/python benchmarks/running.py [--pictures 300]
"""

from __future__ import annotations

import argparse
import re
import statistics
import sys
import time
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent / "client")]
from houses import PASSWORD, base_of, house_of, inside  # noqa: E402

SETTLED = '[role=img][data-settled="true"]'
#: Small pictures of one region each, with an attempt that holds.
_MADE = """
from attempts.intake import Facts, add_attempt, add_picture
from builders import disc, holding, png, textured, with_thing
shape = (150, 190); mask = disc(shape, 95, 75, 17)
for number in range({count}):
    truth = textured(*shape, seed=100 + number)
    picture = add_picture(job, f"Pier {{number + 1}}", f"pier-{{number}}.png",
                          png(with_thing(truth, mask)), [("buoy", mask)], vera)
    add_attempt(picture, f"{{number}}.png", png(holding(truth, mask)), Facts("by hand", "by hand"), vera)
print(json.dumps(job.pictures.count()))
"""
_OPEN = """
from work.models import Work
print(json.dumps(Work.objects.filter(state__in=("waiting", "running")).count()))
"""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pictures", type=int, default=300)
    given = parser.parse_args()
    with house_of("workers", "web") as house:
        inside(house, _MADE.format(count=given.pictures))
        start = time.monotonic()
        while inside(house, _OPEN):
            time.sleep(3)
        print(f"examined after {time.monotonic() - start:.0f} s")
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(
                executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
            )
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(base_of(house))
            page.get_by_label("name", exact=True).fill("vera")
            page.get_by_label("password").fill(PASSWORD)
            page.keyboard.press("Enter")
            run(page, given.pictures)
            sign(page)
            browser.close()


def run(page: Page, count: int) -> None:
    """Through all of them: what is offered is taken, what is asked in full passes."""
    page.get_by_role("button", name="run through them").click()
    at = page.get_by_role("group", name="Run")
    expect(at).to_contain_text(f"0 of {count} ruled")
    passes = page.get_by_role("group", name="Ruling").get_by_role("button", name="passes").first
    keys, took = 1, []
    page.keyboard.press("1")
    expect(page).to_have_url(re.compile("zoom=actual"))
    for number in range(1, count + 1):
        start = time.monotonic()
        expect(at).to_contain_text(f"{number - 1} of {count} ruled")
        expect(page.locator(SETTLED)).to_be_visible()
        expect(passes).to_have_attribute("aria-disabled", "false")
        page.evaluate("() => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))")
        page.keyboard.press("j")
        keys += 1
        took.append(time.monotonic() - start)
    print(
        f"a run of {count}: {keys / count:.2f} keys a region; {statistics.median(took):.2f} s a region"
        f" (nine in ten below {sorted(took)[int(0.9 * count)]:.2f} s), {sum(took):.0f} s in all"
    )


def sign(page: Page) -> None:
    """The first picture from the Desk on, by key."""
    page.keyboard.press("q")
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    # One key for each press; the picture is ruled already.
    keys = 0
    for key in ("ArrowDown", "Enter"):
        page.keyboard.press(key)
        keys += 1
    expect(page.locator(SETTLED)).to_be_visible()
    page.keyboard.press("!")
    keys += 1
    button = page.get_by_role("button", name="sign attempt")
    expect(button).to_be_visible()
    while not button.evaluate("one => one === document.activeElement"):
        page.keyboard.press("Tab")
        keys += 1
    page.keyboard.press("Enter")
    keys += 1
    expect(page.get_by_role("status")).to_contain_text("signed off")
    print(f"from the Desk to signed off: {keys} keys, and one for each region that is ruled")


if __name__ == "__main__":
    main()
