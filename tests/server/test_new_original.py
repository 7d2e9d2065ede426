"""A new original: which regions it touches is asked, what was ruled on those lapses, the rest stands."""

from __future__ import annotations

import numpy as np
import pytest
from builders import jpeg, png
from django.core.files.uploadedfile import SimpleUploadedFile
from house import MASKS, do_all_work, post

pytestmark = pytest.mark.django_db
JSON = "application/json"


@pytest.fixture
def vera(signed_in):
    return signed_in("vera")


@pytest.fixture
def ruled(checked, people):
    """Both regions pass in the first attempt."""
    from verdicts.models import Cell
    from verdicts.ruling import rule

    for cell in Cell.objects.filter(attempt__picture=checked, attempt__number=1):
        rule(cell.pk, people["vera"], "passes", None, None)
    return checked


def pixels_of_original(picture):
    from images.decoding import decoded

    return decoded(picture.original.blob).pixels


def arrive(client, picture, name, data):
    made = client.post(
        f"/api/jobs/{picture.job_id}/arrivals/", {"file": SimpleUploadedFile(name, data)}
    ).json()["id"]
    do_all_work()
    return made


def compared(client, picture, arrival):
    ask = lambda: client.get(f"/api/pictures/{picture.pk}/original/", {"arrival": arrival}).json()
    assert ask()["state"] == "working"
    do_all_work()
    return ask()


def take(client, picture, arrival, *touched):
    body = {"arrival": arrival, "touched": [one.pk for one in touched]}
    return post(client, f"/api/pictures/{picture.pk}/original/", body)


def rulings(picture):
    from verdicts.models import Cell

    cells = Cell.objects.filter(attempt__picture=picture, attempt__number=1)
    return {
        cell.region.number: cell.current.ruling if cell.current else None
        for cell in cells.select_related("region", "current")
    }


def changed_in(picture, mask):
    """The original with something else in a mask: a thing cleaned off before it goes to print."""
    pixels = pixels_of_original(picture).copy()
    pixels[mask] = np.clip(pixels[mask].astype(int) + 9, 0, 255).astype(np.uint8)
    return pixels


def test_a_new_original_says_which_regions_it_touches_and_ruling_lapses_there_alone(vera, ruled):
    second = ruled.regions.get(number=2)
    former = ruled.original
    arrival = arrive(vera, ruled, "graded.png", png(changed_in(ruled, MASKS[1])))
    found = compared(vera, ruled, arrival)
    assert found["fits"] and [one["touched"] for one in found["regions"]] == [False, True]
    assert [one["ruled"] for one in found["regions"]] == [1, 1]
    checks = ruled.attempts.get(number=1).checks.count()
    assert take(vera, ruled, arrival, second).status_code == 202
    do_all_work()
    assert rulings(ruled) == {1: "passes", 2: "taken back"}
    from jobs.models import Picture

    picture = Picture.objects.get(pk=ruled.pk)
    assert picture.original.name == "graded.png" and picture.original.pk != former.pk
    # The former one is kept, as it was.
    former.refresh_from_db()
    assert former.role == "former original" and former.blob_id != picture.original.blob_id
    # Every attempt is examined against the new one.
    assert ruled.attempts.get(number=1).checks.count() == checks + 1
    entries = ruled.history.filter(what__in=("new original", "ruling lapsed")).order_by("pk")
    assert [one.what for one in entries] == ["new original", "ruling lapsed"]
    bench = vera.get(f"/api/pictures/{ruled.pk}/bench/").json()
    assert bench["original"]["name"] == "graded.png"


def test_who_decides_may_say_that_more_or_fewer_are_touched(vera, ruled):
    first = ruled.regions.get(number=1)
    arrival = arrive(vera, ruled, "graded.png", png(changed_in(ruled, MASKS[1])))
    compared(vera, ruled, arrival)
    take(vera, ruled, arrival, first)
    do_all_work()
    assert rulings(ruled) == {1: "taken back", 2: "passes"}


def test_what_was_only_saved_anew_touches_nothing(vera, ruled):
    from jobs.models import Picture

    arrival = arrive(vera, ruled, "saved.jpg", jpeg(pixels_of_original(ruled), 92))
    found = compared(vera, ruled, arrival)
    assert found["fits"] and not any(one["touched"] for one in found["regions"])
    take(vera, ruled, arrival)
    do_all_work()
    assert rulings(ruled) == {1: "passes", 2: "passes"}
    assert Picture.objects.get(pk=ruled.pk).original.name == "saved.jpg"


@pytest.mark.parametrize("how", ["cut", "moved"])
def test_what_does_not_lie_on_the_original_is_a_picture_of_its_own(vera, ruled, how):
    pixels = pixels_of_original(ruled)
    other = pixels[10:] if how == "cut" else np.roll(pixels, 7, axis=1)
    arrival = arrive(vera, ruled, "other.png", png(other))
    found = compared(vera, ruled, arrival)
    assert not found["fits"] and "picture of its own" in found["reason"]
    assert take(vera, ruled, arrival).status_code == 400
    assert ruled.history.filter(what="new original").count() == 0


def test_the_original_stays_while_a_slip_is_open(vera, ruled, people):
    from slips.writing import write_slip
    from verdicts.models import Cell
    from verdicts.ruling import rule

    cell = Cell.objects.get(attempt__picture=ruled, attempt__number=1, region__number=1)
    rule(cell.pk, people["vera"], "rework", None, None)
    slip = write_slip(cell.attempt, people["vera"])
    arrival = arrive(vera, ruled, "graded.png", png(changed_in(ruled, MASKS[1])))
    compared(vera, ruled, arrival)
    refused = take(vera, ruled, arrival)
    assert refused.status_code == 400 and f"slip {slip.round}" in refused.json()["error"]


def test_it_must_be_compared_first_and_regions_be_the_pictures(vera, ruled):
    arrival = arrive(vera, ruled, "graded.png", png(changed_in(ruled, MASKS[1])))
    refused = take(vera, ruled, arrival)
    assert refused.status_code == 400 and "not compared" in refused.json()["error"]
    compared(vera, ruled, arrival)
    body = {"arrival": arrival, "touched": [999_999]}
    assert post(vera, f"/api/pictures/{ruled.pk}/original/", body).status_code == 400
    assert vera.get(f"/api/pictures/{ruled.pk}/original/").status_code == 400
