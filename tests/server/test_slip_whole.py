"""A slip in full: regions of several attempts, whom it goes to, a dry run, what changed elsewhere,
what was followed. Each test reads like its rule.
"""

from __future__ import annotations

import io
import json
import zipfile

import numpy as np
import pytest
from builders import disc, filled, holding, png
from django.core.files.uploadedfile import SimpleUploadedFile
from house import MASKS, TRUTH, do_all_work, package_of, pixels_of, post, returned

from zweiblick_core.io import read

pytestmark = pytest.mark.django_db


@pytest.fixture
def also(failed, people):
    """The first region failed too, in the first attempt; a pass of it stands in the second."""
    from verdicts.models import Cell
    from verdicts.ruling import rule

    attempt = failed.picture.attempts.get(number=1)
    cell = Cell.objects.get(attempt=attempt, region__number=1)
    rule(cell.pk, people["vera"], "rework", None, None)
    return cell


def written(client, attempt):
    return post(client, f"/api/attempts/{attempt.pk}/slips/").json()


def edit(client, slip, **body):
    return client.patch(f"/api/slips/{slip}/", body, content_type="application/json")


def mended(attempt):
    noise = np.random.default_rng(8).normal(0, 0.8, TRUTH.shape)
    return filled(pixels_of(attempt), MASKS[1], TRUTH + noise)


def hand_in(client, slip, pixels, **more):
    file = SimpleUploadedFile("back.png", png(pixels))
    return client.post(f"/api/slips/{slip}/result/", {"file": file, "seconds": "300", **more})


def test_a_slip_takes_what_failed_in_other_attempts_of_the_picture_too(signed_in, failed, also):
    vera = signed_in("vera")
    slip = written(vera, failed)
    offered = {(one["number"], one["attempt_number"]): one["cell"] for one in slip["offered"]}
    assert set(offered) == {(1, 1), (2, 2)}
    slip = edit(vera, slip["id"], cells=list(offered.values())).json()
    parts = {one["number"]: one for one in slip["regions"]}
    assert {number: one["attempt_number"] for number, one in parts.items()} == {1: 1, 2: 2}
    assert parts[1]["flaws"] and parts[1]["changes"] and parts[1]["sent_cell"] == also.pk
    assert parts[1]["image"]["id"] != parts[2]["image"]["id"]


def test_its_package_shows_each_region_as_it_failed_and_brings_the_other_attempt_along(
    signed_in, failed, also
):
    vera = signed_in("vera")
    slip = written(vera, failed)
    edit(vera, slip["id"], cells=[one["cell"] for one in slip["offered"]], due="2027-03-01")
    data = package_of(vera, slip["id"])
    with zipfile.ZipFile(io.BytesIO(data)) as files:
        said = json.loads(files.read("slip.json"))
        assert said["due"] == "2027-03-01" and said["attempt"] == 2
        assert {one["number"]: one["attempt"] for one in said["regions"]} == {1: 1, 2: 2}
        other = read(files.read(said["others"]["1"])).pixels
        assert np.array_equal(other, pixels_of(also.attempt))
        assert said["locked"] == []


def test_a_region_can_be_left_off_and_taken_on_again_but_one_stays(signed_in, failed, also):
    vera = signed_in("vera")
    slip = written(vera, failed)
    both = {one["number"]: one["cell"] for one in slip["offered"]}
    edit(vera, slip["id"], cells=list(both.values()))
    region = next(one["region"] for one in slip["offered"] if one["number"] == 2)
    edit(vera, slip["id"], regions=[{"region": region, "note": "mind the rope"}])
    left = edit(vera, slip["id"], cells=[both[2]]).json()
    assert [(one["number"], one["note"]) for one in left["regions"]] == [(2, "mind the rope")]
    assert [one["number"] for one in left["offered"]] == [1, 2]
    nothing = edit(vera, slip["id"], cells=[])
    assert nothing.status_code == 400 and "one region at least" in nothing.json()["error"]


def test_a_slip_takes_only_what_failed_and_a_region_only_once(signed_in, failed, also, people):
    from verdicts.models import Cell
    from verdicts.ruling import rule

    vera = signed_in("vera")
    slip = written(vera, failed)
    passed = failed.cells.get(region__number=1)
    wrong = edit(vera, slip["id"], cells=[passed.pk])
    assert wrong.status_code == 400 and "ruled rework or rebuild" in wrong.json()["error"]
    twice = Cell.objects.get(attempt=also.attempt, region__number=2)
    rule(twice.pk, people["vera"], "rework", None, None)
    own = failed.cells.get(region__number=2)
    again = edit(vera, slip["id"], cells=[own.pk, twice.pk])
    assert again.status_code == 400 and "once" in again.json()["error"]
    assert [one["number"] for one in vera.get(f"/api/slips/{slip['id']}/").json()["regions"]] == [2]


