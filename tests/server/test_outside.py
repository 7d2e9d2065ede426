"""The outside service: rights, budget, what leaves the house, and that whatever goes wrong on the
way nothing is ordered, charged or stored twice. Each test reads like its rule.
"""

from __future__ import annotations

import io
import json
import threading
import zipfile

import cv2
import numpy as np
import pytest
import requests
from builders import disc
from house import MASKS, TRUTH, do_all_work, pixels_of, post, settle

pytestmark = pytest.mark.django_db

INSIDE = MASKS[1]


def asked(client, picture, region=2, base=None):
    row = picture.regions.get(number=region)
    query = f"?region={row.pk}" + (f"&base={base.pk}" if base else "")
    return client.get(f"/api/pictures/{picture.pk}/outside/{query}").json()


def order(client, picture, tier="studio", region=2, base=None, box=None):
    row = picture.regions.get(number=region)
    body = {
        "region": row.pk,
        "base": base.pk if base else None,
        "tier": tier,
        "box": box or asked(client, picture, region, base)["leaves"]["box"],
    }
    return post(client, f"/api/pictures/{picture.pk}/outside/", body)


def newest(picture):
    from outside.models import Order

    return Order.objects.filter(picture=picture).order_by("-pk").first()


def made_of(picture):
    return list(picture.attempts.filter(run__method__name="Fortnimm").order_by("number"))


def entries(client, picture):
    return client.get(f"/api/pictures/{picture.pk}/history/").json()["entries"]


def test_three_takes_become_three_attempts_that_differ_and_are_examined(signed_in, checked, known):
    vera = signed_in("vera")
    answer = order(vera, checked)
    assert answer.status_code == 202 and answer.json()["orders"][0]["state"] == "waiting"
    settle()
    made = made_of(checked)
    assert len(made) == 3 and {one.state for one in made} == {"checked"}
    pictures = [pixels_of(one) for one in made]
    assert not np.array_equal(pictures[0], pictures[1])
    original = known_original(checked)
    for pixels in pictures:
        moved = (pixels != original).any(axis=2)
        assert moved[INSIDE].mean() > 0.3 and not moved[~INSIDE].any()
    assert {one.run.settings["take"] for one in made} == {1, 2, 3}
    assert {one.run.settings["terms"] for one in made} == {"any use"}
    assert {str(one.run.cost) for one in made} == {"0.40"}
    said = asked(vera, checked)
    assert said["spent"] == 3 and known.account()["credits"] == 197
    assert said["orders"][0]["attempts"] == [one.number for one in made]


def known_original(picture):
    from images.decoding import decoded

    return decoded(picture.original.blob).pixels


def test_what_leaves_is_shown_first_is_a_crop_without_metadata_and_is_written_down(
    signed_in, checked, known, monkeypatch
):
    from outside import client

    sent = []
    real = client.order
    monkeypatch.setattr(
        "outside.running.client.order", lambda key, data: sent.append(data) or real(key, data)
    )
    vera = signed_in("vera")
    leaves = asked(vera, checked)["leaves"]
    x, y, w, h = leaves["box"]
    assert w < TRUTH.shape[1] and not leaves["soft"] and leaves["marked"] == int(INSIDE.sum())
    wrong = order(vera, checked, box=[x, y, w + 1, h])
    assert wrong.status_code == 400 and "Look again" in wrong.json()["error"]
    order(vera, checked)
    settle()
    with zipfile.ZipFile(io.BytesIO(sent[0])) as files:
        assert set(files.namelist()) == {"picture.png", "mask.png", "order.json"}
        data = files.read("picture.png")
        chunks = {
            data[at : at + 4]
            for at in range(len(data))
            if data[at : at + 4] in (b"tEXt", b"eXIf", b"iCCP", b"iTXt")
        }
        assert chunks == set()
        crop = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)[..., ::-1]
        assert np.array_equal(crop, known_original(checked)[y : y + h, x : x + w])
    (left,) = [one for one in entries(vera, checked) if one["what"] == "left the house"]
    assert left["after"]["crop"] == [x, y, w, h] and left["after"]["metadata"] == "stripped"
    assert left["after"]["to"] == "Fortnimm" and left["after"]["bytes"] == len(sent[0])


