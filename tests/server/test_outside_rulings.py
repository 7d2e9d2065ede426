"""What changed outside every region is ruled on by people, belongs to the attempt, and holds the
picture up until it is.
"""

from __future__ import annotations

import pytest
from builders import filled, holding
from house import MASK, WIDE, bench, bring, do_all_work, dusted, overreaching, rule_all, say

pytestmark = pytest.mark.django_db


@pytest.fixture
def quay(job, people):
    return overreaching(job, people)


def outside(found, number):
    return next(one for one in found["attempts"] if one["number"] == number)["check_of"]["outside"]


def test_a_picture_is_not_done_before_what_changed_outside_is_let_stand(signed_in, quay, people):
    from ledger.models import PictureState

    second = quay.attempts.get(number=2)
    rule_all(quay, 2, people)
    vera = signed_in("vera")
    found = bench(vera, quay)
    assert found["state"] == "changed outside" and found["done"] is None
    assert found["held_up"] == [second.pk]
    assert PictureState.objects.get(picture=quay).state == "changed outside"
    (change,) = outside(found, 2)
    assert change["answer"] == "unread" and change["answered_by"] is None
    found = say(vera, second, "acceptable").json()
    assert found["state"] == "done" and found["done"] == second.pk and not found["held_up"]
    assert outside(found, 2)[0]["answered_by"] == "Vera"
    assert PictureState.objects.get(picture=quay).state == "done"
    assert say(vera, second, "confirmed").json()["state"] == "changed outside"
    assert say(vera, second, "unread").json()["held_up"] == [second.pk]
    history = vera.get(f"/api/pictures/{quay.pk}/history/").json()["entries"]
    said = [(one["before"], one["after"]) for one in history if one["what"] == "change outside"]
    assert said == [
        ("confirmed", "unread"),
        ("acceptable", "confirmed"),
        ("unread", "acceptable"),
    ]


def test_what_the_client_does_not_mind_holds_nothing_up(signed_in, quay, people, job):
    rule_all(quay, 2, people)
    job.bar = {"overreach": 1.0}
    job.save()
    assert bench(signed_in("vera"), quay)["state"] == "done"


def test_only_a_supervisor_says_it_and_only_of_what_there_is(signed_in, quay):
    second = quay.attempts.get(number=2)
    assert say(signed_in("mona"), second, "acceptable").status_code == 403
    refused = say(signed_in("vera"), second, "acceptable", number=7)
    assert refused.status_code == 400 and "no such place" in refused.json()["error"]


def test_what_was_said_stands_in_a_later_check_and_in_what_is_made_from_it(signed_in, quay, people):
    from attempts.models import AttemptSource
    from checks.running import ask_checks_anew

    second, vera = quay.attempts.get(number=2), signed_in("vera")
    say(vera, second, "acceptable")
    quay.job.sizes.filter(position=0).update(spec="500x400mm@150dpi@700mm")
    ask_checks_anew(picture=quay)
    do_all_work()
    assert outside(bench(vera, quay), 2)[0]["answer"] == "acceptable"
    # Made from it, and the same there; another picks the region up but changes more outside.
    for number, pixels in (
        (3, dusted(holding(WIDE, MASK))),
        (4, dusted(holding(WIDE, MASK), 30.0)),
    ):
        third = bring(quay, f"{number}.png", pixels, people)
        AttemptSource.objects.create(attempt=third, source=second)
    do_all_work()
    found = bench(vera, quay)
    assert [one["answer"] for one in outside(found, 3)] == ["acceptable"]
    assert [one["answer"] for one in outside(found, 4)] == ["unread"]


def test_against_an_agreed_base_only_what_goes_beyond_it_is_overreach(signed_in, quay, people):
    second, vera = quay.attempts.get(number=2), signed_in("vera")
    same = bring(quay, "3.png", dusted(filled(WIDE, MASK, WIDE.astype(float) + 20)), people)
    do_all_work()
    assert len(outside(bench(vera, quay), 3)) == 1
    say(vera, second, "agreed base")
    do_all_work()
    found = bench(vera, quay)
    assert outside(found, 3) == [] and outside(found, 2)[0]["answer"] == "agreed base"
    assert second.pk not in found["held_up"] and same.pk not in found["held_up"]
    # Taken back, it is overreach again.
    say(vera, second, "unread")
    do_all_work()
    assert len(outside(bench(vera, quay), 3)) == 1


def test_only_an_attempt_of_the_original_s_frame_is_the_agreed_base(signed_in, quay, monkeypatch):
    second = quay.attempts.get(number=2)
    second.image.width -= 8
    second.image.save()
    refused = say(signed_in("vera"), second, "agreed base")
    assert refused.status_code == 400 and "own frame" in refused.json()["error"]
