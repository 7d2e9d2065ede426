"""A shot in a real browser: played, gone through frame by frame, seen through time, ruled by keyboard."""

from __future__ import annotations

import re
import zipfile
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from moving import video_in
from playwright.sync_api import expect

#: The demo's shot has so many frames.
FRAMES = 72
#: How an element begins that says nothing and has four bytes of no meaning: with one a file is another file of
#: the same frames.
EMPTY = {".mkv": b"\xec\x84", ".mp4": b"\0\0\0\x0cfree"}

#: How far the canvas is from one frame's own JPEG, decoded anew, mean levels over the middle of the frame.
AWAY = """async ([footage, frame]) => {
  const canvas = document.querySelector("main canvas");
  const at = `/api/footage/${footage}/proxies/`;
  const index = await (await fetch(at)).json();
  const segment = Math.floor(frame / index.segment), within = frame % index.segment;
  const ends = index.ends[segment];
  const bytes = new Uint8Array(await (await fetch(`${at}${segment}/`)).arrayBuffer());
  const jpeg = bytes.subarray(within ? ends[within - 1] : 0, ends[within]);
  const bitmap = await createImageBitmap(new Blob([jpeg], { type: "image/jpeg" }));
  const other = new OffscreenCanvas(canvas.width, canvas.height).getContext("2d");
  other.setTransform(...canvas.dataset.onto.split(" ").map(Number));
  other.imageSmoothingEnabled = false;
  other.drawImage(bitmap, 0, 0);
  const [x, y, w, h] = [canvas.width / 2 - 150, canvas.height / 2 - 100, 300, 200].map(Math.round);
  const one = canvas.getContext("2d").getImageData(x, y, w, h).data;
  const two = other.getImageData(x, y, w, h).data;
  return one.reduce((sum, value, i) => sum + Math.abs(value - two[i]), 0) / one.length;
}"""


@pytest.fixture
def shot(signed_in):
    """The demo's shot, reached from the jobs, once its first attempt was examined."""
    page = signed_in()
    page.goto("/jobs")
    page.get_by_role("link", name="Harbour Year").first.click()
    page.get_by_role("link", name="shots", exact=True).click()
    page.get_by_role("link", name="Across the quay").click()
    expect(page.get_by_role("heading", name="01 Across the quay")).to_be_visible()
    expect(page.get_by_role("slider", name="frame")).to_be_visible()
    # What is played is drawn by the workers, who may have the rest of the demo to draw first.
    for _ in range(600):
        now = the(page)
        if now["original"]["ready"] and now["attempts"][0]["footage"]["ready"]:
            break
        page.wait_for_timeout(1000)
    page.reload()
    expect(page.get_by_role("main", name="The shot").locator("canvas")).to_be_visible()
    return page


def the(page):
    """The shot as the server says it."""
    number = re.search(r"/shots/(\d+)", page.url)[1]
    return page.request.get(f"/api/shots/{number}/").json()


def the_first_four_frames(page):
    """Frames 0 to 3 as the range, by key; from the shot's first frame."""
    page.keyboard.press("0")
    page.keyboard.press("(")
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    page.keyboard.press(")")


def frame_shown(page) -> int:
    return int(page.get_by_role("main", name="The shot").get_attribute("data-frame"))


def test_every_step_shows_that_frame_and_no_other(shot):
    footage = the(shot)["original"]["id"]
    canvas = shot.get_by_role("main", name="The shot").locator("canvas")
    shot.keyboard.press("1")
    shot.keyboard.press("d")
    for key, frame in (("ArrowRight", 1), ("Shift+ArrowRight", 11), ("ArrowLeft", 10)):
        shot.keyboard.press(key)
        expect(shot.get_by_role("slider", name="frame")).to_have_attribute(
            "aria-valuenow", str(frame)
        )
    # A is the original; marks are hidden while the key is held.
    shot.keyboard.down("s")
    shot.keyboard.down("d")
    expect(canvas).to_have_attribute("data-frame", "10")
    expect(canvas).to_have_attribute("aria-label", "frame 10 of original")
    away = {at: shot.evaluate(AWAY, [footage, at]) for at in (9, 10, 11)}
    shot.keyboard.up("d")
    shot.keyboard.up("s")
    assert away[10] == 0 and min(away[9], away[11]) > 1


