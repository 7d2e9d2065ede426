"""A slip in full, in a real browser: regions of several attempts, what is drawn on the picture, a
built-in method as its recipient; a retoucher's dry run, and putting back what was changed besides.
In this order on one demo.
"""

from __future__ import annotations

import re
import zipfile

import cv2
import numpy as np
from playwright.sync_api import expect
from walk import bench_of, current, open_picture, settled

from zweiblick_core.io import read


def to_slip(page, shelf, words):
    # Signed in first: leaving the page earlier would break that off.
    expect(page.get_by_role("link", name="Slips", exact=True)).to_be_visible()
    page.goto("/desk")
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    # What a slip asks for is worked after the checks that were asked for before.
    expect(page.get_by_text(re.compile("checks? running"))).to_have_count(0, timeout=600_000)
    page.get_by_role("link", name="Slips", exact=True).click()
    page.get_by_role("region", name=shelf).get_by_role("link", name=re.compile(words)).first.click()
    expect(page.get_by_role("heading", name=re.compile("^Slip "))).to_be_visible()


def test_a_slip_takes_what_failed_elsewhere_is_drawn_on_and_worked_by_a_method(
    signed_in, no_barriers
):
    page = signed_in()
    to_slip(page, "Not sent yet", "Market hall")
    region = page.get_by_role("region", name="region 2, hose reel")
    expect(region.get_by_role("heading").first).to_have_text("2 hose reel: rework")
    besides = page.get_by_role("region", name="What failed besides")
    besides.get_by_role("button", name="take it instead of attempt 1's").click()
    expect(region.get_by_role("heading").first).to_contain_text("rework in attempt 2")
    expect(besides).to_contain_text("take it instead of attempt 2's")

    stage = region.get_by_label("hose reel as it was sent back, with what is wrong drawn on it")
    expect(stage).to_be_visible()
    region.get_by_role("button", name="mark what nothing is taken from").click()
    box = stage.bounding_box()
    page.mouse.move(box["x"] + 40, box["y"] + 60)
    page.mouse.down()
    page.mouse.move(box["x"] + 120, box["y"] + 60, steps=4)
    page.mouse.move(box["x"] + 120, box["y"] + 140, steps=4)
    with page.expect_response(lambda answer: answer.request.method == "PATCH"):
        page.mouse.up()
    expect(region.get_by_role("button", name=re.compile("^undo 1"))).to_be_visible()
    expect(region).to_contain_text("take nothing from the marked places")
    no_barriers()

    page.get_by_label("to", exact=True).select_option(label="gradient fill")
    expect(page.get_by_label("due")).to_have_count(0)  # a method has no calendar
    page.get_by_role("button", name="send it back").click()
    untouched = page.get_by_role("region", name="What was not sent")
    expect(untouched).to_contain_text("everything else is the same in all", timeout=60_000)
    expect(region).to_contain_text(re.compile("fixed|still there|worse|new flaw"), timeout=120_000)
    expect(region).to_contain_text("followed")


def package_of(page):
    with page.expect_download() as loading:
        page.get_by_role("link", name=re.compile("^package")).click()
    with zipfile.ZipFile(loading.value.path()) as files:
        sent = next(name for name in files.namelist() if name.startswith("attempt-"))
        mask = read(files.read("masks/sent.png")).pixels[..., 0] > 127
        return read(files.read(sent)).pixels.copy(), mask


def test_a_retoucher_tries_a_result_sees_what_it_touched_and_hands_it_in(signed_in, no_barriers):
    page = signed_in("mona")
    to_slip(page, "With you", "Quay railing")
    pixels, mask = package_of(page)
    pixels[mask] = cv2.GaussianBlur(pixels, (0, 0), 5)[mask]
    pixels[20:30, -60:-40] ^= 8
    data = cv2.imencode(".png", np.ascontiguousarray(pixels[..., ::-1]))[1].tobytes()
    answer = page.get_by_role("group", name="Your answer")
    answer.get_by_role("checkbox").first.check()
    answer.get_by_label("try a result first").set_input_files(
        {"name": "tried.png", "mimeType": "image/png", "buffer": data}
    )
    report = page.get_by_role("region", name="What the recheck would say")
    expect(report).to_contain_text("tried.png", timeout=120_000)
    expect(report).to_contain_text("200 pixels of")
    expect(report).to_contain_text("20 by 10 px at")
    no_barriers()
    report.get_by_role("button", name="hand it in as it is").click()
    expect(page.get_by_text(re.compile("came back as attempt"))).to_be_visible(timeout=60_000)
    expect(page.get_by_role("region", name="What was not sent")).to_contain_text(
        "200 pixels of", timeout=120_000
    )
    address = page.url
    page.context.clear_cookies()
    signed_in("vera")
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    page.goto(address)
    untouched = page.get_by_role("region", name="What was not sent")
    expect(untouched.get_by_role("button", name="put back what was sent there")).to_be_visible()
    page.keyboard.press("'")
    expect(untouched.get_by_role("link", name=re.compile("^attempt "))).to_be_visible(
        timeout=60_000
    )
    no_barriers()


