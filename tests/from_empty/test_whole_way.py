"""From an empty house to the file that left and came up again: people invited, a job made, sixty
pictures with three results each brought in, ruled, sent back and returned, signed off, delivered,
remarked on, reopened. Nothing but the keyboard is used.
"""

from __future__ import annotations

import re
import zipfile

import cv2
import numpy as np
from builders import disc, filled, holding, png, textured, with_thing
from hands import PASSWORD
from playwright.sync_api import expect
from walk import drawn, settled

from zweiblick_core.io import read

PICTURES, SHAPE = 60, (150, 190)
MASK = disc(SHAPE, 95, 75, 17)
LONG = 900_000


def files():
    """An original and three results of each picture, as an export would name them."""
    for number in range(1, PICTURES + 1):
        truth = textured(*SHAPE, seed=200 + number)
        original = with_thing(truth, MASK, (60 + number, 70, 170 - number))
        name = f"pier-{number:02}"
        flat = np.full_like(truth, truth[MASK].mean(axis=0).astype(np.uint8))
        for ending, pixels in (
            ("", original),
            ("-fortnimm", filled(original, MASK, truth.astype(float) + 35)),
            ("-diffusion", filled(original, MASK, flat)),
            ("-by-hand", filled(original, MASK, holding(truth, MASK))),
        ):
            yield {
                "name": f"{name}{ending}.png",
                "mimeType": "image/png",
                "buffer": png(pixels),
            }


def signed_in(hands, name, password):
    hands.write(hands.page.get_by_label("name", exact=True), name)
    hands.write(hands.page.get_by_label("password"), password)
    hands.key("Enter")


def invited(hands, name, role):
    """The link by which somebody joins."""
    part = hands.page.get_by_role("region", name="Invitations")
    hands.write(part.get_by_label("what they are called"), name)
    hands.choose(part.get_by_role("combobox"), role)
    hands.press(part.get_by_role("button", name="make a link"))
    expect(part).to_contain_text(f"{name} as {role}")
    return part.get_by_label("the link").input_value()


def joined(at, link, username):
    hands = at(link)
    hands.write(hands.page.get_by_label("name to sign in with"), username)
    hands.write(hands.page.get_by_label("password"), PASSWORD)
    hands.press(hands.page.get_by_role("button", name="join"))
    return hands


def checks_done(page):
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    expect(page.get_by_text(re.compile("checks? running"))).to_have_count(0, timeout=LONG)


def test_from_an_empty_house_to_what_left_by_keyboard_alone(at, base, album):
    vera = at()
    page = vera.page
    signed_in(vera, "supervisor", PASSWORD)
    expect(page.get_by_text("No pictures yet")).to_be_visible()
    link = make_the_job(vera, album)
    lena = joined(at, link["retoucher"], "lena")
    expect(lena.page.get_by_text("No slips for you")).to_be_visible()
    client = joined(at, link["guest"], "client")
    bring_in(vera, album)
    rule_all_but_one(vera, album)
    slip = send_back(vera, album)
    hand_in(lena, slip, album)
    sign_off(vera, album)
    deliver(vera, album)
    remark_and_reopen(vera, client, album)


def make_the_job(vera, album):
    page = vera.page
    vera.press(page.get_by_role("link", name="Jobs"))
    expect(page.get_by_text("No jobs yet")).to_be_visible()
    vera.press(page.get_by_role("button", name="make a job"))
    form = page.get_by_role("form", name="A new job")
    vera.write(form.get_by_label("name", exact=True), "Pier Album")
    vera.write(form.get_by_label("client"), "Town archive of Quellmuende")
    vera.write(form.get_by_label("called"), "postcard")
    vera.write(form.get_by_label("width"), "148")
    vera.write(form.get_by_label("height"), "105")
    album.keep(page, "A job is made")
    vera.press(form.get_by_role("button", name="make the job"))
    expect(page.get_by_role("heading", name="Bring in: Pier Album")).to_be_visible()
    vera.press(page.get_by_role("link", name="Jobs"))
    vera.press(page.get_by_role("link", name="Pier Album"))
    expect(page.get_by_role("heading", name="Pier Album")).to_be_visible()
    links = {
        "retoucher": invited(vera, "Lena Brodt", "retoucher"),
        "guest": invited(vera, "Town archive", "guest"),
    }
    album.keep(page, "People are invited, each by a link")
    return links


