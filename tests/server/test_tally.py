"""The Tally says what people ruled, and nothing of other people's jobs."""

from __future__ import annotations

import csv
import io

import pytest

pytestmark = pytest.mark.django_db


@pytest.fixture
def ruled(checked, people):
    """Method 1 failed in both regions, method 2 held in one, method 3 in both."""
    from verdicts.models import Cell
    from verdicts.ruling import rule

    for attempt, region, ruling in (
        (1, 1, "rework"),
        (1, 2, "rebuild"),
        (2, 1, "passes"),
        (2, 2, "rework"),
        (3, 1, "passes"),
        (3, 2, "passes"),
    ):
        cell = Cell.objects.get(
            attempt__picture=checked, attempt__number=attempt, region__number=region
        )
        rule(cell.pk, people["vera"], ruling, None, None)
    return checked


def tally(client, **asked):
    query = "&".join(f"{name}={value}" for name, value in asked.items())
    answer = client.get(f"/api/tally/?{query}")
    assert answer.status_code == 200, answer.json()
    return answer.json()


def names(found):
    return {one["name"]: (one["count"], one["of"]) for one in found["names"]}


def test_it_counts_what_held_at_the_first_attempt_with_an_interval(signed_in, ruled):
    found = tally(signed_in("vera"))
    assert names(found) == {"method 1": (0, 2), "method 2": (1, 2), "method 3": (2, 2)}
    (row,) = [one for one in found["rows"] if one["name"] == "method 3"]
    assert row["backdrop"] != "not examined" and row["few"] and 0 < row["low"] < row["high"] == 1
    assert {one["seconds"] for one in found["names"]} == {2.0}


def test_a_pass_that_was_carried_over_is_no_new_evidence(signed_in, ruled, people):
    from verdicts.models import Cell, Verdict

    cell = Cell.objects.get(attempt__number=3, region__number=1, attempt__picture=ruled)
    earlier = Cell.objects.get(attempt__number=2, region__number=1, attempt__picture=ruled)
    Verdict.objects.filter(pk=cell.current_id).update(carried_from=earlier.current_id)
    assert names(tally(signed_in("vera")))["method 3"] == (1, 1)


def test_flaws_are_those_that_people_confirmed_and_can_be_taken_back(signed_in, ruled, people):
    from checks.models import Finding
    from verdicts.ruling import answer

    finding = Finding.objects.filter(checked__check_run__attempt__number=1).first()
    vera = signed_in("vera")
    assert tally(vera)["kinds"] == []
    answer(finding, people["vera"], "confirmed")
    (kind,) = tally(vera)["kinds"]
    assert (kind["name"], kind["kind"], kind["count"], kind["of"]) == (
        "method 1",
        finding.kind,
        1,
        2,
    )
    answer(finding, people["vera"], "not there")
    assert tally(vera)["kinds"] == []


def test_advice_that_was_followed_says_how_often_it_helped(signed_in, sent, failed):
    from slips.models import SlipRegion

    vera = signed_in("vera")
    part = SlipRegion.objects.get(slip=sent)
    change = part.changes[0]
    because = change["because"] or [part.flaws[0]["kind"]]
    part.changes = [{**change, "because": because}]
    part.outcome = {"word": "fixed", "kinds": [[kind, "fixed"] for kind in because]}
    part.save()
    assert tally(vera)["advice"] == []
    for said, followed, helped in (([change["what"]], 1, 1), ([], 0, 0)):
        part.followed = said
        part.save()
        (one,) = tally(vera)["advice"]
        assert one["what"] == change["what"] and one["words"] and one["asked"] == 1
        assert (one["followed"], one["helped"]["count"]) == (followed, helped)
        assert one["without"]["count"] == 1 - helped


def test_it_is_for_a_job_a_time_and_by_maker_if_wanted(signed_in, ruled):
    from verdicts.models import Verdict

    vera = signed_in("vera")
    assert set(names(tally(vera, by="maker"))) == {"us"}
    assert len(names(tally(vera, job=ruled.job_id, days=1))) == 3
    Verdict.objects.update(made_at="2020-01-01T00:00Z")
    assert names(tally(vera, days=30)) == {} and len(names(tally(vera))) == 3
    for wrong in ("by=colour", "days=0", "job=x"):
        assert vera.get(f"/api/tally/?{wrong}").status_code == 400


@pytest.mark.parametrize("who", ["mona", "stranger", "archive"])
def test_only_a_supervisor_tallies_a_job(signed_in, ruled, who):
    client = signed_in(who)
    assert tally(client)["names"] == [] and tally(client)["rows"] == []
    assert client.get(f"/api/tally/?job={ruled.job_id}").status_code == 404


def test_it_leaves_as_a_table_in_which_no_cell_is_a_formula(signed_in, ruled):
    from attempts.models import Method

    Method.objects.filter(name="method 2").update(name="=SUM(1)")
    text = signed_in("vera").get("/api/tally/table/").content.decode("utf-8-sig")
    rows = list(csv.DictReader(io.StringIO(text)))
    assert {row["name"] for row in rows} == {"method 1", "'=SUM(1)", "method 3"}
    assert {row["held"] for row in rows if row["name"] == "method 3"} == {"2"}


def test_its_queries_do_not_grow_with_what_was_ruled(
    signed_in, ruled, django_assert_max_num_queries
):
    vera = signed_in("vera")
    with django_assert_max_num_queries(12):
        tally(vera)
