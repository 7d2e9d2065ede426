"""A look is cold only if nothing of the picture was seen before; what the eye stopped at is
matched, kept and counted.
"""

from __future__ import annotations

import pytest

pytestmark = pytest.mark.django_db


def look(client, attempt, clicks, **more):
    return client.post(
        f"/api/attempts/{attempt.pk}/cold-looks/", {"clicks": clicks, **more}, "application/json"
    )


@pytest.fixture
def bad(checked):
    return checked.attempts.get(number=1)


def test_the_queue_offers_the_best_attempt_of_each_picture_without_any_name(signed_in, checked):
    (row,) = signed_in("vera").get("/api/cold/").json()
    assert (
        row["cold"] is True
        and row["attempt"] == checked.attempts.get(number=3).pk
        and row["image"]["name"] == row["image"]["facts"] == ""
    )


def test_a_look_before_anything_was_seen_is_cold_and_what_was_clicked_is_uncovered(
    signed_in, checked, bad
):
    answer = look(signed_in("vera"), bad, [[110, 150], [20, 20]], seconds=4.5)
    assert answer.status_code == 201
    found = answer.json()
    assert found["cold"] and found["name"] == "Slipway" and found["attempt"] == 1
    assert (
        found["clicks"][0]["regions"] == [1]
        and found["clicks"][0]["kinds"]
        and found["clicks"][1] == {"x": 20, "y": 20, "regions": [], "kinds": []}
    )
    assert [(row["noticed"], row["times"], row["looks"]) for row in found["regions"]] == [
        (True, 1, 1),
        (False, 0, 1),
    ]


def test_nothing_is_an_outcome_too_and_is_counted(signed_in, checked, bad):
    look(signed_in("vera"), bad, [])
    look(signed_in("ines"), bad, [[110, 150]])
    bench = signed_in("mona").get(f"/api/pictures/{checked.pk}/bench/").json()
    first, second = (
        next(
            cell
            for cell in bench["cells"]
            if cell["attempt"] == bad.pk and cell["region"] == region.pk
        )
        for region in checked.regions.all()
    )
    assert (first["noticed"], first["cold_looks"]) == (1, 2) and (
        second["noticed"],
        second["cold_looks"],
    ) == (0, 2)


@pytest.mark.parametrize("before", ["bench", "another look", "an earlier look"])
def test_who_has_seen_the_original_or_an_attempt_looks_warm(signed_in, checked, bad, before):
    client = signed_in("vera")
    if before == "bench":
        # What is asked for is not seen yet: that is said once it is drawn.
        client.get(f"/api/pictures/{checked.pk}/bench/")
        assert client.get("/api/cold/").json()[0]["cold"] is True
        assert (
            client.post(f"/api/pictures/{checked.pk}/seen/", {}, "application/json").status_code
            == 204
        )
    else:
        look(client, bad if before == "an earlier look" else checked.attempts.get(number=3), [])
    assert client.get("/api/cold/").json()[0]["cold"] is False
    assert look(client, bad, [[110, 150]]).json()["cold"] is False
    # It is kept, and does not count as cold.
    cells = [
        cell
        for cell in client.get(f"/api/pictures/{checked.pk}/bench/").json()["cells"]
        if cell["attempt"] == bad.pk
    ]
    assert sum(cell["cold_looks"] for cell in cells) == (2 if before == "an earlier look" else 0)


def test_the_desk_shows_nothing_of_a_picture_that_was_not_opened(signed_in, checked):
    client = signed_in("vera")
    assert client.get("/api/desk/").json()["pictures"][0]["crop"] is None
    client.post(f"/api/pictures/{checked.pk}/seen/", {}, "application/json")
    assert client.get("/api/desk/").json()["pictures"][0]["crop"]
    assert signed_in("ines").get("/api/desk/").json()["pictures"][0]["crop"] is None


def test_clicks_outside_the_picture_are_refused_and_nothing_is_kept(signed_in, checked, bad):
    from looks.models import ColdLook

    client = signed_in("vera")
    assert (
        look(client, bad, [[9000, 5]]).json() == {"error": "a click lies outside the picture"}
        and look(client, bad, [[1]]).status_code == 400
    )
    assert not ColdLook.objects.exists() and client.get("/api/cold/").json()[0]["cold"] is True
