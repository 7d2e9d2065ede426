"""Verdicts *ask* and *leave*: a second look is given unseen, then both are shown; a client answers in
words; a thing that stays makes its region none. Each test reads like its rule.
"""

from __future__ import annotations

import pytest
from house import bench, do_all_work, overreaching, post, rule_all

pytestmark = pytest.mark.django_db


def cell_of(picture, attempt=3, region=1):
    from verdicts.models import Cell

    return Cell.objects.get(
        attempt__picture=picture, attempt__number=attempt, region__number=region
    )


def ask(client, cell, person, words="Is the edge still there?"):
    return post(client, f"/api/cells/{cell.pk}/ask/", {"person": person.pk, "words": words})


def rule(client, cell, ruling):
    return post(client, f"/api/cells/{cell.pk}/verdict/", {"ruling": ruling})


def region(found, number=1):
    return next(one for one in found["regions"] if one["number"] == number)


def shown(found, cell):
    return next(one for one in found["cells"] if one["id"] == cell.pk)


@pytest.fixture
def asked(signed_in, checked, people):
    """Vera passed all of attempt 3 and asks Ines about its first region."""
    rule_all(checked, 3, people)
    cell = cell_of(checked)
    assert ask(signed_in("vera"), cell, people["ines"]).status_code == 201
    return cell


def test_while_a_second_look_is_waited_for_the_picture_is_not_done(signed_in, checked, asked):
    found = bench(signed_in("vera"), checked)
    assert found["state"] == "asked" and found["done"] is None
    assert region(found)["state"] == "asked" and shown(found, asked)["state"] == "asked"
    assert region(found)["second"]["asked"] == "Ines" and not region(found)["second"]["mine"]
    # What its asker ruled still stands before them.
    assert shown(found, asked)["verdict"]["ruling"] == "passes"
    at = f"/api/pictures/{checked.pk}/sign-off/"
    vera = signed_in("vera")
    assert vera.get(at).json()["attempt"] is None
    refused = post(vera, at, {"attempt": asked.attempt_id})
    assert refused.status_code == 400 and "Not every region holds" in refused.json()["error"]


def test_whoever_is_asked_sees_no_ruling_before_theirs_is_given(signed_in, checked, asked):
    ines = signed_in("ines")
    found = bench(ines, checked)
    assert found["state"] == "undecided" and region(found)["id"] in found["undecided"]
    assert region(found)["state"] == "undecided" and region(found)["holder"] is None
    assert region(found)["second"]["mine"] and region(found)["second"]["words"]
    assert shown(found, asked)["verdict"] is None and shown(found, asked)["state"] == "undecided"
    entries = ines.get(f"/api/pictures/{checked.pk}/history/").json()["entries"]
    assert not [one for one in entries if one["what"] == "verdict" and "region 1 " in one["about"]]
    # Of what she was not asked about she sees all.
    assert [one for one in entries if one["what"] == "verdict" and "region 2 " in one["about"]]
    assert shown(found, cell_of(checked, 3, 2))["verdict"]["ruling"] == "passes"


def test_two_who_agree_settle_it(signed_in, checked, asked):
    assert rule(signed_in("ines"), asked, "passes").status_code == 200
    found = bench(signed_in("vera"), checked)
    assert found["state"] == "done" and region(found)["second"]["ruling"] == "passes"
    # Vera's verdict stands; Ines's is a second look beside it.
    assert shown(found, asked)["verdict"]["person"] == "Vera"
    assert asked.verdicts.count() == 1


def test_two_who_differ_are_both_shown_and_it_is_ruled_on_again(signed_in, checked, asked):
    ines, vera = signed_in("ines"), signed_in("vera")
    after = rule(ines, asked, "rework").json()
    assert region(after)["state"] == "undecided"
    assert shown(after, asked)["verdict"]["ruling"] == "passes"  # now both are shown
    found = bench(vera, checked)
    assert found["state"] == "undecided" and shown(found, asked)["state"] == "undecided"
    assert region(found)["second"]["ruling"] == "rework"
    assert rule(vera, asked, "passes").json()["state"] == "done"


def test_a_second_look_is_given_where_it_was_asked_for_and_can_be_taken_back(
    signed_in, checked, asked
):
    ines = signed_in("ines")
    elsewhere = rule(ines, cell_of(checked, 1), "rework")
    assert elsewhere.status_code == 400 and "about attempt 3" in elsewhere.json()["error"]
    rule(ines, asked, "rework")
    assert ines.delete(f"/api/cells/{asked.pk}/verdict/").status_code == 200
    assert region(bench(signed_in("vera"), checked))["state"] == "asked"
    assert shown(bench(ines, checked), asked)["verdict"] is None


def test_one_person_is_asked_at_a_time_and_never_oneself_or_a_retoucher(
    signed_in, checked, people, asked
):
    vera = signed_in("vera")
    again = ask(vera, cell_of(checked, 2), people["ines"])
    assert again.status_code == 409 and "Ines is asked" in again.json()["error"]
    other = cell_of(checked, 3, 2)
    assert "somebody else's" in ask(vera, other, people["vera"]).json()["error"]
    assert "neither supervisor nor guest" in ask(vera, other, people["mona"]).json()["error"]
    assert ask(vera, other, people["stranger"]).status_code == 400
    assert ask(signed_in("mona"), other, people["ines"]).status_code == 403


