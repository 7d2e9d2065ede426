"""What people said goes over to an attempt made from another where the pixels are proven the same."""

from __future__ import annotations

import numpy as np
import pytest
from builders import filled
from house import MASKS, TRUTH, do_all_work, pixels_of, post, returned

pytestmark = pytest.mark.django_db

RING = [[130, 130], [160, 130], [160, 160], [130, 160]]


@pytest.fixture
def first(checked, people):
    """The first attempt is bad in both regions; the second region is sent back."""
    from verdicts.models import Cell
    from verdicts.ruling import rule

    attempt = checked.attempts.get(number=1)
    cell = Cell.objects.get(attempt=attempt, region__number=2)
    rule(cell.pk, people["vera"], "rework", None, None)
    return attempt


def detail(client, attempt, region):
    cell = attempt.cells.get(region__number=region)
    return client.get(f"/api/cells/{cell.pk}/").json()


def sent_and_back(client, mona, attempt, people, touch=False):
    slip = post(client, f"/api/attempts/{attempt.pk}/slips/").json()["id"]
    client.patch(f"/api/slips/{slip}/", {"worker": people["mona"].pk}, "application/json")
    post(client, f"/api/slips/{slip}/send/")
    noise = np.random.default_rng(8).normal(0, 0.8, TRUTH.shape)
    pixels = filled(pixels_of(attempt), MASKS[1], TRUTH + noise)
    if touch:
        pixels[150, 110] ^= 1
    returned(mona, slip, pixels)
    do_all_work()
    return attempt.picture.attempts.order_by("-number").first()


@pytest.mark.parametrize("touch", [False, True])
def test_answers_and_marks_go_over_where_nothing_moved_and_only_there(
    signed_in, first, people, touch
):
    vera, mona = signed_in("vera"), signed_in("mona")
    findings = detail(vera, first, 1)["findings"]
    assert findings
    for finding in findings:
        post(vera, f"/api/findings/{finding['id']}/answer/", {"answer": "acceptable"})
    cell = first.cells.get(region__number=1)
    own = {"kind": "smear", "severity": "clear", "words": "here", "polygon": RING}
    assert post(vera, f"/api/cells/{cell.pk}/own-findings/", own).status_code == 201
    back = sent_and_back(vera, mona, first, people, touch)
    after = detail(vera, back, 1)
    assert [one["kind"] for one in after["findings"]] == [one["kind"] for one in findings]
    answers = {one["answer"] for one in after["findings"]}
    if touch:
        assert answers == {"unread"} and after["own"] == []
        return
    assert answers == {"acceptable"}
    (mark,) = after["own"]
    assert (mark["carried_from"], mark["words"], mark["person"]) == (1, "here", "Vera")


def test_a_mark_that_went_over_and_was_taken_back_does_not_come_again(signed_in, first, people):
    from checks.models import Check
    from looks.carrying import carry_marks
    from looks.models import OwnFinding

    vera, mona = signed_in("vera"), signed_in("mona")
    cell = first.cells.get(region__number=1)
    own = {"kind": "smear", "severity": "clear", "polygon": RING}
    post(vera, f"/api/cells/{cell.pk}/own-findings/", own)
    back = sent_and_back(vera, mona, first, people)
    (mark,) = detail(vera, back, 1)["own"]
    assert vera.delete(f"/api/own-findings/{mark['id']}/").status_code == 204
    from checks.events import Proofs
    from zweiblick_core.compare import Proof

    proofs = [Proofs(first, {cell.region_id: Proof(True, 9, 0, 0)})]
    carry_marks(check=Check.objects.get(attempt=back), proofs=proofs)
    assert detail(vera, back, 1)["own"] == []
    # In the attempt that it was made in it stands as before.
    assert OwnFinding.objects.standing().filter(attempt=first).count() == 1
