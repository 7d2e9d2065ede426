"""A job's people and terms: inviting by a link, roles, correcting what was entered. Each test reads
like its rule.
"""

from __future__ import annotations

import pytest
from django.test import Client
from house import PASSWORD, do_all_work, post

pytestmark = pytest.mark.django_db

NEW = {"username": "lena", "name": "Lena Brodt", "password": "harbour-lights-9"}


def sheet(client, job):
    return client.get(f"/api/jobs/{job.pk}/sheet/").json()


def invite(client, job, role="retoucher", name="Lena"):
    answer = post(client, f"/api/jobs/{job.pk}/invitations/", {"role": role, "name": name})
    assert answer.status_code == 201, answer.json()
    return answer.json()["link"].rsplit("/", 1)[1]


def join(client, token, **body):
    return post(client, f"/api/join/{token}/", body)


def edit(who, job, **body):
    return who.patch(f"/api/jobs/{job.pk}/sheet/", body, content_type="application/json")


# -- inviting


def test_whoever_has_the_link_makes_an_account_and_takes_part_in_the_role(signed_in, job, people):
    token = invite(signed_in("vera"), job)
    stranger = Client()
    said = stranger.get(f"/api/join/{token}/").json()
    assert (said["job"], said["role"], said["name"], said["by"]) == (
        "Harbour Year",
        "retoucher",
        "Lena",
        "Vera",
    )
    assert join(stranger, token, **NEW).status_code == 204
    # Signed in at once.
    session = stranger.get("/api/session/").json()
    assert (session["name"], session["role"]) == ("Lena Brodt", "retoucher")
    assert "Lena Brodt" in [one["name"] for one in sheet(signed_in("vera"), job)["job"]["people"]]


def test_the_database_holds_nothing_that_opens_the_door(signed_in, job, people):
    from crew.models import Invitation

    token = invite(signed_in("vera"), job)
    row = Invitation.objects.get()
    assert token not in repr({name: str(value) for name, value in vars(row).items()})
    assert sheet(signed_in("vera"), job)["link"] is None


def test_a_link_works_once(signed_in, job, people):
    token = invite(signed_in("vera"), job)
    assert join(Client(), token, **NEW).status_code == 204
    again = join(Client(), token, **{**NEW, "username": "other"})
    assert again.status_code == 400 and "used" in again.json()["error"]
    assert Client().get(f"/api/join/{token}/").status_code == 400


def test_a_link_that_is_over_or_taken_back_works_no_more(signed_in, job, people, settings):
    vera = signed_in("vera")
    settings.INVITATION_DAYS = -1.0
    assert join(Client(), invite(vera, job), **NEW).status_code == 400
    settings.INVITATION_DAYS = 7.0
    token = invite(vera, job)
    (row,) = sheet(vera, job)["invitations"]
    assert vera.delete(f"/api/invitations/{row['id']}/").json()["invitations"] == []
    assert join(Client(), token, **NEW).status_code == 400
    assert Client().get("/api/join/" + "x" * 43 + "/").status_code == 400


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ({**NEW, "username": "mona"}, "taken"),
        ({**NEW, "username": "a b!"}, "valid username"),
        ({**NEW, "username": " "}, "Choose a name"),
        ({**NEW, "password": "12345"}, "password"),
    ],
)
def test_a_name_that_is_taken_or_a_weak_password_makes_nothing_and_uses_nothing_up(
    signed_in, job, people, body, words
):
    from people.models import Person

    token = invite(signed_in("vera"), job)
    before = Person.objects.count()
    refused = join(Client(), token, **body)
    assert refused.status_code == 400 and words in refused.json()["error"]
    assert Person.objects.count() == before
    assert join(Client(), token, **NEW).status_code == 204


def test_somebody_with_an_account_joins_with_it_and_only_once(signed_in, job, people):
    vera, stranger = signed_in("vera"), signed_in("stranger")
    token = invite(vera, job, "guest")
    assert join(stranger, token).status_code == 204
    assert job.role_of(people["stranger"]) == "guest"
    again = join(stranger, invite(vera, job, "supervisor"))
    assert again.status_code == 400 and "already" in again.json()["error"]
    assert job.role_of(people["stranger"]) == "guest"


def test_only_a_supervisor_of_the_job_invites(signed_in, job, people):
    body = {"role": "supervisor", "name": ""}
    for name in ("mona", "archive", "stranger"):
        answer = post(signed_in(name), f"/api/jobs/{job.pk}/invitations/", body)
        assert answer.status_code == 404, name


# -- who takes part


def test_roles_are_changed_and_people_taken_out_but_one_supervisor_stays(signed_in, job, people):
    vera = signed_in("vera")
    member = lambda name: f"/api/jobs/{job.pk}/people/{people[name].pk}/"
    put = lambda name, role: vera.put(member(name), {"role": role}, content_type="application/json")
    assert put("mona", "guest").status_code == 200 and job.role_of(people["mona"]) == "guest"
    assert vera.delete(member("archive")).status_code == 200
    assert job.role_of(people["archive"]) is None
    assert vera.delete(member("ines")).status_code == 200
    alone = vera.delete(member("vera"))
    assert alone.status_code == 400 and "one supervisor" in alone.json()["error"]
    assert put("vera", "guest").status_code == 400
    assert vera.delete(member("archive")).status_code == 404


