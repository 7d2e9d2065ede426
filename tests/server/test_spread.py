"""One region across all attempts: its order, picks, blind pairs whose names stay hidden; and what
changed between two attempts.
"""

from __future__ import annotations

import pytest

pytestmark = pytest.mark.django_db


@pytest.fixture
def region(checked):
    return checked.regions.first()


def test_attempts_come_in_order_with_what_was_told_each_and_what_is_worst(
    signed_in, checked, region
):
    for attempt, settings in zip(
        checked.attempts.all(),
        ({"feather": 0, "seed": 1}, {"feather": 5, "seed": 1}, {"feather": 5, "seed": 2}),
        strict=True,
    ):
        attempt.run.settings = settings
        attempt.run.save()
    client = signed_in("vera")
    found = client.get(f"/api/regions/{region.pk}/spread/").json()
    numbers = {attempt.pk: attempt.number for attempt in checked.attempts.all()}
    assert [numbers[row["attempt"]] for row in found["rows"]][-1] == 1 and found["rows"][0][
        "differs"
    ] == []
    (between,) = [row for row in found["rows"] if numbers[row["attempt"]] == 1]
    assert (
        {"name": "feather", "before": 5, "after": 0} in between["differs"]
        and between["group"]
        and between["word"] in ("clear", "glaring")
    )
    assert found["agreement"] is None and found["pairs"] == 0 and found["picked"] is None
    bench = client.get(f"/api/pictures/{checked.pk}/bench/").json()
    assert [row["attempt"] for row in found["rows"]] == next(
        one["order"] for one in bench["regions"] if one["id"] == region.pk
    )


def test_the_newest_pick_stands_and_is_on_record(signed_in, checked, region):
    client = signed_in("vera")
    first, _, third = checked.attempts.all()
    assert (
        client.post(
            f"/api/regions/{region.pk}/picks/", {"attempt": first.pk}, "application/json"
        ).json()["picked"]["attempt"]
        == first.pk
    )
    found = client.post(
        f"/api/regions/{region.pk}/picks/", {"attempt": third.pk}, "application/json"
    ).json()
    assert found["picked"] == {"attempt": third.pk, "person": "Vera"} and region.picks.count() == 2
    assert (
        client.get(f"/api/pictures/{checked.pk}/history/").json()["entries"][0]["after"]
        == "attempt 3"
    )
    assert client.post(
        f"/api/regions/{region.pk}/picks/", {"attempt": 999_999}, "application/json"
    ).json() == {"error": "This picture has no such attempt."}


def test_a_blind_pair_names_nothing(signed_in, checked, region):
    pair = signed_in("vera").get(f"/api/regions/{region.pk}/pairs/").json()
    assert (pair["left"]["name"], pair["right"]["name"]) == ("left", "right") and pair["left"][
        "facts"
    ] == pair["right"]["facts"] == ""
    assert (
        "slipway" not in str(pair)
        and "method" not in str(pair)
        and pair["left"]["id"] != pair["right"]["id"]
    )


def test_choices_are_kept_combined_and_laid_beside_the_machines_order(signed_in, checked, region):
    client = signed_in("vera")
    quality = {attempt.image_id: attempt.number for attempt in checked.attempts.all()}
    pair = client.get(f"/api/regions/{region.pk}/pairs/").json()
    for _ in range(9):
        left, right = pair["left"]["id"], pair["right"]["id"]
        better = "left" if quality[left] > quality[right] else "right"
        pair = client.post(
            f"/api/regions/{region.pk}/pairs/",
            {"left": left, "right": right, "better": better},
            "application/json",
        ).json()
    assert pair["pairs"] == pair["mine"] == 9
    found = client.get(f"/api/regions/{region.pk}/spread/").json()
    numbers = {attempt.pk: attempt.number for attempt in checked.attempts.all()}
    by_people = sorted(found["rows"], key=lambda row: -row["strength"]["chance"])
    assert [numbers[row["attempt"]] for row in by_people] == [3, 2, 1]
    assert (
        all(
            row["strength"]["low"] < row["strength"]["chance"] < row["strength"]["high"]
            for row in found["rows"]
        )
        and found["agreement"] > 0.3
    )


def test_the_last_own_choice_can_be_taken_back_and_nobody_elses(signed_in, checked, region):
    vera, ines = signed_in("vera"), signed_in("ines")
    pair = vera.get(f"/api/regions/{region.pk}/pairs/").json()
    body = {"left": pair["left"]["id"], "right": pair["right"]["id"], "better": "no difference"}
    vera.post(f"/api/regions/{region.pk}/pairs/", body, "application/json")
    assert ines.delete(f"/api/regions/{region.pk}/pairs/").json() == {
        "error": "You have chosen no pair here yet."
    }
    assert (
        vera.delete(f"/api/regions/{region.pk}/pairs/").json()["pairs"] == 0
        and region.pairs.count() == 1
    )


@pytest.mark.parametrize("change", [{"left": 0}, {"right": "same"}, {"better": "both"}])
def test_a_pair_that_is_none_is_refused_and_nothing_is_stored(signed_in, checked, region, change):
    client = signed_in("vera")
    pair = client.get(f"/api/regions/{region.pk}/pairs/").json()
    body = {"left": pair["left"]["id"], "right": pair["right"]["id"], "better": "left", **change}
    if body["right"] == "same":
        body["right"] = body["left"]
    answer = client.post(f"/api/regions/{region.pk}/pairs/", body, "application/json")
    assert answer.status_code == 400 and answer.json()["error"] and region.pairs.count() == 0


def test_what_changed_between_two_attempts_is_told_by_setting_and_by_region(signed_in, checked):
    first, second, third = checked.attempts.all()
    first.run.settings = {"feather": 0, "seed": 1}
    first.run.save()
    second.run.settings = {"feather": 5, "seed": 1}
    second.run.save()
    client = signed_in("vera")
    found = client.get(f"/api/attempts/{second.pk}/changes/", {"before": first.pk}).json()
    assert found["settings"] == [{"name": "feather", "before": 0, "after": 5}] and found["judged"]
    one, other = found["regions"]
    # The second attempt holds in the first region and fails like the first in the second.
    assert (
        one["word"] == "fixed"
        and {row["word"] for row in one["kinds"]} == {"fixed"}
        and other["word"] in ("still there", "worse", "new flaw")
    )
    back = client.get(f"/api/attempts/{first.pk}/changes/", {"before": second.pk}).json()
    assert back["regions"][0]["word"] == "new flaw" and back["settings"][0]["after"] == 0
    same = client.get(f"/api/attempts/{third.pk}/changes/", {"before": third.pk}).json()
    assert same["settings"] == [] and all(
        row["word"] in (None, "still there") for row in same["regions"]
    )
    assert client.get(f"/api/attempts/{first.pk}/changes/", {"before": 999_999}).json() == {
        "error": "This picture has no such attempt."
    }


def test_nothing_is_said_of_regions_before_both_attempts_were_judged(signed_in, picture):
    first, second, _ = picture.attempts.all()
    found = (
        signed_in("vera").get(f"/api/attempts/{second.pk}/changes/", {"before": first.pk}).json()
    )
    assert found["judged"] is False and found["regions"] == [] and found["outside"] == []
