"""Words on rulings and findings: put to them then or later, and they go where the ruling goes."""

from __future__ import annotations

import io
import json
import zipfile

import numpy as np
import pytest
from builders import filled
from house import MASKS, TRUTH, do_all_work, pixels_of, post, returned

pytestmark = pytest.mark.django_db
JSON = "application/json"


@pytest.fixture
def cell(checked):
    from verdicts.models import Cell

    return Cell.objects.get(attempt__picture=checked, attempt__number=1, region__number=2)


def cell_of(client, cell):
    bench = client.get(f"/api/pictures/{cell.attempt.picture_id}/bench/").json()
    return next(one for one in bench["cells"] if one["id"] == cell.pk)


def say(client, cell, words):
    return client.put(f"/api/cells/{cell.pk}/words/", {"words": words}, JSON)


def test_words_stand_on_a_ruling_and_can_be_changed_and_history_keeps_both(signed_in, cell):
    vera = signed_in("vera")
    post(vera, f"/api/cells/{cell.pk}/verdict/", {"ruling": "rework"})
    assert say(vera, cell, " the quay stones again ").status_code == 200
    say(vera, cell, "the quay stones, twice")
    verdict = cell_of(vera, cell)["verdict"]
    assert (verdict["ruling"], verdict["words"]) == ("rework", "the quay stones, twice")
    entries = cell.attempt.picture.history.filter(what="words on a verdict").order_by("pk")
    assert [(one.before, one.after) for one in entries] == [
        (None, "the quay stones again"),
        ("the quay stones again", "the quay stones, twice"),
    ]


def test_words_need_a_ruling_and_its_latest_revision(signed_in, cell):
    vera = signed_in("vera")
    refused = say(vera, cell, "nothing was ruled")
    assert refused.status_code == 400 and cell_of(vera, cell)["verdict"] is None
    post(vera, f"/api/cells/{cell.pk}/verdict/", {"ruling": "rework"})
    stale = vera.put(
        f"/api/cells/{cell.pk}/words/", {"words": "late"}, JSON, headers={"If-Match": '"0"'}
    )
    assert stale.status_code == 412 and cell_of(vera, cell)["verdict"]["words"] == ""


def test_words_come_back_with_the_ruling_that_stands_again(signed_in, cell):
    vera = signed_in("vera")
    post(vera, f"/api/cells/{cell.pk}/verdict/", {"ruling": "rework"})
    say(vera, cell, "stones")
    post(vera, f"/api/cells/{cell.pk}/verdict/", {"ruling": "rebuild"})
    assert cell_of(vera, cell)["verdict"]["words"] == ""
    vera.delete(f"/api/cells/{cell.pk}/verdict/")
    assert cell_of(vera, cell)["verdict"]["words"] == "stones"


def test_words_on_a_finding_stay_through_answers_and_need_none(signed_in, cell):
    vera = signed_in("vera")
    detail = lambda: vera.get(f"/api/cells/{cell.pk}/").json()["findings"][0]
    finding = detail()["id"]
    say_of = lambda **body: post(vera, f"/api/findings/{finding}/answer/", body)
    assert say_of(words="is this the rope?").json()["answer"] == "unread"
    assert say_of(answer="confirmed").json() == {
        "id": finding,
        "answer": "confirmed",
        "words": "is this the rope?",
    }
    say_of(words="")
    assert (detail()["answer"], detail()["words"]) == ("confirmed", "")


def test_words_go_along_on_a_slip_in_its_package(signed_in, cell, people):
    from slips.models import Slip
    from slips.packing import package_of

    vera = signed_in("vera")
    findings = vera.get(f"/api/cells/{cell.pk}/").json()["findings"]
    post(
        vera, f"/api/findings/{findings[0]['id']}/answer/", {"answer": "confirmed", "words": "rope"}
    )
    post(vera, f"/api/cells/{cell.pk}/verdict/", {"ruling": "rework"})
    say(vera, cell, "keep the rope's shadow")
    slip = post(vera, f"/api/attempts/{cell.attempt_id}/slips/").json()
    (region,) = slip["regions"]
    assert region["note"] == "keep the rope's shadow"
    assert region["flaws"][0]["words"] == "rope"
    vera.patch(f"/api/slips/{slip['id']}/", {"worker": people["mona"].pk}, JSON)
    post(vera, f"/api/slips/{slip['id']}/send/")
    do_all_work()
    with zipfile.ZipFile(io.BytesIO(package_of(Slip.objects.get(pk=slip["id"])))) as packed:
        packed_slip = json.loads(packed.read("slip.json"))
    assert packed_slip["regions"][0]["note"] == "keep the rope's shadow"
    assert packed_slip["regions"][0]["flaws"][0]["words"] == "rope"


def test_words_on_a_finding_go_over_to_the_same_place_of_another_attempt(
    signed_in, checked, people
):
    from verdicts.models import Cell

    vera, mona = signed_in("vera"), signed_in("mona")
    attempt = checked.attempts.get(number=1)
    first = Cell.objects.get(attempt=attempt, region__number=1)
    second = Cell.objects.get(attempt=attempt, region__number=2)
    finding = vera.get(f"/api/cells/{first.pk}/").json()["findings"][0]
    post(vera, f"/api/findings/{finding['id']}/answer/", {"words": "ask the client"})
    post(vera, f"/api/cells/{second.pk}/verdict/", {"ruling": "rework"})
    slip = post(vera, f"/api/attempts/{attempt.pk}/slips/").json()["id"]
    vera.patch(f"/api/slips/{slip}/", {"worker": people["mona"].pk}, JSON)
    post(vera, f"/api/slips/{slip}/send/")
    noise = np.random.default_rng(8).normal(0, 0.8, TRUTH.shape)
    returned(mona, slip, filled(pixels_of(attempt), MASKS[1], TRUTH + noise))
    do_all_work()
    back = checked.attempts.order_by("-number").first().cells.get(region__number=1)
    there = vera.get(f"/api/cells/{back.pk}/").json()["findings"]
    assert "ask the client" in [one["words"] for one in there if one["kind"] == finding["kind"]]