def test_terms_that_the_jobs_rights_do_not_allow_are_refused_before_anything_leaves(
    signed_in, checked, known
):
    vera = signed_in("vera")
    refused = {tier["name"]: tier["refused"] for tier in asked(vera, checked)["tiers"]}
    assert refused["studio"] is None and "private use only" in refused["private"]
    answer = order(vera, checked, "private")
    assert answer.status_code == 400 and "paying client" in answer.json()["error"]
    assert newest(checked) is None and known.account()["credits"] == 200
    checked.job.use = "private"
    checked.job.save()
    assert order(vera, checked, "private").status_code == 202


def test_a_job_spends_no_more_than_its_budget(signed_in, checked, known):
    vera = signed_in("vera")
    budget = f"/api/jobs/{checked.job_id}/outside-budget/"
    assert vera.put(budget, {"credits": 5}, content_type="application/json").status_code == 200
    assert order(vera, checked).status_code == 202
    # What is out holds its credits, whether it was charged or not.
    beyond = order(vera, checked)
    assert beyond.status_code == 400 and "2 of the job's 5 are left" in beyond.json()["error"]
    assert (
        signed_in("mona").put(budget, {"credits": 99}, content_type="application/json").status_code
        == 404
    )


def test_only_a_supervisor_orders_or_sees_what_was_ordered(signed_in, checked, known):
    mona = signed_in("mona")
    assert mona.get(f"/api/pictures/{checked.pk}/outside/").status_code == 403
    row = checked.regions.get(number=2)
    body = {"region": row.pk, "tier": "studio", "box": [0, 0, 1, 1]}
    assert post(mona, f"/api/pictures/{checked.pk}/outside/", body).status_code == 403


@pytest.mark.parametrize(
    "faults",
    [
        [("order", "500")],
        [("order", "500 after")],
        [("order", "slow")],
        [("order", "malformed")],
        [("order", "half")],
        [("state", "500"), ("state", "malformed"), ("state", "half")],
        [("take", "half")],
        [("take", "malformed")],
        [("take", "duplicate")],
        [("take", "slow")],
        [("order", "slow"), ("state", "500"), ("take", "half"), ("take", "duplicate")],
    ],
    ids=lambda faults: " ".join(f"{on}-{fault}" for on, fault in faults).replace(" ", "_"),
)
def test_whatever_goes_wrong_on_the_way_there_are_three_attempts_and_one_charge(
    signed_in, checked, known, faults
):
    from outside import breaker

    known.faults.schedule([{"on": on, "fault": fault, "seconds": 1.0} for on, fault in faults])
    vera = signed_in("vera")
    order(vera, checked)
    for _ in range(len(faults) + 1):
        settle()
        breaker.worked()  # as if its rest were over
    made = made_of(checked)
    assert len(made) == 3 and newest(checked).state == "done"
    assert len({one.image.blob_id for one in made}) == 3
    assert known.account()["credits"] == 197 and asked(vera, checked)["spent"] == 3
    assert len([one for one in entries(vera, checked) if one["what"] == "left the house"]) == 1


def test_two_takes_that_are_the_same_picture_are_one_attempt(
    signed_in, checked, known, monkeypatch
):
    from standins import removing

    real = removing.take_out
    monkeypatch.setattr(
        "standins.removal.take_out", lambda order, number: real(order, min(number, 2))
    )
    order(signed_in("vera"), checked)
    settle()
    assert len(made_of(checked)) == 2 and newest(checked).takes.count() == 3


