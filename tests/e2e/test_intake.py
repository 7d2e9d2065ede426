"""Bringing in, in a real browser: a job is made, good and bad files are dropped, paired, corrected,
stored, and looked at.
"""

from __future__ import annotations

import re

import numpy as np
from builders import disc, filled, holding, jpeg, png, textured, with_thing
from playwright.sync_api import expect
from walk import look_at_both_sides, open_picture, settled

TRUTH = textured(420, 560, seed=21)
MASK = disc(TRUTH.shape[:2], 280, 210, 50)
ORIGINAL = with_thing(TRUTH, MASK)
OTHER_TRUTH = textured(420, 560, seed=22)
OTHER = with_thing(OTHER_TRUTH, MASK, (180, 60, 40))


def file(name, data):
    return {"name": name, "mimeType": "application/octet-stream", "buffer": data}


def drop(page, *files):
    page.get_by_label("files to bring in").set_input_files(list(files))


def picture(page, name):
    return page.get_by_role("region", name=f"picture: {name}", exact=True)


def test_a_job_is_made(signed_in, no_barriers):
    page = signed_in()
    page.get_by_role("link", name="Jobs").click()
    expect(page.get_by_role("heading", name="Jobs")).to_be_visible()
    no_barriers()
    page.get_by_role("button", name="make a job").click()
    form = page.get_by_role("form", name="A new job")
    no_barriers()
    form.get_by_label("name", exact=True).fill("Reed walk")
    form.get_by_label("client").fill("Town archive of Quellmuende")
    form.get_by_label("called").fill("postcard")
    form.get_by_label("width").fill("148")
    form.get_by_label("height").fill("105")
    form.get_by_label("Mona Reetz").check()
    form.get_by_label(re.compile("dpi")).fill("300")
    form.get_by_role("button", name="make the job").click()
    expect(page.get_by_role("heading", name="Bring in: Reed walk")).to_be_visible()
    expect(page.get_by_text("Nothing has arrived yet")).to_be_visible()
    no_barriers()


def test_bad_files_are_refused_one_by_one_and_good_ones_are_paired_and_brought_in(
    signed_in, no_barriers
):
    page = signed_in()
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("listitem").filter(has_text="Reed walk").get_by_role(
        "link", name="bring pictures in"
    ).click()
    result = filled(ORIGINAL, MASK, TRUTH.astype(float) + 30)
    drop(
        page,
        file("reeds.png", png(ORIGINAL)),
        file("reeds-fortnimm.png", png(result)),
        file("reeds-mask.png", png(MASK.astype(np.uint8) * 255)),
        file("slipway.png", png(OTHER)),
        file("slipway result.png", png(filled(OTHER, MASK, holding(OTHER_TRUTH, MASK)))),
        file("notes.txt", b"no picture"),
        file("cut.jpg", jpeg(TRUTH)[:9000]),
        file("reeds copy.png", png(ORIGINAL)),
        file("stray-result.png", png(textured(420, 560, seed=77))),
    )
    refused = page.get_by_role("alert", name="Not taken")
    for words in (
        "notes.txt: is not a picture that can be read",
        "cut.jpg: is damaged or cut short",
        "is here already, as",
    ):
        expect(refused).to_contain_text(words, timeout=30_000)
    refused.get_by_role("button", name="seen").click()
    expect(page.get_by_text("6 files waiting, nothing stored yet")).to_be_visible()
    reeds = picture(page, "Reeds")
    expect(reeds).to_contain_text("regions from the mask")
    expect(reeds).to_contain_text("fits; 1 changed place")
    expect(picture(page, "Stray")).to_contain_text("no original")
    no_barriers()
    # The stray result is put where it does not belong, and is refused there; nothing of the picture
    # is stored.
    belongs = page.get_by_label("stray-result.png belongs to")
    belongs.focus()
    belongs.select_option(label="Slipway")
    slipway = picture(page, "Slipway")
    expect(slipway).to_contain_text("cannot belong to this original")
    slipway.get_by_role("button", name="bring in Slipway").click()
    expect(slipway).to_contain_text("Nothing of this picture was stored.")
    page.get_by_label("stray-result.png is the").select_option(label="leave aside")
    reeds.get_by_label("reeds-fortnimm.png: maker").fill("Fortnimm")
    reeds.get_by_label("reeds-fortnimm.png: seconds").fill("6.5")
    reeds.get_by_label("reeds-fortnimm.png: cost").fill("0.12")
    reeds.get_by_label("picture", exact=True).fill("Reeds at dusk")
    page.get_by_role("button", name="bring in all 2 pictures").click()
    brought = page.get_by_role("region", name="Brought in")
    expect(brought).to_contain_text("Reeds at dusk", timeout=30_000)
    expect(brought).to_contain_text("Slipway", timeout=30_000)
    page.get_by_role("button", name="forget stray-result.png").click()
    expect(page.get_by_text("nothing waits")).to_be_visible()
    no_barriers()


def test_what_was_brought_in_goes_through_what_the_demos_pictures_do(signed_in):
    page = signed_in()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    expect(page.get_by_text(re.compile("checks? running"))).to_have_count(0, timeout=600_000)
    page.get_by_role("link", name=re.compile("Reeds at dusk")).click()
    settled(page, 20_000)
    expect(
        page.get_by_role("region", name="Findings").get_by_text("Fortnimm (outside service)")
    ).to_be_visible()
    look_at_both_sides(page)
    expect(page.locator("[data-finding]").first).to_contain_text("seam")
    page.goto("/")
    page.get_by_role("link", name=re.compile("Slipway")).first.click()
    settled(page, 20_000)
    look_at_both_sides(page)
    expect(page.get_by_text("Nothing to report")).to_be_visible()


def test_a_late_result_is_brought_in_from_the_bench_whatever_it_is_called(signed_in, no_barriers):
    page = signed_in()
    open_picture(page, "Slipway")
    expect(page.get_by_role("button", name=re.compile(", attempt 2:"))).to_have_count(0)
    page.get_by_role("link", name="bring in another result").click()
    expect(page.get_by_text("a result for Slipway")).to_be_visible()
    late = filled(OTHER, MASK, OTHER_TRUTH.astype(float) + 25)
    drop(page, file("untitled 3.png", png(late)))
    slipway = page.get_by_role("region", name="picture: Slipway")
    expect(slipway).to_contain_text("to Slipway, which is there already", timeout=30_000)
    expect(slipway).to_contain_text("fits", timeout=30_000)
    no_barriers()
    slipway.get_by_role("button", name="bring in Slipway").click()
    page.get_by_role("region", name="Brought in").get_by_role("link", name="Slipway").click()
    expect(page.get_by_role("button", name=re.compile(", attempt 2:"))).to_have_count(
        1, timeout=30_000
    )


def test_a_file_on_its_way_can_be_cancelled(signed_in):
    page = signed_in()
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("listitem").filter(has_text="Reed walk").get_by_role(
        "link", name="bring pictures in"
    ).click()
    expect(page.get_by_label("files to bring in")).to_be_attached()
    page.route(re.compile("/uploads/[0-9a-f]+/0/$"), lambda route: None)  # a connection that hangs
    page.reload()
    drop(page, file("slow.png", png(TRUTH)))
    page.get_by_role("button", name="cancel slow.png").click()
    expect(page.get_by_role("alert", name="Not taken")).to_contain_text("slow.png: cancelled")
    page.unroute_all(behavior="ignoreErrors")
    assert (
        page.evaluate(
            "async () => (await (await fetch(location.pathname.replace('/jobs', '/api/jobs') + '/intake/')).json()).arrivals.length"
        )
        == 0
    )