def test_whoever_has_slips_to_work_stays_until_they_are_handed_over(
    signed_in, sent, people, failed
):
    vera = signed_in("vera")
    member = f"/api/jobs/{failed.picture.job_id}/people/{people['mona'].pk}/"
    refused = vera.delete(member)
    assert refused.status_code == 400 and "has a slip to work" in refused.json()["error"]
    assert vera.put(member, {"role": "guest"}, content_type="application/json").status_code == 400
    post(vera, f"/api/slips/{sent}/withdraw/")
    assert vera.delete(member).status_code == 200
    # What she is known for stays on record.
    assert vera.get(f"/api/slips/{sent}/").json()["worker"]["name"] == "Mona"


def test_a_supervisor_who_takes_themselves_out_sees_the_job_no_more(signed_in, job, people):
    ines = signed_in("ines")
    assert ines.delete(f"/api/jobs/{job.pk}/people/{people['ines'].pk}/").status_code == 204
    assert ines.get(f"/api/jobs/{job.pk}/sheet/").status_code == 404


# -- what was entered


def test_what_was_entered_can_be_corrected_with_history(signed_in, job, people):
    from history.models import Entry

    vera = signed_in("vera")
    after = edit(vera, job, name="Harbour Year 2028", client="Town archive", use="private").json()
    assert (after["job"]["name"], after["job"]["use"]) == ("Harbour Year 2028", "private")
    entry = Entry.objects.filter(what="job edited").latest("pk")
    assert entry.before["name"] == "Harbour Year" and entry.after["use"] == "private"
    assert "deadline" not in entry.after
    edit(vera, job, name="Harbour Year 2028")
    assert Entry.objects.filter(what="job edited").count() == 1
    for wrong in ({"name": " "}, {"use": "whatever"}, {"deadline": "soon"}, {"sizes": []}):
        assert edit(vera, job, **wrong).status_code == 400, wrong
    assert edit(signed_in("mona"), job, name="mine").status_code == 404


def test_a_size_that_is_added_leaves_regions_undecided_at_that_size_only(
    signed_in, checked, people
):
    from verdicts.models import Cell
    from verdicts.ruling import rule

    picture, job = checked, checked.job
    vera = signed_in("vera")
    wall, phone = job.sizes.all()
    for cell in Cell.objects.filter(attempt__picture=picture, attempt__number=3):
        rule(cell.pk, people["vera"], "passes at size", None, wall)
    sizes = [{"id": one.pk, "name": one.name, "spec": one.spec} for one in (wall, phone)]
    larger = {"name": "hoarding", "spec": "4000x3000mm@72dpi@1500mm"}
    assert edit(vera, job, sizes=[*sizes, larger]).status_code == 200
    bench = lambda size: vera.get(f"/api/pictures/{picture.pk}/bench/?size={size}").json()
    added = job.sizes.get(name="hoarding")
    assert bench(wall.pk)["done"] is not None and bench(phone.pk)["done"] is not None
    assert bench(added.pk)["done"] is None and bench(added.pk)["undecided"] == [
        region.pk for region in picture.regions.all()
    ]


def test_sizes_change_places_and_names_and_those_that_were_ruled_at_stay(signed_in, failed, people):
    from verdicts.models import Cell
    from verdicts.ruling import rule

    job, vera = failed.picture.job, signed_in("vera")
    wall, phone = job.sizes.all()
    rule(Cell.objects.first().pk, people["vera"], "passes at size", None, phone)
    plain = lambda one, **more: {"id": one.pk, "name": one.name, "spec": one.spec, **more}
    refused = edit(vera, job, sizes=[plain(wall)])
    assert refused.status_code == 400 and "“phone”" in refused.json()["error"]
    swapped = [plain(phone, name="wall"), plain(wall, name="phone")]
    after = edit(vera, job, sizes=swapped).json()
    assert [one["name"] for one in after["job"]["sizes"]] == ["wall", "phone"]
    assert [one["id"] for one in after["job"]["sizes"]] == [phone.pk, wall.pk]
    same = [plain(phone, name="one"), plain(wall, name=" ONE ")]
    assert "same name" in edit(vera, job, sizes=same).json()["error"]
    assert edit(vera, job, sizes=[plain(phone, spec="huge"), plain(wall)]).status_code == 400
    other = edit(
        vera, job, sizes=[plain(wall), plain(phone), {"id": 10**9, "name": "x", "spec": "9px"}]
    )
    assert other.status_code == 400


def test_another_size_to_judge_for_has_every_attempt_examined_for_it(signed_in, checked):
    from checks.models import Check

    vera, job = signed_in("vera"), checked.job
    before = Check.objects.count()
    wall, phone = job.sizes.all()
    plain = lambda one: {"id": one.pk, "name": one.name, "spec": one.spec}
    edit(vera, job, sizes=[plain(phone), plain(wall)])
    assert Check.objects.count() == 2 * before
    do_all_work()
    assert set(Check.objects.values_list("state", flat=True)) == {"done"}
    edit(vera, job, name="Another name")
    assert Check.objects.count() == 2 * before


def test_an_account_made_by_a_link_signs_in_later_with_its_own_password(signed_in, job, people):
    join(Client(), invite(signed_in("vera"), job), **NEW)
    later = Client()
    body = {"username": NEW["username"], "password": NEW["password"]}
    assert post(later, "/api/session/", body).status_code == 200
    assert post(Client(), "/api/session/", {**body, "password": PASSWORD}).status_code == 401