def test_it_plays_round_and_round_in_a_range_and_stops(shot):
    shot.keyboard.press("Shift+ArrowRight")
    shot.keyboard.press("(")
    shot.keyboard.press("ArrowRight")
    shot.keyboard.press("ArrowRight")
    shot.keyboard.press(")")
    expect(shot.get_by_label("range", exact=True)).to_have_text("frames 10 to 12")
    shot.keyboard.press("p")
    expect(shot.get_by_role("button", name="stop")).to_be_visible()
    seen = set()
    for _ in range(40):
        seen.add(frame_shown(shot))
        shot.wait_for_timeout(60)
        if seen == {10, 11, 12}:
            break
    assert seen == {10, 11, 12}
    shot.keyboard.press("p")
    still = frame_shown(shot)
    shot.wait_for_timeout(400)
    assert frame_shown(shot) == still
    shot.keyboard.press("0")
    expect(shot.get_by_label("range", exact=True)).to_have_text("the whole shot")


@pytest.fixture
def examined(shot):
    """The same once all that the demo asks of it is done."""
    for _ in range(600):
        if not the(shot)["busy"]:
            break
        shot.wait_for_timeout(1000)
    shot.reload()
    expect(shot.get_by_text("What was found is shown once you have seen")).to_be_visible()
    return shot


def test_what_was_found_is_shown_after_one_has_looked_and_ruled_by_its_frames(
    examined, no_barriers
):
    page = examined
    no_barriers()
    page.get_by_role("button", name="show it now").click()
    attempt = the(page)["attempts"][0]
    finding = attempt["check"]["regions"][0]["findings"][0]
    assert finding["kind"] == "drift"
    page.keyboard.press("f")
    expect(page.get_by_role("slider", name="frame")).to_have_attribute(
        "aria-valuenow", str(finding["worst"])
    )
    expect(page.get_by_role("region", name="What was found")).to_contain_text(
        re.compile(r"motion against the ground: this one reads")
    )
    strip = page.get_by_role("group", name="The strip of time")
    expect(strip.get_by_role("button", name=re.compile("drift"))).to_have_attribute(
        "aria-pressed", "true"
    )
    no_barriers()
    page.keyboard.press("y")
    page.get_by_label("words on the ruling").fill("it swims")
    page.get_by_label("words on the ruling").blur()
    page.keyboard.press("l")
    expect(page.get_by_role("list", name="Ruled")).to_contain_text("rework, “it swims”")
    expect(strip).to_contain_text("region 1: rework")
    page.keyboard.press("u")
    expect(strip).to_contain_text("region 1: undecided")


def test_the_ground_is_held_still_and_a_line_is_seen_through_time(examined):
    page = examined
    page.keyboard.press("k")
    expect(page.get_by_role("button", name="ground still")).to_have_attribute(
        "aria-pressed", "true"
    )
    canvas = page.get_by_role("main", name="The shot").locator("canvas")
    before = canvas.get_attribute("data-onto")
    page.keyboard.press("Shift+ArrowRight")
    expect(canvas).not_to_have_attribute("data-onto", before)
    page.keyboard.press("z")
    expect(page.locator("canvas[data-done='1']")).to_have_count(2)
    expect(page.get_by_role("img", name=re.compile("attempt 1: row"))).to_be_visible()


def test_an_outline_is_corrected_in_a_frame_by_keyboard_and_left(examined):
    page = examined
    page.keyboard.press("#")
    bar = page.get_by_role("group", name="Draw")
    expect(bar).to_contain_text("Region 1 in frame 0")
    for key in (" ", "ArrowRight", " ", "ArrowDown", " "):
        page.keyboard.press(key)
    expect(bar).to_contain_text("points around it (3)")
    page.keyboard.press("Escape")
    expect(bar).to_have_count(0)
    assert the(page)["regions"][0]["version"] == 1


