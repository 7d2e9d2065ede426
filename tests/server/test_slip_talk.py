"""What is said on a slip, and handing it over: each test reads like its rule."""

from __future__ import annotations

import pytest
from builders import filled
from house import MASKS, TRUTH, do_all_work, pixels_of, post, returned

pytestmark = pytest.mark.django_db


@pytest.fixture
def otto(checked):
    from jobs.models import Membership
    from people.models import Person

    person = Person.objects.create_user("otto", password="a long password", name="Otto")
    Membership.objects.create(job=checked.job, person=person, role="retoucher")
    return person


def say(client, slip, what, words=""):
    return post(client, f"/api/slips/{slip}/say/", {"what": what, "words": words})


def hand_over(client, slip, worker, words=""):
    return post(client, f"/api/slips/{slip}/hand-over/", {"worker": worker, "words": words})


def state(client, slip):
    return client.get(f"/api/slips/{slip}/").json()["state"]


def test_a_question_waits_for_its_answer_and_both_stay_on_the_slip(signed_in, sent):
    mona, vera = signed_in("mona"), signed_in("vera")
    assert say(mona, sent, "asked", "Does the rope stay?").json()["state"] == "question"
    assert say(mona, sent, "answered", "I say so").status_code == 403
    answer = say(vera, sent, "answered", "The rope stays.").json()
    assert answer["state"] == "working"
    said = [(one["what"], one["person"], one["words"]) for one in answer["words"]]
    assert said == [
        ("asked", "Mona", "Does the rope stay?"),
        ("answered", "Vera", "The rope stays."),
    ]
    assert say(vera, sent, "answered", "again").status_code == 409


def test_what_is_asked_and_answered_needs_words(signed_in, sent):
    answer = say(signed_in("mona"), sent, "asked", "  ")
    assert answer.status_code == 400 and answer.json()["error"] == "Say it in words."
    assert state(signed_in("vera"), sent) == "sent"


def test_a_slip_is_declined_with_words_and_can_go_to_somebody_else(signed_in, sent, otto):
    mona, vera = signed_in("mona"), signed_in("vera")
    declined = say(mona, sent, "declined", "I am away till Monday").json()
    assert (declined["state"], declined["reason"]) == ("declined", "I am away till Monday")
    handed = hand_over(vera, sent, otto.pk, "Mona is away").json()
    assert (handed["state"], handed["worker"]["name"], handed["reason"]) == ("sent", "Otto", "")
    # The regions, flaws and changes are those that were written; nothing was written anew.
    assert [one["what"] for one in handed["words"]] == ["declined", "handed over"]
    assert mona.get(f"/api/slips/{sent}/").status_code == 404
    assert signed_in("otto").get(f"/api/slips/{sent}/").status_code == 200


def test_only_a_supervisor_hands_over_and_only_to_another_retoucher(
    signed_in,
    sent,
    people,
    otto,
):
    assert hand_over(signed_in("mona"), sent, otto.pk).status_code == 403
    vera = signed_in("vera")
    assert "no retoucher" in hand_over(vera, sent, people["ines"].pk).json()["error"]
    assert "has this slip already" in hand_over(vera, sent, people["mona"].pk).json()["error"]
    assert hand_over(vera, sent, 10**9).status_code == 400


def test_a_slip_that_came_back_is_settled_once_and_is_then_out_no_more(
    signed_in,
    sent,
    failed,
):
    mona, vera = signed_in("mona"), signed_in("vera")
    assert say(vera, sent, "settled").status_code == 409
    pixels = pixels_of(failed).copy()
    pixels[140:150, 285:295] = 90
    assert returned(mona, sent, pixels).status_code in (201, 202)
    do_all_work()
    assert state(vera, sent) == "rechecked"
    assert say(mona, sent, "settled").status_code == 403
    assert say(vera, sent, "settled").json()["state"] == "settled"
    assert say(vera, sent, "settled").status_code == 409
    assert returned(mona, sent, pixels, "again.png").status_code >= 400


def test_a_desk_that_answers_after_its_slip_was_handed_over_gives_no_attempt(
    signed_in,
    failed,
    people,
):
    from slips.models import Slip
    from work.models import Work

    vera = signed_in("vera")
    slip = post(vera, f"/api/attempts/{failed.pk}/slips/").json()["id"]
    post(vera, f"/api/slips/{slip}/send/")
    key = Slip.objects.get(pk=slip).key
    assert hand_over(vera, slip, people["mona"].pk).json()["state"] == "sent"
    row = Slip.objects.get(pk=slip)
    assert row.key != key and row.worker == people["mona"]
    from work.tasks import do_work

    number = failed.picture.attempts.count()
    do_work(Work.objects.get(kind="slip", subject=str(slip)).pk)
    assert failed.picture.attempts.count() == number
    assert state(vera, slip) == "sent"


def test_what_was_returned_can_be_replaced_until_a_supervisor_has_looked_at_it(
    signed_in, sent, failed
):
    mona, vera = signed_in("mona"), signed_in("vera")
    first = filled(pixels_of(failed), MASKS[1], TRUTH.astype(float) + 9)
    second = filled(pixels_of(failed), MASKS[1], TRUTH.astype(float) + 0.4)
    assert returned(mona, sent, first).status_code == 202
    do_all_work()
    said = mona.get(f"/api/slips/{sent}/").json()
    assert said["state"] == "rechecked" and said["replaceable"]
    former = said["returned_number"]
    assert returned(mona, sent, second, "better.png").status_code == 202
    do_all_work()
    said = mona.get(f"/api/slips/{sent}/").json()
    assert said["state"] == "rechecked" and said["returned_number"] == former + 1
    assert said["regions"][0]["outcome"] and said["elsewhere"]["same"]
    # The former stays an attempt, and history says what became of it.
    assert failed.picture.attempts.filter(number=former).exists()
    entries = vera.get(f"/api/pictures/{failed.picture_id}/history/").json()["entries"]
    (replaced,) = [one for one in entries if one["what"] == "slip replaced"]
    assert replaced["before"] == {"attempt": former}
    # The retoucher's own looking says nothing; the supervisor's does.
    mona.post(f"/api/pictures/{failed.picture_id}/seen/")
    assert mona.get(f"/api/slips/{sent}/").json()["replaceable"]
    vera.post(f"/api/pictures/{failed.picture_id}/seen/")
    assert not mona.get(f"/api/slips/{sent}/").json()["replaceable"]
    late = returned(mona, sent, filled(pixels_of(failed), MASKS[1], TRUTH.astype(float) + 3))
    assert late.status_code == 409 and "looked at already" in late.json()["error"]
