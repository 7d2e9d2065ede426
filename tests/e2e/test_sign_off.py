"""From a done picture to the file that leaves, in a real browser: sign off, freeze, deliver, release,
reopen. In this order on one demo.
"""

from __future__ import annotations

import hashlib
import json
import re
import zipfile

from playwright.sync_api import expect
from walk import at_full_size, bench_of, choose_released, look_at_both_sides, open_picture, settled


def to_sign_off(page):
    open_picture(page, "Jetty")
    page.keyboard.press("!")
    expect(page.get_by_role("heading", name="Sign-off: 05 Jetty")).to_be_visible()


def test_a_picture_that_is_done_is_signed_off_by_one_key_from_the_bench(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Jetty")
    if bench_of(page)["done"] is None:
        page.goto(f"{page.url.split('?')[0]}?region=2&attempt=4")
        settled(page, 20_000)
        look_at_both_sides(page)
        at_full_size(page)
        with page.expect_response(re.compile("/verdict/")):
            page.keyboard.press("j")
    expect(page.get_by_text("done: attempt 4 holds everywhere")).to_be_visible(timeout=60_000)
    page.keyboard.press("!")
    expect(page.get_by_role("heading", name="Sign-off: 05 Jetty")).to_be_visible()
    expect(page.get_by_role("status")).to_have_text("attempt 4 would leave")
    expect(page.get_by_role("region", name="Regions")).to_contain_text("Vera Lund")
    expect(page.get_by_role("region", name="Sizes")).to_contain_text("1,800 × 1,200 px")
    no_barriers()
    page.get_by_role("button", name="sign attempt 4 off").click()
    expect(page.get_by_role("status")).to_contain_text("attempt 4 is signed off by Vera Lund")
    no_barriers()
    page.keyboard.press("!")
    expect(page.get_by_text("signed off: attempt 4, Vera Lund")).to_be_visible(timeout=20_000)


def test_what_is_signed_is_frozen(signed_in):
    page = signed_in()
    open_picture(page, "Jetty")
    page.goto(f"{page.url.split('?')[0]}?region=2&attempt=4")
    settled(page, 20_000)
    page.keyboard.press("l")
    expect(page.get_by_role("alert").first).to_contain_text("signed off by Vera Lund; reopen it")


def test_what_is_signed_is_delivered_with_every_hash_right(signed_in, no_barriers):
    page = signed_in()
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("listitem").filter(has_text="Harbour Year").get_by_role(
        "link", name="signed off and delivered"
    ).click()
    expect(page.get_by_role("heading", name="Deliveries of Harbour Year")).to_be_visible()
    expect(page.get_by_role("status")).to_contain_text("1 picture signed off")
    form = page.get_by_role("form", name="A delivery")
    expect(form.get_by_label(re.compile("05 Jetty, attempt 4"))).to_be_checked()
    form.get_by_label("JPEG", exact=True).check()
    no_barriers()
    form.get_by_role("button", name="build 1 picture").click()
    built = page.get_by_role("region", name="Built").locator("[data-state=ready]")
    expect(built).to_have_count(1, timeout=120_000)
    no_barriers()
    with page.expect_download() as loading:
        built.get_by_role("link", name=re.compile("^download")).click()
    with zipfile.ZipFile(loading.value.path()) as files:
        names = set(files.namelist())
        assert {"record.json", "rulings.csv", "before-and-after.pdf", "contact-sheet.pdf"} <= names
        wanted = {"final.tif", "final.jpg", "layers.ora", "masks/regions.geojson"}
        assert {f"05-jetty/{name}" for name in wanted} <= names
        record = json.loads(files.read("record.json"))
        assert record["pictures"][0]["signed"]["person"] == "Vera Lund"
        for line in files.read("SHA256SUMS").decode().splitlines():
            digest, name = line.split("  ")
            assert hashlib.sha256(files.read(name)).hexdigest() == digest


def test_a_guest_sees_it_once_it_is_released_and_reopening_asks_why(signed_in, no_barriers):
    page = signed_in()
    to_sign_off(page)
    guests = page.get_by_role("region", name="Guests")
    guests.get_by_role("button", name=re.compile("^release it to")).click()
    expect(guests).to_contain_text("sees it")
    page.get_by_label("why").fill("the client wants the rope gone too")
    page.get_by_role("button", name="reopen it").click()
    expect(page.get_by_role("status")).to_have_text("attempt 4 would leave")
    expect(page.get_by_role("region", name="Reopened before")).to_contain_text(
        "the client wants the rope gone too"
    )
    no_barriers()
    page.context.clear_cookies()
    signed_in("archive")
    # What it was released to see stays released.
    choose_released(page, "Jetty")
