"""What was entered can be corrected, and what came in by mistake withdrawn; nothing is erased, and
history says who. Each test reads like its rule.
"""

from __future__ import annotations

import pytest
from house import bench, do_all_work, post, rule_all

pytestmark = pytest.mark.django_db

FACTS = {
    "method": "Fortnimm",
    "kind": "outside service",
    "maker": "us",
    "seconds": 12.5,
    "cost": "0.40",
    "settings": {"margin": 8, "feather": 0, "seed": 7, "sources kept out": [10, 20]},
    "terms": "private use only",
    "left_house": True,
    "made_from": [1],
}


def correct(client, attempt, **more):
    return client.put(
        f"/api/attempts/{attempt.pk}/facts/", {**FACTS, **more}, content_type="application/json"
    )


def of(found, number):
    return next(one for one in found["attempts"] if one["number"] == number)


def entries(client, picture, what):
    found = client.get(f"/api/pictures/{picture.pk}/history/").json()["entries"]
    return [one for one in found if one["what"] == what]


def test_every_fact_of_an_attempt_can_be_corrected_and_history_says_what_changed(
    signed_in, checked
):
    vera, third = signed_in("vera"), checked.attempts.get(number=3)
    found = correct(vera, third)
    assert found.status_code == 200
    after = of(found.json(), 3)
    assert (after["method"], after["kind"], after["maker"]) == ("Fortnimm", "outside service", "us")
    assert after["seconds"] == 12.5 and after["cost"] == "0.40" and after["left_house"] is True
    assert after["settings"] == {**FACTS["settings"], "terms": "private use only"}
    assert after["made_from"] == [checked.attempts.get(number=1).pk]
    (entry,) = entries(vera, checked, "attempt corrected")
    assert entry["before"]["method"] == "method 3" and entry["after"]["method"] == "Fortnimm"
    assert "maker" not in entry["after"]  # it was that already
    # Said again, it says nothing new.
    correct(vera, third)
    assert len(entries(vera, checked, "attempt corrected")) == 1


def test_terms_that_do_not_allow_the_job_are_marked_and_so_is_what_is_made_from_it(
    signed_in, checked
):
    vera = signed_in("vera")
    correct(vera, checked.attempts.get(number=1), made_from=[])
    found = correct(
        vera, checked.attempts.get(number=3), terms="", method="method 3", kind="built in"
    )
    assert "private use only" in of(found.json(), 1)["barred"]
    assert of(found.json(), 3)["barred"].startswith("attempt 1: ")
    assert of(found.json(), 2)["barred"] is None


def test_an_attempt_is_made_from_earlier_ones_of_its_picture_only(signed_in, checked):
    vera, second = signed_in("vera"), checked.attempts.get(number=2)
    for numbers in ([2], [3], [9]):
        refused = correct(vera, second, made_from=numbers)
        assert refused.status_code == 400 and "came before" in refused.json()["error"]


def test_takes_of_one_run_are_corrected_one_by_one(signed_in, checked):
    first, second = checked.attempts.get(number=1), checked.attempts.get(number=2)
    second.run = first.run
    second.save()
    correct(signed_in("vera"), second)
    first.refresh_from_db()
    assert first.run.method.name == "method 1"


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"settings": {"a": {"b": 1}}}, "word, a number"),
        ({"settings": {"a": "x" * 300}}, "word, a number"),
        ({"settings": {str(n): n for n in range(99)}}, "At most"),
        ({"kind": "by hand", "method": "method 1"}, "known as"),
        ({"terms": "whatever"}, "valid choice"),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_is_changed(signed_in, checked, wrong, words):
    vera, third = signed_in("vera"), checked.attempts.get(number=3)
    refused = correct(vera, third, **wrong)
    assert refused.status_code == 400 and words in refused.json()["error"]
    third.refresh_from_db()
    assert third.run.method.name == "method 3"


def test_a_withdrawn_attempt_stands_nowhere_and_can_be_taken_in_again(signed_in, checked, people):
    vera, third = signed_in("vera"), checked.attempts.get(number=3)
    rule_all(checked, 3, people)
    assert bench(vera, checked)["state"] == "done"
    found = vera.delete(f"/api/attempts/{third.pk}/").json()
    assert found["state"] == "undecided" and [one["number"] for one in found["attempts"]] == [1, 2]
    assert all(one["attempt"] != third.pk for one in found["cells"])
    assert [one["number"] for one in found["withdrawn"]] == [3]
    # The next one gets a number of its own.
    from house import TRUTH, png

    from attempts.intake import Facts, add_attempt

    fourth = add_attempt(checked, "4.png", png(TRUTH), Facts("hand", "by hand"), people["vera"])
    assert fourth.number == 4
    do_all_work()
    assert vera.get(f"/api/pictures/{checked.pk}/bench/").status_code == 200
    again = post(vera, f"/api/attempts/{third.pk}/again/").json()
    assert again["state"] == "done" and not again["withdrawn"]
    for what in ("attempt withdrawn", "attempt taken in again"):
        assert entries(vera, checked, what)[0]["person"] == "Vera"


def test_what_is_on_a_slip_signed_off_or_seen_by_a_guest_is_not_withdrawn(
    signed_in, failed, sent, people
):
    from jobs.models import Release

    vera, picture = signed_in("vera"), failed.picture
    refused = vera.delete(f"/api/attempts/{failed.pk}/")
    assert refused.status_code == 400 and "slip 1 has attempt 2" in refused.json()["error"]
    assert "slip 1" in vera.delete(f"/api/pictures/{picture.pk}/").json()["error"]
    third = picture.attempts.get(number=3)
    Release.objects.create(
        picture=picture, attempt=third, person=people["archive"], released_by=people["vera"]
    )
    assert "shown to a guest" in vera.delete(f"/api/attempts/{third.pk}/").json()["error"]


def test_what_is_signed_off_is_neither_corrected_nor_withdrawn(signed_in, checked, people):
    vera, third = signed_in("vera"), checked.attempts.get(number=3)
    rule_all(checked, 3, people)
    post(vera, f"/api/pictures/{checked.pk}/sign-off/", {"attempt": third.pk})
    for refused in (
        correct(vera, third),
        vera.delete(f"/api/attempts/{third.pk}/"),
        vera.delete(f"/api/pictures/{checked.pk}/"),
    ):
        assert refused.status_code == 400 and "signed off by Vera" in refused.json()["error"]


def test_a_picture_is_renamed_withdrawn_and_taken_in_again(signed_in, checked):
    vera, at = signed_in("vera"), f"/api/pictures/{checked.pk}/"
    sheet = vera.patch(at, {"name": "Slipway, west"}, content_type="application/json").json()
    assert [one["name"] for one in sheet["pictures"]] == ["Slipway, west"]
    assert vera.patch(at, {"name": "  "}, content_type="application/json").status_code == 400
    sheet = vera.delete(at).json()
    assert sheet["pictures"] == [] and sheet["withdrawn"][0]["name"] == "Slipway, west"
    assert vera.get("/api/desk/").json()["total"] == 0
    assert vera.get(f"{at}bench/").status_code == 404
    sheet = post(vera, f"{at}again/").json()
    assert sheet["withdrawn"] == [] and sheet["pictures"][0]["regions"] == 2
    assert vera.get("/api/desk/").json()["total"] == 1


def test_only_supervisors_correct(signed_in, checked):
    mona, third = signed_in("mona"), checked.attempts.get(number=3)
    assert correct(mona, third).status_code == 403
    assert mona.delete(f"/api/attempts/{third.pk}/").status_code == 403
    assert mona.delete(f"/api/pictures/{checked.pk}/").status_code == 403