def test_what_is_out_on_another_slip_is_not_taken_on(signed_in, failed, also, people):
    vera = signed_in("vera")
    first = written(vera, also.attempt)
    second = written(vera, failed)
    both = [one["cell"] for one in second["offered"]]
    refused = edit(vera, second["id"], cells=both)
    assert refused.status_code == 400 and f"slip {first['round']}" in refused.json()["error"]


def test_a_region_of_another_attempt_is_compared_with_how_it_failed_there(
    signed_in, failed, also, people
):
    vera = signed_in("vera")
    slip = written(vera, failed)
    cells = [one["cell"] for one in slip["offered"]]
    edit(vera, slip["id"], cells=cells, worker=people["mona"].pk)
    post(vera, f"/api/slips/{slip['id']}/send/")
    pixels = holding(TRUTH, np.any(MASKS, axis=0))
    pixels[150, 290] ^= 1  # the third attempt but for a pixel
    returned(signed_in("mona"), slip["id"], pixels)
    do_all_work()
    back = vera.get(f"/api/slips/{slip['id']}/").json()
    assert {one["number"]: one["outcome"] for one in back["regions"]} == {1: "fixed", 2: "fixed"}
    assert back["locks"] == []


def test_slips_are_due_on_a_day_that_history_knows(signed_in, failed):
    vera = signed_in("vera")
    slip = written(vera, failed)
    assert edit(vera, slip["id"], due="2027-03-01").json()["due"] == "2027-03-01"
    assert edit(vera, slip["id"], note="x").json()["due"] == "2027-03-01"
    assert edit(vera, slip["id"], due=None).json()["due"] is None
    assert edit(vera, slip["id"], due="soon").status_code == 400
    entries = vera.get(f"/api/pictures/{failed.picture_id}/history/").json()["entries"]
    due = [
        one["after"]["due"]
        for one in entries
        if one["what"] == "slip edited" and "due" in (one["after"] or {})
    ]
    assert due == [None, "2027-03-01"]


def test_a_built_in_method_works_a_slip_by_what_it_asks_and_nothing_else_moves(signed_in, failed):
    vera = signed_in("vera")
    slip = written(vera, failed)
    region = slip["regions"][0]["region"]
    changes = [
        {"what": "looser outline", "values": {"pixels": 4}, "because": ["seam"]},
        {"what": "one thing at a time", "values": {}, "because": []},
    ]
    edit(
        vera,
        slip["id"],
        method="exemplar fill",
        regions=[{"region": region, "changes": changes}],
    )
    sent = post(vera, f"/api/slips/{slip['id']}/send/").json()
    assert (sent["worker"]["name"], sent["method"]) == ("exemplar fill", "exemplar fill")
    do_all_work()
    back = vera.get(f"/api/slips/{slip['id']}/").json()
    assert back["state"] == "rechecked", back["reason"]
    attempt = failed.picture.attempts.get(pk=back["returned"])
    assert attempt.run.method.name == "exemplar fill" and attempt.maker == "Zweiblick"
    moved = (pixels_of(attempt) != pixels_of(failed)).any(axis=2)
    assert moved[disc(TRUTH.shape[:2], 290, 150, 30)].mean() > 0.9
    assert not moved[~disc(TRUTH.shape[:2], 290, 150, 40)].any()
    assert back["elsewhere"]["same"] and not back["elsewhere"]["saved_anew"]
    (part,) = back["regions"]
    assert part["followed"] == ["looser outline"]
    helped = {one["what"]: (one["followed"], one["helped"]) for one in part["helped"]}
    assert helped["one thing at a time"] == (False, None)
    seam = dict(part_kinds(part)).get("seam")
    assert helped["looser outline"] == (True, seam == "fixed")


def part_kinds(part):
    return [(flaw["kind"], flaw["outcome"]) for flaw in part["flaws"]]


def test_a_slip_goes_to_no_method_that_needs_a_spot_or_that_there_is_not(signed_in, failed):
    vera = signed_in("vera")
    slip = written(vera, failed)
    assert "straight copy" not in slip["methods"] and "gradient fill" in slip["methods"]
    for wrong in ("straight copy", "magic"):
        answer = edit(vera, slip["id"], method=wrong)
        assert answer.status_code == 400 and wrong in answer.json()["error"]


