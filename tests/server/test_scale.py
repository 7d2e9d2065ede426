"""Reading costs the same for few and for many: the number of queries does not grow."""

from __future__ import annotations

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

pytestmark = pytest.mark.django_db


@pytest.fixture
def many(checked, people):
    """As many pictures more as asked for, each with a slip and an attempt, none of them read."""
    from attempts.models import Attempt
    from images.models import Image
    from jobs.models import Picture
    from ledger.standing import refresh
    from regions.models import Region
    from slips.models import Slip, SlipRegion
    from verdicts.models import Cell
    from verdicts.ruling import rule

    first, result = checked.original, checked.attempts.first()
    version = checked.regions.first().current

    def make(count):
        for _ in range(count):
            number = Picture.objects.filter(job=checked.job).count() + 1
            picture = Picture.objects.create(
                job=checked.job, number=number, name=f"Picture {number}"
            )
            region = Region.objects.create(picture=picture, number=1, current=version)
            shared = {"width": first.width, "height": first.height, "format": "png", "depth": 8}
            Image.objects.create(
                picture=picture, blob=first.blob, role="original", profile="none", **shared
            )
            image = Image.objects.create(
                picture=picture, blob=result.image.blob, role="result", profile="none", **shared
            )
            attempt = Attempt.objects.create(
                picture=picture, number=1, image=image, run=result.run, state="checked"
            )
            cell = Cell.objects.create(attempt=attempt, region=region)
            verdict = rule(cell.pk, people["vera"], "rework", None, None)
            slip = Slip.objects.create(
                picture=picture, attempt=attempt, round=1, written_by=people["vera"]
            )
            SlipRegion.objects.create(
                slip=slip,
                region=region,
                attempt=slip.attempt,
                version=version,
                verdict=verdict,
            )
            refresh(picture.pk)

    return make


@pytest.mark.parametrize("path", ["/api/desk/", "/api/slips/", "/api/jobs/", "/api/cold/"])
def test_the_number_of_queries_does_not_grow_with_the_pictures(signed_in, many, path):
    client = signed_in("vera")

    def queries():
        with CaptureQueriesContext(connection) as asked:
            answer = client.get(path)
        assert answer.status_code == 200
        return len(asked)

    many(3)
    few = queries()
    many(12)
    assert 0 < queries() == few < 25


def test_the_desk_says_no_more_than_that_nothing_changed(signed_in, checked, people):
    from verdicts.models import Cell
    from verdicts.ruling import rule

    client = signed_in("vera")
    desk = client.get("/api/desk/").json()
    same = client.get("/api/desk/", {"since": desk["stamp"]}).json()
    assert same["changed"] is False and same["pictures"] == []
    rule(Cell.objects.first().pk, people["vera"], "rework", None, None)
    again = client.get("/api/desk/", {"since": desk["stamp"]}).json()
    assert again["changed"] is True and len(again["pictures"]) == 1


def test_reading_writes_nothing(signed_in, checked):
    client = signed_in("vera")
    region, attempt = checked.regions.first(), checked.attempts.first()
    paths = [
        "/api/desk/",
        "/api/cold/",
        "/api/slips/",
        "/api/jobs/",
        f"/api/pictures/{checked.pk}/bench/",
        f"/api/pictures/{checked.pk}/history/",
        f"/api/regions/{region.pk}/spread/",
        f"/api/images/{attempt.image_id}/aids/grain/",
        f"/api/images/{attempt.image_id}/tiles/info.json",
        f"/api/cells/{attempt.cells.first().pk}/",
    ]
    for path in paths:
        with CaptureQueriesContext(connection) as asked:
            assert client.get(path).status_code == 200, path
        wrote = [one["sql"] for one in asked if not one["sql"].lstrip().startswith("SELECT")]
        assert wrote == [], path


def test_where_a_picture_stands_is_worked_out_anew_with_every_ruling(checked, people):
    from ledger.models import PictureState
    from verdicts.models import Cell
    from verdicts.ruling import rule, take_back

    state = lambda: PictureState.objects.get(picture=checked)
    assert (state().state, state().undecided, state().unexamined) == ("undecided", 2, 0)
    held = checked.attempts.get(number=3)
    for cell in Cell.objects.filter(attempt=held):
        rule(cell.pk, people["vera"], "passes", None, None)
    assert (state().state, state().undecided) == ("done", 0)
    take_back(Cell.objects.filter(attempt=held).first().pk, people["vera"], None)
    assert state().state == "undecided"


def test_what_nobody_has_examined_is_not_said_to_hold(picture):
    from ledger.models import PictureState

    state = PictureState.objects.get(picture=picture)
    assert state.unexamined == state.undecided == 2 and state.worst_severity is None


def test_a_state_that_was_left_behind_is_caught_up(checked):
    from ledger.models import PictureState
    from ledger.standing import catch_up

    PictureState.objects.filter(picture=checked).update(entry=0, undecided=99)
    assert catch_up() == 1 and PictureState.objects.get(picture=checked).undecided == 2
    assert catch_up() == 0
