"""Runs: undecided regions of many pictures one after another, with the likely ruling offered and
never made. Each test reads like its rule.
"""

from __future__ import annotations

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from house import bench, post, rule_all

pytestmark = pytest.mark.django_db


def start(client, **asked):
    return post(client, "/api/runs/", asked)


def rule(client, stop, ruling, run, seconds=3.0):
    return post(
        client,
        f"/api/cells/{stop['cell']}/verdict/",
        {"ruling": ruling, "run": run, "seconds": seconds},
    )


@pytest.fixture
def two(checked, job, people):
    """Two pictures whose regions are undecided and examined."""
    from house import overreaching

    return checked, overreaching(job, people)


def test_a_run_goes_through_every_undecided_region_in_the_attempt_that_ranks_best(signed_in, two):
    vera = signed_in("vera")
    run = start(vera).json()
    assert sorted((one["name"], one["region"]) for one in run["stops"]) == [
        ("Quay", 1),
        ("Slipway", 1),
        ("Slipway", 2),
    ]
    assert run["next"] == 1 and [one["number"] for one in run["stops"]] == [1, 2, 3]
    best = {region["number"]: region["order"][0] for region in bench(vera, two[0])["regions"]}
    attempts = {one.number: one.pk for one in two[0].attempts.all()}
    for one in run["stops"]:
        if one["name"] == "Slipway":
            assert attempts[one["attempt"]] == best[one["region"]]


def test_worst_first_or_surest_first_and_only_what_is_looked_for(signed_in, two, job):
    from ledger.models import RegionState

    vera = signed_in("vera")
    RegionState.objects.filter(picture=two[1]).update(worst_severity=0.9, worst_kind="halo")
    assert start(vera).json()["stops"][0]["name"] == "Quay"
    assert [one["name"] for one in start(vera, q="quay").json()["stops"]] == ["Quay"]
    assert [one["name"] for one in start(vera, kind="halo").json()["stops"]] == ["Quay"]
    assert start(vera, job=job.pk).status_code == 201
    assert start(vera, job=job.pk + 999).status_code == 400
    from runs.models import RunStop

    RegionState.objects.filter(picture=two[1]).update(overall=0.02)
    run = start(vera, order="surest").json()
    chances = [abs(one.chance - 0.5) for one in RunStop.objects.filter(run=run["id"])]
    assert chances == sorted(chances, reverse=True)


def test_a_ruling_in_a_run_is_an_ordinary_verdict_and_the_next_stop_comes(signed_in, two):
    vera = signed_in("vera")
    run = start(vera).json()
    first = run["stops"][0]
    assert rule(vera, first, "passes", run["id"]).status_code == 200
    now = vera.get(f"/api/runs/{run['id']}/").json()
    assert now["stops"][0]["ruled"] == "passes" and now["next"] == 2 and now["seconds"] == 3.0
    cell = next(
        one
        for picture in two
        for one in bench(vera, picture)["cells"]
        if one["id"] == first["cell"]
    )
    assert cell["verdict"]["ruling"] == "passes"
    back = vera.delete(f"/api/runs/{run['id']}/last/").json()
    assert back["next"] == 1 and back["stops"][0]["ruled"] is None
    assert vera.delete(f"/api/runs/{run['id']}/last/").status_code == 400


def test_a_ruling_that_is_taken_back_on_the_bench_is_open_in_the_run_too(signed_in, two):
    vera = signed_in("vera")
    run = start(vera).json()
    rule(vera, run["stops"][0], "rework", run["id"])
    assert vera.delete(f"/api/cells/{run['stops'][0]['cell']}/verdict/").status_code == 200
    assert vera.get(f"/api/runs/{run['id']}/").json()["next"] == 1


def test_what_was_decided_elsewhere_meanwhile_is_passed_over(signed_in, two, people):
    vera = signed_in("vera")
    run = start(vera).json()
    rule_all(two[0], 3, people)
    now = vera.get(f"/api/runs/{run['id']}/").json()
    assert {one["name"] for one in now["stops"] if one["gone"]} == {"Slipway"}
    assert now["stops"][now["next"] - 1]["name"] == "Quay"


def test_the_likely_ruling_is_offered_with_its_chance_and_what_it_rests_on(
    signed_in, two, people, monkeypatch
):
    from ledger.models import RegionState

    vera = signed_in("vera")
    RegionState.objects.filter(picture=two[1]).update(overall=0.97)
    monkeypatch.setattr("runs.going.asked_in_full", lambda run, cell, likely: False)
    stop = start(vera, q="quay").json()["stops"][0]
    assert stop["offered"] == {"ruling": "passes", "chance": 0.876, "passed": 0, "of": 0}
    # What people ruled on the like of it counts from then on.
    rule_all(two[0], 3, people, "rework")
    again = start(vera, q="quay").json()["stops"][0]["offered"]
    assert again["of"] == 2 and again["passed"] == 0 and again["chance"] < 0.876
    # Nothing was ruled by it.
    assert bench(vera, two[1])["state"] == "undecided"


