"""Tiles by the hundred: whoever was allowed one gets the others quickly, nobody else gets any, and
what is taken is gone within seconds.
"""

from __future__ import annotations

import shutil
import time

import pytest
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext


@pytest.fixture
def tile(signed_in, checked):
    """(vera, signed in; an address of the first attempt's tile, which is one)"""
    client = signed_in("vera")
    image = client.get(f"/api/pictures/{checked.pk}/bench/").json()["attempts"][0]["image"]
    return client, f"{image['tiles']}full/400,300/0/default.png"


def test_the_next_tiles_of_a_picture_ask_the_database_nothing(tile, django_assert_num_queries):
    client, first = tile
    whole = b"".join(client.get(first).streaming_content)
    with django_assert_num_queries(0):
        answer = client.get(first)
        assert (
            answer.status_code == 200
            and answer["Cache-Control"] == "private, max-age=31536000, immutable"
            and "Cookie" in answer["Vary"]
        )
        assert (
            b"".join(answer.streaming_content)[:8] == whole[:8] == bytes.fromhex("89504e470d0a1a0a")
        )


@pytest.mark.parametrize(("who", "status"), [(None, 401), ("stranger", 404), ("archive", 404)])
def test_what_one_person_is_granted_nobody_else_is(tile, signed_in, who, status):
    client, first = tile
    assert client.get(first).status_code == 200
    other = signed_in(who) if who else Client()
    assert other.get(first).status_code == status


def test_what_is_taken_from_somebody_is_gone_after_the_granted_seconds(tile, settings, people):
    from jobs.models import Membership

    settings.TILES_GRANTED = 0.3
    client, first = tile
    assert client.get(first).status_code == 200
    Membership.objects.filter(person=people["vera"]).delete()
    time.sleep(0.4)
    assert client.get(first).status_code == 404


def test_signing_out_ends_it_at_once(tile):
    client, first = tile
    assert client.get(first).status_code == 200
    client.delete("/api/session/")
    assert client.get(first).status_code == 401


def test_tiles_that_were_deleted_are_asked_for_again_though_they_were_granted(tile, checked):
    from images.derivation import folder_of
    from images.pyramids import pyramid_of

    client, first = tile
    assert client.get(first).status_code == 200
    shutil.rmtree(folder_of(pyramid_of(checked.attempts.get(number=1).image)))
    assert client.get(first).status_code == 503


def test_a_granted_picture_has_no_more_tiles_than_it_has(tile):
    client, first = tile
    assert client.get(first).status_code == 200
    assert client.get(first.replace("400,300", "401,300")).status_code == 404


def test_an_aids_tiles_are_granted_like_the_images_own_and_the_match_maps_are_not(
    tile, django_assert_num_queries
):
    client, first = tile
    base = first.split("tiles/")[0]
    assert client.get(f"{base}aids/grain/tiles/full/400,300/0/default.png").status_code == 200
    with django_assert_num_queries(0):
        assert client.get(f"{base}aids/grain/tiles/full/400,300/0/default.png").status_code == 200
    with CaptureQueriesContext(connection) as asked:
        client.get(f"{base}aids/matches/tiles/full/400,300/0/default.png")
    assert len(asked) > 3