def test_frames_are_mended_from_the_shots_own_ground_and_the_rest_is_proven_the_same(examined):
    page = examined
    the_first_four_frames(page)
    again = page.get_by_role("region", name="Worked again")
    number = len(the(page)["slips"]) + 1
    again.get_by_role("button", name="send back or mend").focus()
    page.keyboard.press("Enter")
    form = again.get_by_role("form", name="Send back or mend")
    expect(form).to_contain_text("of attempt 1, frames 0 to 3")
    expect(form).to_contain_text("What was hidden is taken from frames that show it")
    form.get_by_role("button", name="mend these frames").focus()
    page.keyboard.press("Enter")
    slip = again.get_by_role("listitem").filter(has_text=f"Slip {number},")
    expect(slip).to_contain_text("ground-tracked fill")
    expect(slip).to_contain_text("The rest is the same to the bit", timeout=240_000)
    expect(slip).to_contain_text("came back")
    slip.get_by_role("button", name=re.compile("look at attempt")).focus()
    page.keyboard.press("Enter")
    made = the(page)["attempts"][-1]
    expect(page.get_by_role("heading", name=f"attempt {made['number']}")).to_be_visible()
    assert made["method"] == "ground-tracked fill"


def test_a_retoucher_works_on_frames_of_a_shot_and_brings_them_back(signed_in, examined, tmp_path):
    page = examined
    ledger = page.get_by_role("table", name="Regions and attempts")
    ledger.get_by_role("button", name="2", exact=True).focus()
    page.keyboard.press("Enter")
    the_first_four_frames(page)
    page.keyboard.press("l")
    again = page.get_by_role("region", name="Worked again")
    number = len(the(page)["slips"]) + 1
    again.get_by_role("button", name="send back or mend").focus()
    page.keyboard.press("Enter")
    form = again.get_by_role("form", name="Send back or mend")
    expect(form).to_contain_text("of attempt 2, frames 0 to 3, which failed")
    retoucher = the(page)["workers"][0]["name"]
    form.get_by_label("worked by").select_option(label=retoucher)
    form.get_by_role("button", name="send back").focus()
    page.keyboard.press("Enter")
    slip = again.get_by_role("listitem").filter(has_text=f"Slip {number},")
    expect(slip).to_contain_text("sent")
    footage = the(page)["attempts"][1]["footage"]

    page.context.clear_cookies()
    page = signed_in("mona")
    mine = page.get_by_role("region", name="With you")
    mine.get_by_role("link", name=re.compile(f"Across the quay, slip {number}")).focus()
    page.keyboard.press("Enter")
    slip = page.get_by_role("region", name="Worked again").get_by_role("listitem")
    slip = slip.filter(has_text=f"Slip {number}, yours")
    expect(page.get_by_role("group", name="Ruling")).to_have_count(0)
    slip.get_by_role("button", name="I am at it").focus()
    page.keyboard.press("Enter")
    expect(slip).to_contain_text("being worked")
    package = slip.get_by_role("link", name=re.compile("^package"))
    expect(package).to_be_visible(timeout=60_000)
    with page.expect_download() as loading:
        package.click()
    with zipfile.ZipFile(loading.value.path()) as had:
        assert {f"masks/region-1/{one:04}.png" for one in range(4)} <= set(had.namelist())
    answer = page.get_by_label(f"footage that answers slip {number}")
    short = video_in(tmp_path / "short.mkv", [np.zeros((64, 64, 3), np.uint8)] * 4, "ffv1", "bgr0")
    answer.set_input_files(short)
    expect(slip).to_contain_text(f"has 4 frames, what was sent {FRAMES}", timeout=60_000)
    slip.get_by_role("button", name="forget it").focus()
    page.keyboard.press("Enter")
    expect(slip).not_to_contain_text("short.mkv")
    whole = tmp_path / f"back{Path(footage['name']).suffix}"
    data = page.request.get(f"/api/footage/{footage['id']}/file/").body()
    whole.write_bytes(data + EMPTY[whole.suffix] + number.to_bytes(4))
    answer.set_input_files(whole)
    slip.get_by_role("button", name="hand it in").focus(timeout=60_000)
    page.keyboard.press("Enter")
    expect(slip).to_contain_text("came back")
    page.get_by_role("link", name=re.compile("your slips")).focus()
    page.keyboard.press("Enter")
    handed = page.get_by_role("region", name="Handed in")
    expect(handed).to_contain_text(f"Across the quay, slip {number}")


