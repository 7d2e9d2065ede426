"""A slip that goes to the outside service: what leaves is seen first, each region is ordered once,
and the takes together are attempts. Each test reads like its rule.
"""

from __future__ import annotations

import numpy as np
import pytest
from house import MASKS, do_all_work, pixels_of, post, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def both(checked, people):
    """An attempt that failed in both regions."""
    from verdicts.models import Cell
    from verdicts.ruling import rule

    attempt = checked.attempts.get(number=1)
    for cell in Cell.objects.filter(attempt=attempt):
        rule(cell.pk, people["vera"], "rework", None, None)
    return attempt


def written(client, attempt, tier="studio"):
    slip = post(client, f"/api/attempts/{attempt.pk}/slips/").json()["id"]
    answer = client.patch(f"/api/slips/{slip}/", {"tier": tier}, content_type="application/json")
    assert answer.status_code == 200, answer.json()
    assert answer.json()["tier"] == tier and answer.json()["worker"]["name"] == "Fortnimm"
    return slip


def leaves(client, slip):
    said = client.get(f"/api/slips/{slip}/outside/").json()
    return [{"region": one["region"], "box": one["leaves"]["box"]} for one in said["regions"]]


def send(client, slip, seen=None):
    return post(
        client,
        f"/api/slips/{slip}/send/",
        {"leaves": leaves(client, slip) if seen is None else seen},
    )


def slip_of(client, slip):
    return client.get(f"/api/slips/{slip}/").json()


def test_its_takes_together_are_attempts_and_the_first_answers_the_slip(signed_in, both, known):
    vera = signed_in("vera")
    slip = written(vera, both)
    assert send(vera, slip).json()["state"] == "sent"
    settle()
    said = slip_of(vera, slip)
    assert said["state"] == "rechecked" and said["elsewhere"]["same"]
    made = list(both.picture.attempts.filter(run__method__name="Fortnimm").order_by("number"))
    assert len(made) == 3 and said["returned"] == made[0].pk
    before = pixels_of(both)
    for attempt in made:
        moved = (pixels_of(attempt) != before).any(axis=2)
        assert min(moved[mask].mean() for mask in MASKS) > 0.3
        assert not moved[~np.logical_or(*MASKS)].any()
        assert [one.source_id for one in attempt.sources.all()] == [both.pk]
    # Two regions at three credits, shared by three takes.
    assert known.account()["credits"] == 194
    assert {str(one.run.cost) for one in made} == {"0.80"}
    assert {one.run.settings["terms"] for one in made} == {"any use"}
    entries = vera.get(f"/api/pictures/{both.picture_id}/history/").json()["entries"]
    assert sum(one["what"] == "left the house" for one in entries) == 2


def test_nothing_leaves_that_was_not_seen(signed_in, both, known):
    vera = signed_in("vera")
    slip = written(vera, both)
    for seen in ([], leaves(vera, slip)[:1]):
        answer = send(vera, slip, seen)
        assert answer.status_code == 400 and "not what was shown" in answer.json()["error"]
    assert slip_of(vera, slip)["state"] == "written"
    assert both.picture.orders.count() == 0


def test_the_outline_that_leaves_is_the_one_that_the_slip_asks_for(signed_in, both, known):
    vera = signed_in("vera")
    slip = written(vera, both)
    before = leaves(vera, slip)
    region = slip_of(vera, slip)["regions"][0]
    change = {"what": "looser outline", "values": {"pixels": 20}, "because": [], "why": ""}
    vera.patch(
        f"/api/slips/{slip}/",
        {"regions": [{"region": region["region"], "changes": [change]}]},
        content_type="application/json",
    )
    after = leaves(vera, slip)
    assert after[0]["box"][2] > before[0]["box"][2] and after[1:] == before[1:]
    assert send(vera, slip, before).status_code == 400
    assert send(vera, slip, after).status_code == 200
    settle()
    assert slip_of(vera, slip)["regions"][0]["followed"] == ["looser outline"]


