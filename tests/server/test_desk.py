"""Looking for pictures on the Desk: words, needs, kinds, jobs, order. Each test reads like its rule."""

from __future__ import annotations

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from house import post

pytestmark = pytest.mark.django_db


@pytest.fixture
def three(job, people, db):
    """Three pictures in two jobs, of which only what the Desk stores is known."""
    from jobs.models import Job, Membership, Picture
    from ledger.models import PictureState

    other = Job.objects.create(name="Quay Guide")
    Membership.objects.create(job=other, person=people["vera"], role="supervisor")
    rows = [
        (
            job,
            1,
            "Slipway",
            {"state": "undecided", "undecided": 2, "worst_kind": "seam", "worst_severity": 0.3},
        ),
        (job, 2, "Boat shed", {"state": "done"}),
        (
            other,
            1,
            "Slip road",
            {
                "state": "undecided",
                "undecided": 1,
                "worst_kind": "halo",
                "worst_severity": 0.9,
                "failed": 1,
            },
        ),
    ]
    made = []
    for of, number, name, standing in rows:
        picture = Picture.objects.create(job=of, number=number, name=name)
        PictureState.objects.create(picture=picture, **standing)
        made.append(picture)
    return made


def names(client, **query):
    answer = client.get("/api/desk/", query)
    assert answer.status_code == 200, answer.json()
    return [one["name"] for one in answer.json()["pictures"]]


def test_all_words_must_be_there_in_the_pictures_or_the_jobs_name_or_be_its_number(
    signed_in, three
):
    vera = signed_in("vera")
    assert set(names(vera)) == {"Slipway", "Boat shed", "Slip road"}
    assert set(names(vera, q="slip")) == {"Slipway", "Slip road"}
    assert names(vera, q="slip guide") == ["Slip road"]
    assert names(vera, q="harbour 2") == ["Boat shed"]
    assert names(vera, q="nothing like it") == []
    assert set(names(vera, q="%")) == set()


def test_pictures_are_found_by_what_they_need(signed_in, three, people):
    vera = signed_in("vera")
    assert names(vera, need="done") == ["Boat shed"]
    assert set(names(vera, need="undecided")) == {"Slipway", "Slip road"}
    assert names(vera, need="failed checks") == ["Slip road"]
    assert names(vera, kind="seam") == ["Slipway"]
    assert names(vera, job=three[2].job_id) == ["Slip road"]
    assert names(vera, need="signed off") == []


def test_what_is_signed_off_is_looked_for_apart_from_what_is_done(signed_in, checked, people):
    from verdicts.models import Cell
    from verdicts.ruling import rule

    vera = signed_in("vera")
    for cell in Cell.objects.filter(attempt__picture=checked, attempt__number=3):
        rule(cell.pk, people["vera"], "passes", None, None)
    assert names(vera, need="done") == ["Slipway"] and names(vera, need="signed off") == []
    third = checked.attempts.get(number=3)
    before = vera.get("/api/desk/").json()["stamp"]
    post(vera, f"/api/pictures/{checked.pk}/sign-off/", {"attempt": third.pk})
    assert names(vera, need="done") == [] and names(vera, need="signed off") == ["Slipway"]
    (row,) = vera.get("/api/desk/", {"since": before}).json()["pictures"]
    assert row["signed"] and row["state"] == "done"


def test_they_are_sorted_by_deadline_by_the_worst_or_by_name(signed_in, three):
    vera = signed_in("vera")
    assert names(vera, sort="worst") == ["Slip road", "Slipway", "Boat shed"]
    assert names(vera, sort="name") == ["Boat shed", "Slip road", "Slipway"]
    assert names(vera)[-1] == "Boat shed"  # done ones last


def test_what_can_be_chosen_is_what_there_is(signed_in, three):
    found = signed_in("vera").get("/api/desk/", {"q": "boat"}).json()
    assert (found["matching"], found["total"]) == (1, 3)
    assert [one["name"] for one in found["jobs"]] == ["Harbour Year", "Quay Guide"]
    assert found["kinds"] == ["halo", "seam"]
    # Of what one does not work on, nothing is said.
    ines = signed_in("ines").get("/api/desk/").json()
    assert [one["name"] for one in ines["jobs"]] == ["Harbour Year"]


@pytest.mark.parametrize(
    "query", [{"need": "magic"}, {"sort": "size"}, {"job": "x"}, {"job": "²"}, {"q": "x" * 201}]
)
def test_what_cannot_be_looked_for_is_refused(signed_in, three, query):
    assert signed_in("vera").get("/api/desk/", query).status_code == 400


def test_looking_takes_as_many_queries_as_not_looking(signed_in, three):
    vera = signed_in("vera")
    vera.get("/api/desk/")
    counts = []
    for query in ({}, {"q": "slip", "need": "undecided", "kind": "seam", "sort": "worst"}):
        with CaptureQueriesContext(connection) as asked:
            vera.get("/api/desk/", query)
        counts.append(len(asked))
    assert counts[0] == counts[1]


def keep(client, name, **looked):
    return post(client, "/api/desk/views/", {"name": name, "looked": looked})


def test_what_one_looks_for_again_and_again_is_kept_under_a_name(signed_in, people):
    vera = signed_in("vera")
    kept = keep(vera, "glaring seams", kind="seam", sort="worst").json()
    assert kept[0]["name"] == "glaring seams" and kept[0]["looked"]["kind"] == "seam"
    # The same name gets the new one.
    (kept,) = keep(vera, "glaring seams", kind="seam", q="quay").json()
    assert kept["looked"]["q"] == "quay"
    assert signed_in("ines").get("/api/desk/views/").json() == []
    assert signed_in("ines").delete(f"/api/desk/views/{kept['id']}/").status_code == 404
    assert vera.delete(f"/api/desk/views/{kept['id']}/").json() == []


def test_a_view_that_looks_for_nothing_there_is_is_not_kept(signed_in, people):
    vera = signed_in("vera")
    assert keep(vera, "odd", need="magic").status_code == 400
    assert keep(vera, " ").status_code == 400
    for number in range(30):
        assert keep(vera, f"view {number}").status_code == 201
    refused = keep(vera, "one more")
    assert refused.status_code == 400 and "forget one" in refused.json()["error"]
