"""The ledger with more attempts than there is room for, and what is asked for although it was
folded.
"""

from __future__ import annotations

import re

import numpy as np
import pytest
from builders import disc, png, textured, with_thing
from playwright.sync_api import expect
from walk import bench_of, current, open_picture, settled, soon

from zweiblick_core.rules.verdicts import asked_anyway

TRUTH = textured(300, 400, seed=31)
MASK = disc(TRUTH.shape[:2], 200, 150, 40)
ORIGINAL = with_thing(TRUTH, MASK)


@pytest.fixture
def many(signed_in):
    """A picture with ten attempts of three sources, brought in at the API as another program would."""
    page = signed_in()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()

    def ask(path, **body):
        token = next(
            one["value"] for one in page.context.cookies() if one["name"] == "zweiblick_csrf"
        )
        answer = page.request.post(
            path, headers={"X-CSRFToken": token, "Referer": page.url}, **body
        )
        assert answer.ok, answer.text()
        return answer.json()

    job = ask(
        "/api/jobs/",
        data={"name": "Lock gate", "sizes": [{"name": "card", "spec": "148x105mm@300dpi@300mm"}]},
    )["id"]
    put = lambda name, data: ask(
        f"/api/jobs/{job}/arrivals/",
        multipart={"file": {"name": name, "mimeType": "image/png", "buffer": data}},
    )["id"]
    original, mask = (
        put("gate.png", png(ORIGINAL)),
        put("gate-mask.png", png(np.repeat(MASK[..., None], 3, 2).astype(np.uint8) * 255)),
    )
    results = []
    for number in range(10):
        fill = ORIGINAL.copy()
        fill[MASK] = np.clip(TRUTH[MASK].astype(int) + 3 * number, 0, 255)
        results.append(
            {
                "arrival": put(f"gate-{number + 1}.png", png(fill)),
                "method": ("by hand", "patches", "network")[number % 3],
                "kind": "by hand",
            }
        )

    def read():
        waiting = page.request.get(f"/api/jobs/{job}/intake/").json()["arrivals"]
        assert all(one["state"] == "ready" for one in waiting), waiting

    soon(page, read, 120)
    asked = ask(
        f"/api/jobs/{job}/pictures/",
        data={"name": "Lock gate", "original": original, "mask": mask, "results": results},
    )

    def brought_in():
        found = page.request.get(f"/api/incoming/{asked['id']}/").json()
        assert found["state"] == "done", found
        return found["picture"]

    return page, soon(page, brought_in, 120)


def test_beyond_eight_attempts_older_ones_are_folded_walked_to_and_unfolded(many, no_barriers):
    page, picture = many
    page.goto(f"/pictures/{picture}?region=1&attempt=10")
    settled(page, 120_000)
    columns = page.get_by_role("table").get_by_role("columnheader")
    # The newest of each of three sources, and the one that is looked at, which is one of them.
    expect(columns).to_have_text(
        [re.compile("^region"), re.compile("^8,"), re.compile("^9,"), re.compile("^10,")]
    )
    no_barriers()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    expect(current(page)).to_have_attribute("aria-label", re.compile("region 1 .*, attempt 7: "))
    expect(columns).to_have_text(
        [
            re.compile("^region"),
            re.compile("^7,"),
            re.compile("^8,"),
            re.compile("^9,"),
            re.compile("^10,"),
        ]
    )
    page.get_by_role("button", name="6 older folded: show").click()
    expect(columns).to_have_count(11)
    no_barriers()
    page.get_by_role("button", name="only the newest of each source").click()
    expect(columns).to_have_count(5)


def by_lot(page, picture):
    """Cells of a picture that would be asked for all the same, once their regions have holders; of
    one whose attempts all stand in the ledger.
    """
    bench = page.request.get(f"/api/pictures/{picture}/bench/").json()
    if len(bench["attempts"]) > 8:
        return []
    best = {(region["id"], region["order"][0]) for region in bench["regions"]}
    return [
        cell
        for cell in bench["cells"]
        if cell["verdict"] is None
        and (cell["region"], cell["attempt"]) not in best
        and asked_anyway(cell["id"], "not needed")
    ]


@pytest.fixture
def taken_back(page):
    """Cells ruled on here, by id; their rulings are taken back at the end: others walk the same pictures."""
    given = []
    yield given
    for cell in reversed(given):
        token = next(
            one["value"] for one in page.context.cookies() if one["name"] == "zweiblick_csrf"
        )
        answer = page.request.delete(
            f"/api/cells/{cell}/verdict/", headers={"X-CSRFToken": token, "Referer": page.url}
        )
        assert answer.ok, answer.text()


def test_folded_cells_drawn_by_lot_are_asked_for_all_the_same(signed_in, taken_back):
    page = signed_in()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    pictures = page.request.get("/api/desk/").json()["pictures"]
    drawn_in = next(one["name"] for one in pictures if by_lot(page, one["id"]))
    open_picture(page, drawn_in)
    token = next(one["value"] for one in page.context.cookies() if one["name"] == "zweiblick_csrf")
    bench = bench_of(page)
    # Every region gets a holder, so that all its other cells are folded.
    for region in bench["regions"]:
        cell = next(
            one
            for one in bench["cells"]
            if (one["region"], one["attempt"]) == (region["id"], region["order"][0])
        )
        answer = page.request.post(
            f"/api/cells/{cell['id']}/verdict/",
            data={"ruling": "passes"},
            headers={"X-CSRFToken": token, "Referer": page.url},
        )
        assert answer.ok, answer.text()
        taken_back.append(cell["id"])
    page.reload()
    bench = bench_of(page)
    drawn = [cell for cell in bench["cells"] if asked_anyway(cell["id"], cell["state"])]
    assert [cell["id"] for cell in bench["cells"] if cell["asked"]] == [
        cell["id"] for cell in drawn
    ]
    marked = page.get_by_role("button", name=re.compile("not needed, asked for all the same"))
    expect(marked).to_have_count(len(drawn))
    assert drawn and all(region["state"] == "holds" for region in bench["regions"])
    page.keyboard.press("n")
    expect(current(page)).to_have_attribute("aria-label", re.compile("asked for all the same"))