def test_terms_that_the_jobs_rights_do_not_allow_are_refused_before_anything_leaves(
    signed_in, both, known
):
    vera = signed_in("vera")
    slip = written(vera, both, "private")
    answer = send(vera, slip)
    assert answer.status_code == 400 and "cannot be used here" in answer.json()["error"]
    assert slip_of(vera, slip)["state"] == "written"
    assert both.picture.orders.count() == 0 and known.account()["credits"] == 200


def test_two_regions_spend_no_more_than_the_budget_holds_for_both(signed_in, both, known):
    vera = signed_in("vera")
    job = both.picture.job_id
    vera.put(f"/api/jobs/{job}/outside-budget/", {"credits": 5}, content_type="application/json")
    slip = written(vera, both)
    answer = send(vera, slip)
    assert answer.status_code == 400 and "are left" in answer.json()["error"]
    assert both.picture.orders.count() == 0


def test_a_slip_goes_to_one_recipient_and_under_terms_that_there_are(signed_in, both, known):
    vera = signed_in("vera")
    slip = written(vera, both)
    for given in ({"tier": "gold"}, {"tier": "studio", "method": "gradient fill"}):
        answer = vera.patch(f"/api/slips/{slip}/", given, content_type="application/json")
        assert answer.status_code == 400
    assert slip_of(vera, slip)["tier"] == "studio"


@pytest.mark.parametrize(
    "faults",
    [
        [{"on": "order", "fault": "500 after"}],
        [{"on": "state", "fault": "malformed"}],
        [{"on": "take", "fault": "half"}],
        [{"on": "take", "fault": "500"}, {"on": "order", "fault": "slow", "seconds": 1.0}],
    ],
)
def test_whatever_goes_wrong_on_the_way_each_region_is_charged_once(signed_in, both, known, faults):
    known.faults.schedule(faults)
    vera = signed_in("vera")
    slip = written(vera, both)
    send(vera, slip)
    settle()
    assert slip_of(vera, slip)["state"] == "rechecked"
    assert both.picture.attempts.filter(run__method__name="Fortnimm").count() == 3
    assert known.account()["credits"] == 194


def test_one_that_failed_is_gone_on_with_and_what_was_had_is_not_charged_again(
    signed_in, both, known, monkeypatch
):
    from standins import removal

    vera = signed_in("vera")
    slip = written(vera, both)
    send(vera, slip)
    whole = removal.take_out
    done = []

    def second_breaks(order, number):
        done.append(order)
        if len(done) > 3:
            raise ValueError("out of ideas")
        return whole(order, number)

    with monkeypatch.context() as patched:
        patched.setattr("standins.removal.take_out", second_breaks)
        settle()
    said = slip_of(vera, slip)
    assert said["state"] == "failed" and "could not do it" in said["reason"]
    assert known.account()["credits"] == 197
    assert send(vera, slip).json()["state"] == "sent"
    settle()
    assert slip_of(vera, slip)["state"] == "rechecked" and known.account()["credits"] == 194
    assert both.picture.attempts.filter(run__method__name="Fortnimm").count() == 3


def test_a_slip_that_is_withdrawn_or_handed_over_gives_its_orders_up(
    signed_in, both, known, people
):
    vera = signed_in("vera")
    slip = written(vera, both)
    send(vera, slip)
    answer = post(vera, f"/api/slips/{slip}/hand-over/", {"worker": people["mona"].pk})
    assert answer.json()["worker"]["name"] == people["mona"].called
    do_all_work()
    assert known.account()["credits"] == 200
    assert {order.state for order in both.picture.orders.all()} == {"cancelled"}
    assert slip_of(vera, slip)["state"] == "sent"


def test_a_retoucher_does_not_see_what_would_leave(signed_in, both, known, people):
    slip = written(signed_in("vera"), both)
    assert signed_in("mona").get(f"/api/slips/{slip}/outside/").status_code == 404