def bring_in(vera, album):
    page = vera.page
    vera.press(page.get_by_role("link", name="Jobs"))
    expect(page.get_by_role("heading", name="Jobs")).to_be_visible()
    vera.press(page.get_by_role("link", name="bring pictures in"))
    page.get_by_label("files to bring in").set_input_files(list(files()))
    every = page.get_by_role("button", name=f"bring in all {PICTURES} pictures")
    expect(page.get_by_text(f"{4 * PICTURES} files waiting")).to_be_visible(timeout=LONG)
    expect(page.get_by_text("reading", exact=True)).to_have_count(0, timeout=LONG)
    album.keep(page, "Sixty pictures with three results each, paired by their names")
    vera.press(every)
    expect(page.get_by_text("nothing waits")).to_be_visible(timeout=LONG)
    vera.press(page.get_by_role("link", name="Desk", exact=True))
    # What the Desk showed before anything was there may still stand a moment.
    expect(page.get_by_role("status").first).to_contain_text(
        f"{PICTURES} regions in {PICTURES} pictures await your decision"
    )
    checks_done(page)
    album.keep(page, "The Desk: what awaits a decision")


def rule_all_but_one(vera, album):
    """A run: the first is sent back, all others pass, one key each."""
    page = vera.page
    vera.press(page.get_by_role("button", name="run through them"))
    run = page.get_by_role("group", name="Run")
    expect(run).to_contain_text(f"0 of {PICTURES} ruled")
    settled(page)
    here = page.url
    vera.key("l")
    expect(run).to_contain_text(f"1 of {PICTURES} ruled")
    expect(page).not_to_have_url(here)
    settled(page)
    vera.key("1")
    expect(page).to_have_url(re.compile("zoom=actual"))
    album.keep(page, "A run: one key a region, at 100 %")
    keys = vera.keys
    passes = page.get_by_role("group", name="Ruling").get_by_role("button", name="passes").first
    for number in range(2, PICTURES + 1):
        # The next picture stands there, and is drawn: only then can it be ruled on.
        expect(run).to_contain_text(f"{number - 1} of {PICTURES} ruled")
        settled(page)
        expect(passes).to_have_attribute("aria-disabled", "false")
        # That it was seen at 100 % is known one frame later.
        drawn(page)
        vera.key("j")
    assert vera.keys == keys + PICTURES - 1
    expect(page.get_by_role("heading", name="Run")).to_be_visible()
    vera.press(page.get_by_role("link", name="Desk", exact=True))
    expect(page.get_by_role("status").first).to_have_text("Nothing awaits your decision.")


def send_back(vera, album):
    page = vera.page
    vera.press(page.get_by_role("link", name="Slips"))
    waiting = page.get_by_role("region", name="To be sent back")
    vera.press(waiting.get_by_role("button", name="write its slip"))
    vera.press(page.get_by_role("link", name=re.compile("slip 1")))
    expect(page.get_by_role("heading", name=re.compile("Slip 1"))).to_be_visible()
    vera.choose(page.get_by_label("to", exact=True), "Lena Brodt")
    album.keep(page, "What failed is sent back")
    vera.press(page.get_by_role("button", name=re.compile("^send")))
    expect(page.get_by_role("status").first).to_contain_text("sent")
    return page.url