def brought(page, job, name, data):
    """Footage that was uploaded and read; its number."""
    head = {"X-CSRFToken": page.request.get("/api/session/").json()["csrf"]}
    asked = {"name": name, "size": len(data), "what": "footage"}
    begun = page.request.post(f"/api/jobs/{job}/uploads/", data=asked, headers=head).json()
    head["Content-Type"] = "application/octet-stream"
    put = page.request.put(f"/api/uploads/{begun['key']}/0/", data=data, headers=head)
    number = put.json()["footage"]
    for _ in range(120):
        waiting = page.request.get(f"/api/jobs/{job}/shots/").json()["waiting"]
        if next(one for one in waiting if one["id"] == number)["state"] == "ready":
            return number
        page.wait_for_timeout(500)
    raise AssertionError(f"{name} is not read")


def test_a_frame_that_is_held_still_and_looked_at_closely_is_shown_at_its_full_size(
    signed_in, tmp_path
):
    # Lines of one pixel: at half the size, as it is played, they are one grey.
    frames = [np.zeros((2160, 3840, 3), np.uint8) for _ in range(3)]
    for frame in frames:
        frame[:, ::2] = 255
    data = video_in(tmp_path / "large.mkv", frames, "ffv1", "bgr0").read_bytes()
    page = signed_in()
    job = next(
        one["id"] for one in page.request.get("/api/jobs/").json() if one["name"] == "Harbour Year"
    )
    footage = brought(page, job, "large.mkv", data)
    head = {"X-CSRFToken": page.request.get("/api/session/").json()["csrf"]}
    asked = {"name": "Large", "original": footage, "attempts": [], "masks": None}
    made = page.request.post(f"/api/jobs/{job}/shots/", data=asked, headers=head)
    assert made.status == 201, made.text()
    page.goto(f"/shots/{made.json()['id']}")
    canvas = page.get_by_role("main", name="The shot").locator("canvas")
    expect(canvas).to_have_attribute("data-frame", "0", timeout=120_000)
    expect(canvas).to_have_attribute("data-full", "false")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("1")
    expect(canvas).to_have_attribute("data-full", "true", timeout=60_000)
    expect(canvas).to_have_attribute("data-frame", "1")
    line = canvas.evaluate(
        """(one) => [...one.getContext("2d").getImageData(one.width / 2, one.height / 2, 40, 1).data]
        .filter((_, at) => at % 4 === 0)"""
    )
    assert set(line) == {0, 255} and all(a != b for a, b in pairwise(line))
    # Smaller than it is played it need not be.
    page.keyboard.press("4")
    expect(canvas).to_have_attribute("data-full", "false")


def test_footage_that_is_none_says_so_and_nothing_is_kept(signed_in):
    page = signed_in()
    page.goto("/jobs")
    page.get_by_role("link", name="Harbour Year").first.click()
    page.get_by_role("link", name="shots", exact=True).click()
    page.get_by_label("choose footage").set_input_files(
        {"name": "notes.txt", "mimeType": "text/plain", "buffer": b"no footage at all"}
    )
    expect(page.get_by_role("alert")).to_contain_text("notes.txt: is no footage")
    expect(page.get_by_role("list", name="Footage that waits")).to_have_count(0)