def test_a_worker_that_dies_after_the_order_was_taken_orders_no_second_time(
    signed_in, checked, known, monkeypatch
):
    from outside.models import Order
    from work.models import Work

    vera = signed_in("vera")
    order(vera, checked)

    def dies(order, lease):
        raise SystemExit

    monkeypatch.setattr("outside.running._waited", dies)
    with pytest.raises(SystemExit):
        do_all_work()
    monkeypatch.undo()
    # It is known as ordered only to the service: the answer was lost with the worker.
    Order.objects.update(remote="")
    Work.objects.filter(kind="order").update(leased_until="2000-01-01T00:00Z", state="waiting")
    settle()
    assert len(made_of(checked)) == 3 and known.account()["credits"] == 197


def test_a_service_that_fails_again_and_again_is_left_alone_and_tried_again_later(
    signed_in, checked, known
):
    from outside import breaker
    from work.models import Work

    known.faults.schedule([{"on": "order", "fault": "500"}] * 6)
    vera = signed_in("vera")
    order(vera, checked)
    for _ in range(breaker.FAILURES):
        do_all_work()
    assert asked(vera, checked)["resting"]
    before = len(known.faults._waiting)
    do_all_work()
    assert len(known.faults._waiting) == before
    work = Work.objects.get(kind="order")
    assert work.state == "waiting" and "left alone" in work.words
    first = breaker.service().resting_until
    # The rest is over: one more failure makes it longer.
    breaker.Service.objects.update(resting_until="2000-01-01T00:00Z")
    do_all_work()
    assert breaker.service().resting_until > first
    known.faults.schedule([])
    breaker.Service.objects.update(resting_until="2000-01-01T00:00Z")
    settle()
    assert newest(checked).state == "done" and breaker.service().failures == 0


def test_an_order_that_the_service_cannot_do_costs_nothing_and_can_be_ordered_anew(
    signed_in, checked, known, monkeypatch
):
    def broken(order, number):
        raise ValueError("out of ideas")

    vera = signed_in("vera")
    with monkeypatch.context() as patched:
        patched.setattr("standins.removal.take_out", broken)
        order(vera, checked)
        settle()
    failed = newest(checked)
    assert failed.state == "failed" and "could not do it" in failed.reason
    assert asked(vera, checked)["spent"] == 0 and known.account()["credits"] == 200
    assert post(vera, f"/api/orders/{failed.pk}/").status_code == 202
    settle()
    assert len(made_of(checked)) == 3 and known.account()["credits"] == 197


def test_an_order_whose_takes_could_not_be_read_is_gone_on_with_and_charged_once(
    signed_in, checked, known, monkeypatch
):
    from zweiblick_core.errors import Refused

    def unreadable(*_):
        raise Refused("take 1 cannot be read")

    vera = signed_in("vera")
    with monkeypatch.context() as patched:
        patched.setattr("outside.running._read", unreadable)
        order(vera, checked)
        settle()
    failed = newest(checked)
    assert failed.state == "failed" and asked(vera, checked)["spent"] == 3
    assert post(vera, f"/api/orders/{failed.pk}/").status_code == 202
    settle()
    assert len(made_of(checked)) == 3 and known.account()["credits"] == 197


def test_credits_that_the_account_lacks_are_said_and_not_held(signed_in, checked, known, tmp_path):
    (tmp_path / "account.json").write_text(json.dumps({"credits": 1}))
    vera = signed_in("vera")
    order(vera, checked)
    settle()
    failed = newest(checked)
    assert failed.state == "failed" and "not enough credits" in failed.reason
    assert asked(vera, checked)["spent"] == 0


def test_an_order_is_given_up_before_it_left_at_no_cost_and_after_that_stays_charged(
    signed_in, checked, known, monkeypatch
):
    vera = signed_in("vera")
    order(vera, checked)
    first = newest(checked)
    assert vera.delete(f"/api/orders/{first.pk}/").json()["spent"] == 0
    settle()
    assert made_of(checked) == [] and known.account()["credits"] == 200
    order(vera, checked)
    monkeypatch.setattr("outside.running.PATIENCE", -1.0)
    monkeypatch.setattr("standins.removal.time.sleep", lambda _: threading.Event().wait(0.3))
    do_all_work()
    second = newest(checked)
    assert vera.delete(f"/api/orders/{second.pk}/").json()["spent"] == 3
    monkeypatch.undo()
    settle()
    assert made_of(checked) == [] and vera.delete(f"/api/orders/{second.pk}/").status_code == 409


