"""Slips of many pictures: written at once from what waits, sent at once to one recipient."""

from __future__ import annotations

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from house import post

pytestmark = pytest.mark.django_db
JSON = "application/json"


def fail(picture, attempt, *regions, ruling="rework"):
    from people.models import Person
    from verdicts.models import Cell
    from verdicts.ruling import rule

    vera = Person.objects.get(username="vera")
    for region in regions:
        cell = Cell.objects.get(
            attempt__picture=picture, attempt__number=attempt, region__number=region
        )
        rule(cell.pk, vera, ruling, None, None)


def waiting(client):
    return client.get("/api/slips/waiting/").json()


def write(client, *pictures):
    return post(client, "/api/slips/waiting/", {"pictures": [one.pk for one in pictures]})


def test_what_failed_holds_nowhere_and_is_on_no_slip_waits(signed_in, checked):
    vera = signed_in("vera")
    assert waiting(vera) == []
    fail(checked, 1, 1, 2)
    fail(checked, 2, 1, ruling="passes")
    (one,) = waiting(vera)
    assert (one["picture"], one["regions"]) == (checked.pk, 1)
    assert write(vera, checked).status_code == 200 and waiting(vera) == []
    assert signed_in("mona").get("/api/slips/waiting/").json() == []


def test_of_each_region_the_failed_cell_that_ranks_best_is_sent(signed_in, checked):
    from checks.models import CheckedRegion

    vera = signed_in("vera")
    fail(checked, 1, 1, 2)
    fail(checked, 2, 1, 2)
    overall = lambda attempt, region: (
        CheckedRegion.objects.filter(
            check_run__attempt__picture=checked,
            check_run__attempt__number=attempt,
            region_version__region__number=region,
        ).update
    )
    for attempt, region, value in ((1, 1, 0.7), (2, 1, 0.2), (1, 2, 0.1), (2, 2, 0.3)):
        overall(attempt, region)(overall=value)
    (slip,) = write(vera, checked).json()
    assert {part["number"]: part["attempt_number"] for part in slip["regions"]} == {1: 1, 2: 2}
    # As many come from either: it works on the newer one.
    assert slip["attempt_number"] == 2


def test_several_are_sent_to_one_recipient_with_words_and_a_day(signed_in, people, checked):
    vera = signed_in("vera")
    fail(checked, 1, 1, 2)
    (slip,) = write(vera, checked).json()
    body = {
        "slips": [slip["id"]],
        "worker": people["mona"].pk,
        "due": "2031-05-04",
        "note": "before noon",
    }
    (sent,) = post(vera, "/api/slips/send/", body).json()
    assert (sent["state"], sent["worker"]["name"]) == ("sent", people["mona"].called)
    assert (sent["due"], sent["note"]) == ("2031-05-04", "before noon")
    assert len(signed_in("mona").get("/api/slips/").json()) == 1


def test_all_are_written_and_sent_or_none(signed_in, people, checked, job):
    from jobs.models import Picture
    from slips.models import Slip

    vera = signed_in("vera")
    fail(checked, 1, 1)
    bare = Picture.objects.create(job=job, number=9, name="Bare wall")
    refused = write(vera, checked, bare)
    assert refused.status_code == 400 and "Bare wall" in refused.json()["error"]
    assert Slip.objects.count() == 0
    (slip,) = write(vera, checked).json()
    once = {"slips": [slip["id"]], "worker": people["mona"].pk}
    for wrong in (
        {**once, "slips": [slip["id"], 999_999]},
        {**once, "worker": people["archive"].pk},
        {**once, "worker": None, "method": "straight copy"},
        {**once, "worker": 999_999},
        {**once, "slips": []},
    ):
        assert post(vera, "/api/slips/send/", wrong).status_code in (400, 404)
    assert Slip.objects.get().state == "written"
    assert post(vera, "/api/slips/send/", once).status_code == 200
    assert post(vera, "/api/slips/send/", once).status_code == 400


def test_only_a_supervisor_writes_and_sends(signed_in, people, checked):
    fail(checked, 1, 1)
    mona = signed_in("mona")
    assert write(mona, checked).status_code == 403
    assert write(signed_in("stranger"), checked).status_code == 404
    (slip,) = write(signed_in("vera"), checked).json()
    assert post(mona, "/api/slips/send/", {"slips": [slip["id"]]}).status_code == 404


def test_what_waits_is_found_in_as_many_queries_whatever_the_pictures(signed_in, checked, job):
    from jobs.models import Picture

    vera = signed_in("vera")
    fail(checked, 1, 1, 2)

    def asked():
        with CaptureQueriesContext(
            connection,
        ) as caught:
            waiting(vera)
        return len(caught)

    before = asked()
    for number in range(20, 40):
        Picture.objects.create(job=job, number=number, name=f"Pier {number}")
    assert asked() == before
