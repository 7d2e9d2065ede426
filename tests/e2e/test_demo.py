"""What the demo's checks found: each kind where it is meant to be, and nothing where an attempt
holds.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from demo import scenario

FOUND = """async () => {
  const get = async (path) => (await fetch(path)).json();
  const desk = await get('/api/desk/');
  const found = {};
  for (const {id, name} of desk.pictures) {
    const bench = await get(`/api/pictures/${id}/bench/`);
    const called = Object.fromEntries(bench.regions.map((one) => [one.id, one.name]));
    for (const attempt of bench.attempts) {
      const cells = {};
      for (const cell of bench.cells.filter((one) => one.attempt === attempt.id))
        cells[called[cell.region]] = (await get(`/api/cells/${cell.id}/`)).findings;
      found[`${name} ${attempt.number}`] = {cells, outside: attempt.check_of?.outside ?? null};
    }
  }
  return found;
}"""


def test_each_kind_is_found_where_it_is_meant_to_be_and_an_attempt_by_hand_holds(signed_in):
    page = signed_in()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    expect(page.get_by_text(re.compile("checks? running"))).to_have_count(0, timeout=600_000)
    found = page.evaluate(FOUND)
    kinds = lambda key, region: {one["kind"] for one in found[key]["cells"][region]}
    for kind, picture, number, region in scenario.MEANT:
        key = f"{picture.name} {number}"
        assert kind in kinds(key, region), (kind, key, region)
    for picture in scenario.PICTURES_OF_JOB:
        for number, attempt in enumerate(picture.attempts, 1):
            seen = found[f"{picture.name} {number}"]
            # One attempt changes what it was not asked to, and no other does.
            assert bool(seen["outside"]) == ((picture.slug, number) == ("market", 5))
            if attempt.make is scenario.hand:
                assert all(findings == [] for findings in seen["cells"].values())
    (copied,) = (
        one
        for one in found[f"{scenario.SIGN.name} 2"]["cells"]["folding sign"]
        if one["kind"] == "repeat"
    )
    assert copied["evidence"]["offset_px"] == pytest.approx([348, 0], abs=2)