def test_what_came_back_is_compared_everywhere_outside_what_was_sent(signed_in, sent, failed):
    pixels = mended(failed)
    pixels[20:26, 30:38] ^= 8  # far from both regions
    returned(signed_in("mona"), sent, pixels)
    do_all_work()
    back = signed_in("vera").get(f"/api/slips/{sent}/").json()
    elsewhere = back["elsewhere"]
    assert not elsewhere["same"] and elsewhere["differing"] == 48
    (place,) = elsewhere["places"]
    assert place == {"bbox": [30.0, 20.0, 8.0, 6.0], "differing": 48, "largest": 8}
    # The locked region itself was left alone.
    assert [lock["same"] for lock in back["locks"]] == [True]


def test_what_was_sent_is_put_back_there_as_a_new_attempt(signed_in, sent, failed):
    pixels = mended(failed)
    pixels[20:26, 30:38] ^= 8
    returned(signed_in("mona"), sent, pixels)
    do_all_work()
    vera = signed_in("vera")
    assert post(signed_in("mona"), f"/api/slips/{sent}/put-back/").status_code == 403
    assert post(vera, f"/api/slips/{sent}/put-back/").status_code == 202
    do_all_work()
    repaired = failed.picture.attempts.order_by("-number").first()
    assert repaired.run.method.name == "sent attempt put back outside"
    inside = disc(TRUTH.shape[:2], 290, 150, 30)
    now = pixels_of(repaired)
    assert np.array_equal(now[inside], pixels[inside])
    assert np.array_equal(now[20:26, 30:38], pixels_of(failed)[20:26, 30:38])


def test_a_dry_run_says_what_the_recheck_would_and_stores_no_attempt(signed_in, sent, failed):
    mona, vera = signed_in("mona"), signed_in("vera")
    before = failed.picture.attempts.count()
    pixels = mended(failed)
    pixels[20:26, 30:38] ^= 8
    assert hand_in(mona, sent, pixels, dry="true").status_code == 202
    do_all_work()
    slip = mona.get(f"/api/slips/{sent}/").json()
    assert slip["state"] == "sent" and failed.picture.attempts.count() == before
    report = slip["returning"]["report"]
    (region,) = report["regions"]
    assert region["word"] == "fixed" and report["elsewhere"]["differing"] == 48
    # Handed in as it is, the recheck says the same.
    assert post(mona, f"/api/slips/{sent}/hand-in/").status_code == 202
    do_all_work()
    back = vera.get(f"/api/slips/{sent}/").json()
    assert back["state"] == "rechecked" and failed.picture.attempts.count() == before + 1
    assert [one["outcome"] for one in back["regions"]] == [region["word"]]
    assert back["elsewhere"] == report["elsewhere"]
    assert post(mona, f"/api/slips/{sent}/hand-in/").status_code == 409


def test_a_dry_run_can_be_followed_by_another_file_and_the_first_is_kept_no_longer(
    signed_in, sent, failed
):
    from slips.models import Return
    from slips.returning import stored_name
    from store.places import arrivals

    mona = signed_in("mona")
    hand_in(mona, sent, pixels_of(failed.picture.attempts.get(number=1)) // 2 + 60, dry="true")
    do_all_work()
    first = Return.objects.get()
    hand_in(mona, sent, mended(failed), dry="true")
    do_all_work()
    second = Return.objects.exclude(pk=first.pk).get()
    assert not arrivals().is_file(stored_name(first.key))
    assert arrivals().is_file(stored_name(second.key))
    post(signed_in("vera"), f"/api/slips/{sent}/withdraw/")
    from slips.returning import let_go_of_closed

    let_go_of_closed()
    assert not arrivals().is_file(stored_name(second.key))


def test_whoever_returns_it_says_which_changes_were_followed(signed_in, sent, failed):
    mona = signed_in("mona")
    slip = mona.get(f"/api/slips/{sent}/").json()
    part = slip["regions"][0]
    asked = [one["what"] for one in part["changes"]]
    unknown = json.dumps([{"region": part["region"], "changes": ["do magic"]}])
    refused = hand_in(mona, sent, mended(failed), followed=unknown)
    assert refused.status_code == 400 and "asks for" in refused.json()["error"]
    followed = json.dumps([{"region": part["region"], "changes": asked[:1]}])
    assert hand_in(mona, sent, mended(failed), followed=followed).status_code == 202
    do_all_work()
    (back,) = signed_in("vera").get(f"/api/slips/{sent}/").json()["regions"]
    assert back["followed"] == asked[:1]
    assert [one["followed"] for one in back["helped"]] == [what in asked[:1] for what in asked]
    for one, change in zip(back["helped"], back["changes"], strict=True):
        assert one["helped"] is (True if change["because"] else None)


@pytest.mark.parametrize("text", ["{", "[1]", '[{"region": 1}]', "[" * 5000])
def test_what_was_followed_must_be_readable(signed_in, sent, failed, text):
    assert hand_in(signed_in("mona"), sent, mended(failed), followed=text).status_code == 400