def hand_in(lena, slip, album):
    page = lena.page
    page.reload()
    lena.press(page.get_by_role("link", name=re.compile("slip 1")))
    lena.press(page.get_by_role("button", name="I am at it"))
    settled(page)
    album.keep(page, "The retoucher's side: what is wrong, what is asked, the package")
    with page.expect_download() as loading:
        lena.press(page.get_by_role("link", name=re.compile("^package")))
    with zipfile.ZipFile(loading.value.path()) as package:
        sent = next(name for name in package.namelist() if name.startswith("attempt-"))
        pixels = read(package.read(sent)).pixels.copy()
        mask = read(package.read("masks/sent.png")).pixels[..., 0] > 127
    noise = np.random.default_rng(5).normal(0, 2, (int(mask.sum()), 3))
    pixels[mask] = np.clip(pixels[mask] + noise, 0, 255).astype(np.uint8)
    data = cv2.imencode(".png", np.ascontiguousarray(pixels[..., ::-1]))[1].tobytes()
    page.get_by_label("return a result").set_input_files(
        {"name": "back.png", "mimeType": "image/png", "buffer": data}
    )
    expect(page.get_by_text(re.compile("came back as attempt"))).to_be_visible(timeout=120_000)


def sign_off(vera, album):
    """What came back passes, and leaves."""
    page = vera.page
    expect(page.get_by_text(re.compile("came back as attempt 4"))).to_be_visible(timeout=120_000)
    region = page.get_by_role("region", name=re.compile("^region 1"))
    expect(region).to_contain_text(re.compile("fixed|still there|worse|new flaw"), timeout=120_000)
    album.keep(page, "It came back: is it fixed? Is the rest the same?")
    vera.press(page.get_by_role("link", name="to the Bench"))
    expect(page.locator('[role=img][data-settled="true"]')).to_have_count(1, timeout=60_000)
    vera.key("1")
    settled(page)
    vera.key("j")
    expect(page.get_by_text("done: attempt 4 holds everywhere")).to_be_visible(timeout=60_000)
    vera.key("!")
    expect(page.get_by_role("heading", name=re.compile("^Sign-off"))).to_be_visible()
    expect(page.get_by_role("status")).to_have_text("attempt 4 would leave")
    vera.press(page.get_by_role("button", name="sign attempt 4 off"))
    expect(page.get_by_role("status")).to_contain_text("attempt 4 is signed off by Supervisor")
    album.keep(page, "It is signed off")
    guests = page.get_by_role("region", name="Guests")
    vera.press(guests.get_by_role("button", name=re.compile("^release it to")))
    expect(guests).to_contain_text("sees it")


def deliver(vera, album):
    page = vera.page
    sign = page.url
    vera.press(page.get_by_role("link", name="Jobs"))
    vera.press(page.get_by_role("link", name="signed off and delivered"))
    form = page.get_by_role("form", name="A delivery")
    vera.press(form.get_by_role("button", name="build 1 picture"))
    built = page.get_by_role("region", name="Built").locator("[data-state=ready]")
    expect(built).to_have_count(1, timeout=120_000)
    album.keep(page, "One zip with everything that leaves")
    with page.expect_download() as loading:
        vera.press(built.get_by_role("link", name=re.compile("^download")))
    with zipfile.ZipFile(loading.value.path()) as delivered:
        assert {"record.json", "SHA256SUMS"} <= set(delivered.namelist())
    page.goto(sign)


def remark_and_reopen(vera, client, album):
    page = client.page
    page.reload()
    settled(page, 60_000)
    remarks = page.get_by_role("region", name="Remarks")
    client.write(remarks.get_by_label("of the whole picture"), "Is the water not too calm there?")
    client.press(remarks.get_by_role("button", name="say it"))
    expect(remarks).to_contain_text("not answered yet")
    album.keep(page, "What a guest sees, and remarks on")
    page = vera.page
    page.reload()
    said = page.get_by_role("region", name="Remarks of guests")
    vera.write(said.get_by_label("answer"), "It was calm that morning.")
    vera.press(said.get_by_role("button", name="answer it"))
    expect(said).to_contain_text("answered: It was calm that morning.")
    vera.write(page.get_by_label("why"), "the client wants more waves")
    vera.press(page.get_by_role("button", name="reopen it"))
    expect(page.get_by_role("status")).to_have_text("attempt 4 would leave")
    expect(page.get_by_role("region", name="Reopened before")).to_contain_text("more waves")
    album.keep(page, "The remark is answered; the picture is reopened")
