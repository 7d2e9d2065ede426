"""A returned file finds its slip by what it shows, wherever it is dropped. Each test reads like its
rule.
"""

from __future__ import annotations

import numpy as np
import pytest
from builders import filled, png
from django.core.files.uploadedfile import SimpleUploadedFile
from house import MASKS, PASSWORD, TRUTH, do_all_work, pixels_of, post, returned

pytestmark = pytest.mark.django_db


@pytest.fixture
def two(signed_in, checked, people):
    """Slips of two attempts with one retoucher: the first region of attempt 1, the second region of
    attempt 2.
    """
    from verdicts.models import Cell
    from verdicts.ruling import rule

    vera = signed_in("vera")
    slips = []
    for number in (1, 2):
        attempt = checked.attempts.get(number=number)
        cell = Cell.objects.get(attempt=attempt, region__number=number)
        rule(cell.pk, people["vera"], "rework", None, None)
        slip = post(vera, f"/api/attempts/{attempt.pk}/slips/").json()
        vera.patch(
            f"/api/slips/{slip['id']}/",
            {"worker": people["mona"].pk},
            content_type="application/json",
        )
        assert post(vera, f"/api/slips/{slip['id']}/send/").status_code == 200
        slips.append((slip["id"], attempt))
    return slips


def answer_to(attempt, mask):
    noise = np.random.default_rng(8).normal(0, 0.8, TRUTH.shape)
    return filled(pixels_of(attempt), mask, TRUTH + noise)


def slip_of(client, slip):
    return client.get(f"/api/slips/{slip}/").json()


def test_a_file_handed_in_on_the_wrong_slip_is_handed_in_on_its_own(signed_in, two):
    mona = signed_in("mona")
    (first, _), (second, attempt) = two
    assert returned(mona, first, answer_to(attempt, MASKS[1])).status_code == 202
    do_all_work()
    said = slip_of(mona, first)
    assert said["state"] == "sent" and said["returning"]["state"] == "refused"
    assert said["returning"]["moved"] == second
    assert "answers slip 2 of 01 Slipway; it was handed in there" in said["returning"]["reason"]
    assert slip_of(mona, second)["state"] == "rechecked"


def test_a_dry_run_on_the_wrong_slip_is_one_on_the_right_one(signed_in, two):
    mona = signed_in("mona")
    (first, _), (second, attempt) = two
    file = SimpleUploadedFile("back.png", png(answer_to(attempt, MASKS[1])))
    mona.post(f"/api/slips/{first}/result/", {"file": file, "dry": "true"})
    do_all_work()
    said = slip_of(mona, second)
    assert said["state"] == "sent" and said["returning"]["report"]["elsewhere"]["same"]


def test_a_result_can_be_dropped_without_saying_for_which_slip(signed_in, two):
    mona = signed_in("mona")
    for (_, attempt), mask in zip(two, MASKS, strict=True):
        file = SimpleUploadedFile("x.png", png(answer_to(attempt, mask)))
        assert mona.post("/api/slips/result/", {"file": file}).status_code == 202
        do_all_work()
    for slip, _ in two:
        assert slip_of(mona, slip)["state"] == "rechecked"


def test_what_answers_none_of_ones_slips_stays_refused_where_it_was_dropped(signed_in, two):
    mona = signed_in("mona")
    first = two[0][0]
    returned(mona, first, TRUTH[:-8])
    do_all_work()
    said = slip_of(mona, first)["returning"]
    assert said["state"] == "refused" and said["moved"] is None


def test_nobody_learns_of_a_slip_that_is_somebody_elses(signed_in, two, people):
    from jobs.models import Membership
    from people.models import Person

    other = Person.objects.create_user("jost", password=PASSWORD, name="Jost")
    (first, _), (second, attempt) = two
    Membership.objects.create(job=attempt.picture.job, person=other, role="retoucher")
    vera, jost = signed_in("vera"), signed_in("jost")
    assert post(vera, f"/api/slips/{first}/hand-over/", {"worker": other.pk}).status_code == 200
    returned(jost, first, answer_to(attempt, MASKS[1]))
    do_all_work()
    said = slip_of(jost, first)
    assert said["returning"]["moved"] is None
    assert slip_of(vera, second)["state"] == "sent"


def test_a_file_that_a_supervisor_brings_in_is_offered_as_the_answer_that_it_is(signed_in, two):
    vera = signed_in("vera")
    (second, attempt) = two[1]
    job = attempt.picture.job_id
    file = SimpleUploadedFile("mail.png", png(answer_to(attempt, MASKS[1])))
    arrival = vera.post(f"/api/jobs/{job}/arrivals/", {"file": file}).json()["id"]
    do_all_work()
    intake = vera.get(f"/api/jobs/{job}/intake/").json()
    (row,) = intake["arrivals"]
    assert row["answers"]["id"] == second and row["answers"]["words"] == "slip 2 of 01 Slipway"
    # It is no file of a new picture.
    assert intake["groups"] == []
    assert post(vera, f"/api/arrivals/{arrival}/hand-in/").status_code == 202
    do_all_work()
    assert slip_of(vera, second)["state"] == "rechecked"
    assert vera.get(f"/api/jobs/{job}/intake/").json()["arrivals"] == []


def test_a_file_that_answers_nothing_is_not_handed_in(signed_in, two):
    vera = signed_in("vera")
    job = two[0][1].picture.job_id
    file = SimpleUploadedFile("other.png", png(TRUTH[::-1]))
    arrival = vera.post(f"/api/jobs/{job}/arrivals/", {"file": file}).json()["id"]
    do_all_work()
    answer = post(vera, f"/api/arrivals/{arrival}/hand-in/")
    assert answer.status_code == 400 and "answers no slip" in answer.json()["error"]