def test_asking_no_longer_leaves_it_as_it_was(signed_in, checked, asked):
    vera = signed_in("vera")
    look = region(bench(vera, checked))["second"]["id"]
    assert vera.delete(f"/api/second-looks/{look}/").json()["state"] == "done"
    assert vera.delete(f"/api/second-looks/{look}/").status_code == 409
    assert region(bench(vera, checked))["second"] is None


def test_the_desk_says_where_one_is_asked(signed_in, checked, asked):
    ines, vera = signed_in("ines"), signed_in("vera")
    (row,) = ines.get("/api/desk/?need=asked%20of%20you").json()["pictures"]
    assert row["asks_you"] == 1 and row["state"] == "asked"
    assert vera.get("/api/desk/?need=asked%20of%20you").json()["pictures"] == []
    assert vera.get("/api/desk/?need=asked").json()["matching"] == 1


def test_whoever_leaves_the_job_is_not_waited_for(signed_in, checked, people, asked):
    vera = signed_in("vera")
    assert vera.delete(f"/api/jobs/{checked.job_id}/people/{people['ines'].pk}/").status_code < 300
    assert bench(vera, checked)["state"] == "done"


def test_a_guest_sees_what_they_are_asked_about_and_answers_in_a_remark(signed_in, checked, people):
    rule_all(checked, 3, people)
    vera, archive, cell = signed_in("vera"), signed_in("archive"), cell_of(checked)
    assert archive.get("/api/released/").json() == []
    assert "in words" in ask(vera, cell, people["archive"], " ").json()["error"]
    assert ask(vera, cell, people["archive"], "May the shadow stay?").status_code == 201
    (released,) = archive.get("/api/released/").json()
    (question,) = released["questions"]
    assert question["words"] == "May the shadow stay?" and not question["answered"]
    answer = f"/api/second-looks/{question['id']}/answer/"
    assert post(signed_in("ines"), answer, {"words": "No."}).status_code == 404
    said = post(archive, answer, {"words": "  Yes, it may. "})
    assert said.status_code == 201 and said.json()["words"] == "Yes, it may."
    assert post(archive, answer, {"words": "Or not."}).status_code == 409
    assert archive.get("/api/released/").json()[0]["questions"][0]["answered"]
    # Words are weighed by a ruling, and the remark is answered before anything is signed.
    found = bench(vera, checked)
    assert found["state"] == "undecided" and region(found)["second"]["answer"] == "Yes, it may."
    assert rule(vera, cell, "passes").json()["state"] == "done"
    at = f"/api/pictures/{checked.pk}/sign-off/"
    assert "A remark waits" in post(vera, at, {"attempt": cell.attempt_id}).json()["error"]


def test_a_thing_that_stays_makes_its_region_none_and_what_was_done_there_a_change_outside(
    signed_in, job, people
):
    from house import MASK, WIDE

    from regions.editing import draw_region
    from zweiblick_core.regions import from_mask

    picture = overreaching(job, people)
    again = WIDE.shape[:2]
    second = MASK.copy()
    second[:] = False
    second[160:250, 420:520] = True
    (area,) = from_mask(second)
    made = draw_region(picture, "boat", area, people["vera"])
    do_all_work()
    vera = signed_in("vera")
    # The patch that the second attempt changed lies in the new region: it is none outside.
    attempt = picture.attempts.get(number=2)
    newest = lambda: next(
        one for one in bench(vera, picture)["attempts"] if one["id"] == attempt.pk
    )["check_of"]["outside"]
    assert newest() == [] and again == second.shape
    left = post(vera, f"/api/regions/{made.pk}/leave/", {"words": "The client keeps the boat."})
    assert left.status_code == 200
    (stays,) = left.json()["left"]
    assert stays["person"] == "Vera" and stays["words"] == "The client keeps the boat."
    assert made.pk not in [one["id"] for one in left.json()["regions"]]
    do_all_work()
    rule_all(picture, 2, people)
    found = bench(vera, picture)
    assert len(newest()) == 1 and found["state"] == "changed outside"
    history = vera.get(f"/api/pictures/{picture.pk}/history/").json()["entries"]
    assert "the thing stays" in [one["what"] for one in history]
    assert post(vera, f"/api/regions/{made.pk}/again/").status_code == 200
    assert bench(vera, picture)["left"] == []
    assert post(signed_in("mona"), f"/api/regions/{made.pk}/leave/").status_code == 403


def test_what_is_out_on_a_slip_is_not_left(signed_in, failed, sent):
    one = failed.picture.regions.get(number=2)
    refused = post(signed_in("vera"), f"/api/regions/{one.pk}/leave/")
    assert refused.status_code == 400 and "slip" in refused.json()["error"]