def test_a_slip_goes_outside_once_what_leaves_was_seen_and_comes_back_in_takes(
    signed_in, no_barriers
):
    page = signed_in()
    # It was declined; withdrawn, the region can go to somebody else.
    to_slip(page, "Wants an answer", "Quay corner")
    expect(
        page.get_by_text("The railing behind it is seen in no other shot.").first
    ).to_be_visible()
    page.get_by_role("button", name="withdraw it").click()
    expect(page.get_by_role("status").first).to_have_text("withdrawn")
    open_picture(page, "Quay corner")
    page.goto(f"{page.url.split('?')[0]}?region=1&attempt=1")
    settled(page, 30_000)
    page.keyboard.press("b")
    expect(page.get_by_role("heading", name=re.compile("Slip 2: 07 Quay corner"))).to_be_visible()
    page.get_by_label("to", exact=True).select_option(value="tier:studio")
    leaves = page.get_by_role("region", name="What leaves the house")
    expect(leaves).to_contain_text("3 credits in all")
    expect(leaves.get_by_label("what would leave of cut-off cart")).to_be_visible()
    expect(page.get_by_label("due")).to_have_count(0)
    no_barriers()
    page.get_by_role("button", name="send it back: let it leave").click()
    expect(page.get_by_text(re.compile("came back as attempt 3"))).to_be_visible(timeout=120_000)
    region = page.get_by_role("region", name="region 1, cut-off cart")
    expect(region).to_contain_text(re.compile("fixed|still there|worse|new flaw"), timeout=120_000)
    page.get_by_role("link", name="to the Bench").click()
    # The slip shows two pictures until the Bench has taken its place.
    expect(current(page)).to_have_attribute("aria-label", re.compile("attempt 3: "))
    settled(page, 60_000)
    methods = [one["method"] for one in bench_of(page)["attempts"]]
    assert methods.count("Fortnimm") == 4  # the one that failed, and three takes


def test_a_result_dropped_on_the_slips_finds_its_own(signed_in, no_barriers):
    page = signed_in()
    to_slip(page, "Wants an answer", "Harbour wall")
    said = page.get_by_role("region", name="What was said")
    expect(said).to_contain_text("Does the chalk below the words stay?")
    said.get_by_label("in words").fill("It stays.")
    said.get_by_role("button", name="answer").click()
    expect(page.get_by_role("status").first).to_have_text("being worked")
    page.context.clear_cookies()
    signed_in("mona")
    expect(page.get_by_role("heading", name="Slips")).to_be_visible()
    to_slip(page, "With you", "Harbour wall")
    pixels, mask = package_of(page)
    address = page.url
    pixels[mask] = cv2.GaussianBlur(pixels, (0, 0), 9)[mask]
    data = cv2.imencode(".png", np.ascontiguousarray(pixels[..., ::-1]))[1].tobytes()
    page.get_by_role("link", name="Slips", exact=True).click()
    no_barriers()
    page.get_by_role("region", name="A result").get_by_label("choose a result").set_input_files(
        {"name": "from-my-folder.png", "mimeType": "image/png", "buffer": data}
    )
    expect(page.get_by_role("heading", name=re.compile("^Slip "))).to_be_visible()
    page.goto(address)
    expect(page.get_by_text(re.compile("came back as attempt [0-9]+"))).to_be_visible(
        timeout=120_000
    )


def test_the_tally_counts_what_was_ruled(signed_in, no_barriers):
    page = signed_in()
    page.get_by_role("link", name="Tally").click()
    expect(page.get_by_role("heading", name="Tally")).to_be_visible()
    held = page.get_by_role("region", name="Held at the first attempt")
    expect(held.get_by_role("row", name=re.compile("^Fortnimm"))).to_contain_text("of")
    no_barriers()
    page.get_by_label("counted by").select_option("maker")
    expect(held.get_by_role("row", name=re.compile("^Mona Reetz"))).to_be_visible()
    with page.expect_download() as loading:
        page.get_by_role("link", name=re.compile("as a table")).click()
    assert loading.value.path().read_text("utf-8-sig").startswith("name,backdrop,held,of,low,high")