def test_what_is_asked_in_full_is_offered_only_afterwards_and_agreement_stands_at_the_end(
    signed_in, two, monkeypatch
):
    from ledger.models import RegionState

    vera = signed_in("vera")
    RegionState.objects.update(overall=1.0)
    monkeypatch.setattr("runs.going.asked_in_full", lambda run, cell, likely: True)
    run = start(vera).json()
    assert all(one["offered"] is None for one in run["stops"])
    for one, ruling in zip(run["stops"], ("passes", "passes at size", "rework"), strict=True):
        size = {"size": two[0].job.sizes.first().pk} if ruling == "passes at size" else {}
        answer = post(
            vera,
            f"/api/cells/{one['cell']}/verdict/",
            {"ruling": ruling, "run": run["id"], "seconds": 2.0, **size},
        )
        assert answer.status_code == 200
    now = vera.get(f"/api/runs/{run['id']}/").json()
    assert now["next"] is None and now["stops"][0]["offered"]["ruling"] == "passes"
    assert (now["agreement"]["count"], now["agreement"]["of"]) == (2, 3)
    assert now["agreement"]["few"] and not now["hasty"]


def test_a_run_is_its_own_person_s_and_never_of_nothing(signed_in, two, people):
    vera, ines = signed_in("vera"), signed_in("ines")
    run = start(vera).json()
    assert ines.get(f"/api/runs/{run['id']}/").status_code == 404
    assert rule(ines, run["stops"][0], "passes", run["id"]).status_code == 404
    assert bench(vera, two[0])["state"] == "undecided"
    refused = start(signed_in("mona"))
    assert refused.status_code == 400 and "Nothing" in refused.json()["error"]


def test_a_long_run_asks_the_database_no_more_than_a_short_one(signed_in, two):
    vera = signed_in("vera")
    counts = []
    for words in ("quay", ""):
        run = start(vera, q=words).json()
        with CaptureQueriesContext(
            connection,
        ) as found:
            vera.get(f"/api/runs/{run['id']}/")
        counts.append(len(found))
    assert counts[0] == counts[1]


def test_pictures_that_a_former_version_stored_get_their_regions(two):
    from ledger.models import RegionState
    from ledger.standing import catch_up

    RegionState.objects.all().delete()
    assert catch_up() == 2 and RegionState.objects.count() == 3


@pytest.fixture
def ruled_yesterday(two, people, monkeypatch):
    """Vera passed the second picture's better attempt the day before; runs are long enough."""
    from datetime import timedelta

    from verdicts.models import Verdict
    from work.clock import now

    rule_all(two[1], 2, people)
    Verdict.objects.update(made_at=now() - timedelta(hours=30))
    monkeypatch.setattr("zweiblick_core.rules.again.LEAST", 1)
    return two[1]


def test_a_ruling_of_another_day_is_shown_again_unannounced_and_rules_nothing(
    signed_in, two, ruled_yesterday
):
    from runs.models import RunStop

    vera = signed_in("vera")
    run = start(vera).json()
    stop = RunStop.objects.exclude(again="").get()
    shown = run["stops"][stop.number - 1]
    # It looks like any other that is asked in full, and as it did before it was ruled on.
    assert shown["name"] == "Quay" and shown["offered"] is None and not shown["gone"]
    cell = lambda found: next(one for one in found["cells"] if one["id"] == stop.cell_id)
    found = bench(vera, ruled_yesterday)
    assert cell(found)["verdict"] is None and cell(found)["state"] == "undecided"
    assert found["done"] is None and found["state"] == "undecided"
    # Others see it as it stands.
    assert bench(signed_in("ines"), ruled_yesterday)["state"] != "undecided"
    assert rule(vera, shown, "rework", run["id"]).status_code == 200
    assert cell(bench(vera, ruled_yesterday))["verdict"]["ruling"] == "passes"
    own = vera.get(f"/api/runs/{run['id']}/").json()["own"]
    assert (own["same"], own["of"]) == (0, 1)
    # Taken back, it is open in the run again, and what stood stands.
    vera.delete(f"/api/runs/{run['id']}/last/")
    assert vera.get(f"/api/runs/{run['id']}/").json()["own"]["of"] == 0


def test_nothing_of_the_same_day_nor_of_others_is_shown_again(signed_in, two, people, monkeypatch):
    from runs.models import RunStop

    monkeypatch.setattr("zweiblick_core.rules.again.LEAST", 1)
    rule_all(two[1], 2, people)
    assert start(signed_in("vera")).status_code == 201
    assert start(signed_in("ines")).status_code == 201
    assert not RunStop.objects.exclude(again="").exists()


def test_only_at_its_own_stop_does_a_ruling_look_undone_and_ruling_it_outside_the_run_counts(
    signed_in, two, ruled_yesterday
):
    from runs.models import RunStop

    vera = signed_in("vera")
    run = start(vera).json()
    stop = RunStop.objects.exclude(again="").get()
    # As if two others came before it: what stands is seen.
    others = RunStop.objects.filter(run=run["id"]).exclude(pk=stop.pk)
    RunStop.objects.filter(pk=stop.pk).update(number=99)
    assert others.count() >= 2
    assert bench(vera, ruled_yesterday)["state"] != "undecided"
    others.update(ruled="passes")
    assert bench(vera, ruled_yesterday)["state"] == "undecided"
    ruled = post(vera, f"/api/cells/{stop.cell_id}/verdict/", {"ruling": "rework"}).json()
    cell = next(one for one in ruled["cells"] if one["id"] == stop.cell_id)
    assert cell["verdict"]["ruling"] == "rework"
    stop.refresh_from_db()
    assert stop.ruled == "rework"
