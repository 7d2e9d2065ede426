"""Who is in charge of a picture, and what happened since one was last at the Desk."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.utils import timezone
from house import post

pytestmark = pytest.mark.django_db
JSON = "application/json"


def put(client, picture, **body):
    return client.put(f"/api/pictures/{picture.pk}/charge/", body, JSON)


def on_desk(client, **query):
    return client.get("/api/desk/", query).json()["pictures"]


def came_back(person, hours=2):
    """The person was last at the Desk some hours ago."""
    from desk.models import Visit

    Visit.objects.filter(person=person).update(at=timezone.now() - timedelta(hours=hours))


def test_a_supervisor_takes_a_picture_over_and_finds_it_among_theirs(signed_in, people, checked):
    vera = signed_in("vera")
    assert on_desk(vera)[0]["charge"] is None and on_desk(vera, charge="mine") == []
    assert put(vera, checked, person=people["vera"].pk).status_code == 200
    (picture,) = on_desk(vera, charge="mine")
    assert picture["charge"] == {"id": people["vera"].pk, "name": people["vera"].called}
    assert on_desk(vera, charge="nobody") == []
    assert len(on_desk(vera, charge=str(people["vera"].pk))) == 1
    assert put(vera, checked, person=None).json() == {"charge": None}
    assert len(on_desk(vera, charge="nobody")) == 1


def test_only_a_supervisor_of_the_job_can_be_in_charge(signed_in, people, checked):
    vera = signed_in("vera")
    refused = put(vera, checked, person=people["mona"].pk)
    assert refused.status_code == 400 and "no supervisor" in refused.json()["error"]
    assert put(vera, checked, person=999_999).status_code == 400
    assert on_desk(vera)[0]["charge"] is None


def test_a_picture_is_handed_over_with_a_word_that_is_read_at_the_next_visit(
    signed_in, people, checked
):
    vera, other = signed_in("vera"), signed_in("ines")
    assert post(other, "/api/desk/visit/").json() == {"since": None, "news": []}
    came_back(people["ines"])
    put(vera, checked, person=people["ines"].pk, words="the client is nervous about the rope")
    one = post(other, "/api/desk/visit/").json()["news"][0]
    assert (one["what"], one["person"]) == ("in charge", people["vera"].called)
    assert one["words"] == "the client is nervous about the rope"
    # Once it is handed over the same again changes nothing.
    put(vera, checked, person=people["ines"].pk)
    assert checked.history.filter(what="in charge").count() == 1
    # What one did oneself is no news; what the machine did is.
    post(vera, "/api/desk/visit/")
    came_back(people["vera"])
    assert "in charge" not in [one["what"] for one in post(vera, "/api/desk/visit/").json()["news"]]


def test_a_visit_lasts_while_one_comes_again_within_half_an_hour(signed_in, people, checked):
    vera, other = signed_in("vera"), signed_in("ines")
    post(other, "/api/desk/visit/")
    came_back(people["ines"])
    put(vera, checked, person=people["vera"].pk)
    first = post(other, "/api/desk/visit/").json()
    assert post(other, "/api/desk/visit/").json() == first and first["news"]


@pytest.mark.parametrize(
    "query, found",
    [
        ({"severity": "faint"}, ["Quay"]),
        ({"severity": "glaring"}, []),
        ({"method": "retouched by hand"}, []),
        ({"due": "overdue"}, []),
        ({"due": "none"}, ["Quay"]),
        ({"due": "week"}, []),
    ],
)
def test_pictures_are_found_by_how_visible_their_flaw_is_by_method_and_by_day(
    signed_in, checked, query, found
):
    from ledger.models import PictureState

    checked.name = "Quay"
    checked.save()
    PictureState.objects.filter(picture=checked).update(worst_word="clear")
    vera = signed_in("vera")
    assert [one["name"] for one in on_desk(vera, **query)] == found


def test_a_picture_is_found_by_the_method_of_one_of_its_attempts(signed_in, checked):
    vera = signed_in("vera")
    desk = vera.get("/api/desk/").json()
    (method, *_) = desk["methods"]
    assert len(on_desk(vera, method=method)) == 1 and on_desk(vera, method="none such") == []


@pytest.mark.parametrize("query", [{"charge": "us"}, {"severity": "huge"}, {"due": "soon"}])
def test_what_cannot_be_looked_for_is_refused(signed_in, checked, query):
    assert signed_in("vera").get("/api/desk/", query).status_code == 400


def test_a_run_goes_through_what_the_desk_looks_for(signed_in, people, checked):
    from house import do_all_work

    do_all_work()
    vera = signed_in("vera")
    refused = vera.post("/api/runs/", {"charge": "mine"}, JSON)
    assert refused.status_code == 400
    put(vera, checked, person=people["vera"].pk)
    assert vera.post("/api/runs/", {"charge": "mine"}, JSON).status_code == 201
    assert vera.post("/api/runs/", {"q": str(checked.number)}, JSON).status_code == 201