def test_an_order_is_made_from_an_attempt_if_one_is_chosen(signed_in, checked, known):
    vera = signed_in("vera")
    base = checked.attempts.get(number=2)
    order(vera, checked, base=base)
    settle()
    one = made_of(checked)[0]
    assert [row.source_id for row in one.sources.all()] == [base.pk]
    moved = (pixels_of(one) != pixels_of(base)).any(axis=2)
    assert not moved[~INSIDE].any()


def test_without_a_service_nothing_is_offered(signed_in, checked, settings):
    settings.REMOVAL_URL = ""
    said = asked(signed_in("vera"), checked)
    assert said["name"] is None and said["tiers"] == []
    assert order(signed_in("vera"), checked).status_code == 400


# -- the stand-in itself, over HTTP


def say(settings, method, path, **more):
    headers = {"X-Api-Key": more.pop("key", "secret"), **more.pop("headers", {})}
    return requests.request(method, settings.REMOVAL_URL + path, headers=headers, timeout=5, **more)


def packed(picture, mask):
    from outside.leaving import package

    return package(picture, mask, "studio")


def test_the_service_takes_nothing_without_its_key(service, settings):
    for method, path in (("GET", "/v1/account"), ("POST", "/v1/orders"), ("PUT", "/v1/faults")):
        assert say(settings, method, path, key="guess", data=b"x").status_code == 403


def test_the_service_charges_a_key_once_and_refuses_it_for_another_order(service, settings):
    one, other = packed(TRUTH, INSIDE), packed(TRUTH, MASKS[0])
    headers = {"Idempotency-Key": "a" * 32}
    first = say(settings, "POST", "/v1/orders", data=one, headers=headers)
    again = say(settings, "POST", "/v1/orders", data=one, headers=headers)
    assert (first.status_code, again.status_code) == (201, 200)
    assert first.json()["id"] == again.json()["id"]
    assert say(settings, "POST", "/v1/orders", data=other, headers=headers).status_code == 409
    assert say(settings, "GET", "/v1/account").json()["credits"] == 197
    headers = {"Idempotency-Key": "b" * 32}
    assert say(settings, "POST", "/v1/orders", data=b"zip?", headers=headers).status_code == 400


def test_the_service_works_at_a_limited_size_so_that_large_regions_come_back_soft():
    from standins.removing import LARGEST, Package, take_out

    noise = np.random.default_rng(5).integers(0, 256, (300, 2 * LARGEST, 3), np.uint8)
    mask = disc(noise.shape[:2], LARGEST, 150, 60)
    taken = cv2.imdecode(np.frombuffer(take_out(Package(noise, mask, {}), 1), np.uint8), 1)
    sharp = lambda pixels: float(
        np.abs(np.diff(pixels.astype(int), axis=1))[:, :][mask[:, 1:]].mean()
    )
    assert sharp(taken) < 0.5 * sharp(noise)
    assert np.array_equal(taken[~mask], noise[~mask])


def test_a_killed_service_goes_on_with_what_it_took(tmp_path):
    import time

    from standins.removal import Service

    slow = Service(tmp_path, 30.0, 10)
    code, said = slow.order("c" * 32, packed(TRUTH, INSIDE))
    assert code == 201 and slow.state(said["id"])["state"] == "working"
    another = Service(tmp_path, 0.0, 10)
    until = time.monotonic() + 20
    while another.state(said["id"])["state"] == "working" and time.monotonic() < until:
        time.sleep(0.05)
    assert another.state(said["id"])["state"] == "done" and another.account()["credits"] == 7
