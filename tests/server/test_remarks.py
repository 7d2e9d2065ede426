"""What a guest says of a released picture is kept word for word and answered before it is signed
off. Each test reads like its rule.
"""

from __future__ import annotations

import pytest
from house import post

pytestmark = pytest.mark.django_db


@pytest.fixture
def released(checked, people):
    from jobs.models import Release

    attempt = checked.attempts.get(number=3)
    return Release.objects.create(
        picture=checked, attempt=attempt, person=people["archive"], released_by=people["vera"]
    )


def say(client, release, words="The rope is cut off.", place=(120, 140)):
    body = {"words": words, "place": None if place is None else list(place)}
    return post(client, f"/api/released/{release.pk}/remarks/", body)


def signing(client, picture):
    return client.get(f"/api/pictures/{picture.pk}/sign-off/").json()


def answer(client, remark, **body):
    return post(client, f"/api/remarks/{remark}/answer/", body)


def test_a_guest_sees_before_and_after_and_says_something_of_a_place(signed_in, released):
    guest = signed_in("archive")
    assert say(guest, released).status_code == 201
    (seen,) = guest.get("/api/released/").json()
    assert seen["original"]["id"] != seen["image"]["id"]
    (remark,) = seen["remarks"]
    assert remark["words"] == "The rope is cut off." and remark["place"] == [120, 140]
    assert remark["answered_at"] is None
    tiles = guest.get(f"{seen['original']['tiles']}info.json")
    assert tiles.status_code == 200


def test_it_is_kept_word_for_word_in_history_too(signed_in, released, checked):
    say(signed_in("archive"), released, "Is that =our= boat?", None)
    entries = signed_in("vera").get(f"/api/pictures/{checked.pk}/history/").json()["entries"]
    (made,) = [one for one in entries if one["what"] == "remark made"]
    assert made["after"] == {"words": "Is that =our= boat?", "place": None}


@pytest.mark.parametrize(
    "words, place", [("  ", None), ("there", (9999, 5)), ("x" * 4001, None), ("there", (1,))]
)
def test_what_says_nothing_or_lies_outside_is_refused(signed_in, released, words, place):
    assert say(signed_in("archive"), released, words, place).status_code == 400
    assert released.picture.remarks.count() == 0


def test_only_whom_it_was_released_to_says_something(signed_in, released):
    for who in ("vera", "mona", "stranger"):
        assert say(signed_in(who), released).status_code == 404


def test_a_remark_stands_in_the_way_of_signing_until_it_is_answered(
    signed_in, released, checked, people
):
    from verdicts.models import Cell
    from verdicts.ruling import rule

    for cell in Cell.objects.filter(attempt=released.attempt):
        rule(cell.pk, people["vera"], "passes", None, None)
    vera, guest = signed_in("vera"), signed_in("archive")
    remark = say(guest, released).json()["id"]
    assert signing(vera, checked)["reasons"] == ["A remark waits for an answer."]
    body = {"attempt": released.attempt_id, "outside_accepted": True}
    refused = post(vera, f"/api/pictures/{checked.pk}/sign-off/", body)
    assert refused.status_code == 400 and "waits for an answer" in refused.json()["error"]
    assert answer(vera, remark, words="").status_code == 400
    said = answer(vera, remark, words="It was cut off in the original too.").json()
    assert said["answered_by"] == people["vera"].called
    assert signing(vera, checked)["reasons"] == []
    (seen,) = guest.get("/api/released/").json()[0]["remarks"]
    assert seen["answer"] == "It was cut off in the original too."
    # What was said is said: it is answered once.
    assert answer(vera, remark, words="or rather").status_code == 409


def test_a_remark_can_become_a_finding_of_a_person_at_its_place(signed_in, released, checked):
    from looks.models import OwnFinding

    vera = signed_in("vera")
    remark = say(signed_in("archive"), released).json()["id"]
    region = checked.regions.get(number=1)
    said = answer(vera, remark, kind="lost", region=region.pk, severity="glaring")
    assert said.status_code == 200 and said.json()["kind"] == "lost"
    (flaw,) = OwnFinding.objects.standing()
    assert flaw.words == "The rope is cut off." and flaw.attempt == released.attempt
    x, y, w, h = flaw.bbox
    assert x < 120 < x + w and y < 140 < y + h
    for wrong in ({"kind": "lost"}, {"kind": "unheard of", "region": region.pk}):
        other = say(signed_in("archive"), released, "and there").json()["id"]
        assert answer(vera, other, **wrong).status_code == 400
    whole = say(signed_in("archive"), released, "all of it", None).json()["id"]
    assert answer(vera, whole, kind="lost", region=region.pk).status_code == 400
    assert OwnFinding.objects.count() == 1


def test_who_may_not_see_it_any_more_sees_no_remarks(signed_in, released):
    guest = signed_in("archive")
    say(guest, released)
    released.delete()
    assert guest.get("/api/released/").json() == []
