"""An attempt put together from others: its sources, its check, passes that carry from each region's
own source, plain refusals.
"""

from __future__ import annotations

import numpy as np
import pytest
from builders import filled, holding, png
from house import MASKS, TRUTH, do_all_work

pytestmark = pytest.mark.django_db


@pytest.fixture
def halves(checked, people):
    """A fourth attempt that holds in the second region only; the second attempt holds in the first
    only.
    """
    from attempts.intake import Facts, add_attempt

    pixels = filled(holding(TRUTH, MASKS[1]), MASKS[0], TRUTH.astype(float) + 26)
    fourth = add_attempt(
        checked, "slipway-4.png", png(pixels), Facts("method 4", "built in"), people["vera"]
    )
    do_all_work()
    return checked.attempts.get(number=2), fourth


def asked(client, picture, pairs):
    return client.post(
        f"/api/pictures/{picture.pk}/assemblies/",
        {"parts": [{"region": region.pk, "attempt": attempt.pk} for region, attempt in pairs]},
        "application/json",
    )


def bench(client, picture):
    return client.get(f"/api/pictures/{picture.pk}/bench/").json()


def test_the_best_of_two_becomes_an_attempt_with_its_sources_and_its_check(
    signed_in, checked, halves
):
    from verdicts.models import Cell

    client = signed_in("vera")
    regions = list(checked.regions.all())
    for region, attempt in zip(regions, halves, strict=True):
        client.post(
            f"/api/cells/{Cell.objects.get(region=region, attempt=attempt).pk}/verdict/",
            {"ruling": "passes"},
            "application/json",
        )
    assert bench(client, checked)["state"] == "to assemble"
    answer = asked(client, checked, zip(regions, halves, strict=True))
    assert answer.status_code == 202 and answer.json()["state"] == "waiting"
    for _ in range(3):
        do_all_work()
    found = bench(client, checked)
    new = found["attempts"][-1]
    assert found["assembly"]["state"] == "done" and found["assembly"]["attempt"] == new["id"]
    assert new["method"] == "assembled" and set(new["made_from"]) == {
        attempt.pk for attempt in halves
    }
    assert (
        new["settings"]["region 1"] == "attempt 2"
        and new["settings"]["region 2"] == "attempt 4"
        and new["check_of"]["state"] == "done"
    )
    # Both passes carry over, each from its own source: one attempt holds everywhere.
    cells = [cell for cell in found["cells"] if cell["attempt"] == new["id"]]
    assert (
        all(cell["verdict"]["carried"] and cell["findings"] == 0 for cell in cells)
        and found["state"] == "done"
        and found["done"] == new["id"]
    )
    assert any(
        entry["what"] == "assembly asked for"
        for entry in client.get(f"/api/pictures/{checked.pk}/history/").json()["entries"]
    )


def test_nothing_is_told_of_an_attempt_before_all_of_it_is_known(
    signed_in, checked, halves, monkeypatch
):
    """It may come in while the Bench is being read: whoever is told that it stands can go there."""
    from api import shapes

    client = signed_in("vera")
    regions = list(checked.regions.all())
    assert asked(client, checked, zip(regions, halves, strict=True)).status_code == 202
    read = shapes.ledger

    def meanwhile(*given):
        book = read(*given)
        do_all_work()
        return book

    monkeypatch.setattr(shapes, "ledger", meanwhile)
    early = bench(client, checked)
    assert checked.assemblies.get().attempt is not None
    assert early["assembly"]["state"] == "waiting" and {row["id"] for row in early["attempts"]} == {
        cell["attempt"] for cell in early["cells"]
    }
    monkeypatch.setattr(shapes, "ledger", read)
    late = bench(client, checked)
    new = late["assembly"]["attempt"]
    assert late["assembly"]["state"] == "done" and [
        cell["region"] for cell in late["cells"] if cell["attempt"] == new
    ] == [region.pk for region in regions]


def test_what_cannot_be_joined_says_why_and_leaves_no_attempt(signed_in, checked, halves, people):
    from attempts.intake import Facts, add_attempt

    wave = np.clip(TRUTH + 14 * np.sin(np.arange(400) / 40)[None, :, None], 0, 255)
    other = add_attempt(
        checked,
        "wave.png",
        png(wave.round().astype(np.uint8)),
        Facts("method 5", "built in"),
        people["vera"],
    )
    do_all_work()
    client = signed_in("vera")
    first, second = checked.regions.all()
    asked(client, checked, [(first, halves[0]), (second, other)])
    do_all_work()
    found = bench(client, checked)
    assert (
        found["assembly"]["state"] == "refused"
        and "more than tone" in found["assembly"]["reason"]
        and len(found["attempts"]) == 5
    )
    assert (
        client.get(f"/api/pictures/{checked.pk}/history/").json()["entries"][0]["what"]
        == "assembly refused"
    )


def test_running_it_twice_makes_one_attempt(checked, halves, people):
    from attempts.assembling import ask_assembly
    from work.models import Work
    from work.tasks import do_work

    first, second = checked.regions.all()
    ask_assembly(checked, {first.pk: halves[0].pk, second.pk: halves[1].pk}, people["vera"])
    work = Work.objects.get(kind="assembly")
    do_work(work.pk)
    Work.objects.filter(pk=work.pk).update(state="waiting")
    do_work(work.pk)
    assert checked.attempts.count() == 5


def test_a_choice_that_is_none_is_refused(signed_in, checked, halves):
    client = signed_in("vera")
    first, second = checked.regions.all()
    assert "each region" in asked(client, checked, [(first, halves[0])]).json()["error"]
    assert (
        "one attempt"
        in asked(client, checked, [(first, halves[0]), (second, halves[0])]).json()["error"]
    )
    assert not checked.assemblies.exists()
