"""A retoucher's side of a shot's slip. Each test reads like its rule."""

from __future__ import annotations

import io
import json
import zipfile

import pytest
from filming import FRAMES, packed, quay, shot_fixtures
from house import do_all_work, post

from jobs.models import Membership
from people.models import Person
from zweiblick_core.io import read

pytestmark = pytest.mark.django_db
globals().update(shot_fixtures())


@pytest.fixture
def mona(signed_in):
    return signed_in("mona")


@pytest.fixture
def otto(job):
    """Another retoucher of the job."""
    person = Person.objects.create_user("otto", password="a long password", name="Otto")
    Membership.objects.create(job=job, person=person, role=Membership.Role.RETOUCHER)
    return person


@pytest.fixture
def slip(vera, ruling, examined):
    """Frames 4 to 9, ruled rework and sent to mona."""
    ruling(4, 9, "rework", 0)
    body = {
        "attempt": examined.attempts.get(number=1).pk,
        "parts": [{"region": examined.regions.get().pk, "ranges": [{"first": 4, "last": 9}]}],
        "worker": Person.objects.get(username="mona").pk,
        "note": "the fill jumps",
        "due": "2027-03-01",
    }
    answer = post(vera, f"/api/shots/{examined.pk}/slips/", body)
    assert answer.status_code == 201, answer.content
    do_all_work()
    return answer.json()["slips"][0]["id"]


@pytest.fixture
def says(slip):
    def say(who, event, words="", **more):
        return post(who, f"/api/shot-slips/{slip}/", {"event": event, "words": words, **more})

    return say


@pytest.fixture
def brings(mona, job):
    """Mona brings footage; it is read."""

    def bring(data, name="quay-mona.mkv"):
        asked = {"name": name, "size": len(data), "what": "footage"}
        begun = post(mona, f"/api/jobs/{job.pk}/uploads/", asked)
        assert begun.status_code == 201, begun.content
        put = mona.put(
            f"/api/uploads/{begun.json()['key']}/0/", data, content_type="application/octet-stream"
        )
        do_all_work()
        return put.json()["footage"]

    return bring


def state_of(who, slip):
    return next(one for one in who.get("/api/shot-slips/").json() if one["id"] == slip)


def test_a_retoucher_sees_their_own_slips_of_shots_and_nobody_elses(
    vera, mona, signed_in, slip, examined, otto
):
    (mine,) = mona.get("/api/shot-slips/").json()
    assert (mine["id"], mine["mine"], mine["state"]) == (slip, True, "sent")
    assert (mine["shot_name"], mine["due"]) == ("Across the quay", "2027-03-01")
    assert mine["parts"][0]["ranges"] == [{"first": 4, "last": 9}]
    (led,) = vera.get("/api/shot-slips/").json()
    assert not led["mine"] and led["recipient"] == mine["recipient"]
    other = signed_in(otto.username)
    assert other.get("/api/shot-slips/").json() == []
    assert other.get(f"/api/shots/{examined.pk}/").json()["slips"] == []


def test_the_list_takes_as_many_queries_for_many_slips_as_for_one(
    vera, slip, examined, django_assert_max_num_queries
):
    from shots.models import ShotSlip

    def asked():
        with django_assert_max_num_queries(60) as counted:
            assert vera.get("/api/shot-slips/").status_code == 200
        return len(counted)

    one = asked()
    row = ShotSlip.objects.get(pk=slip)
    for number in range(2, 20):
        ShotSlip.objects.create(
            shot=examined,
            attempt=row.attempt,
            round=number,
            worker=row.worker,
            parts=row.parts,
            state="settled",
            written_by=row.written_by,
        )
    assert len(vera.get("/api/shot-slips/").json()) == 19
    assert asked() == one


def test_whoever_works_on_it_asks_and_goes_on_once_answered(vera, mona, says, slip):
    assert says(mona, "taken up").status_code == 200
    assert says(mona, "asked").status_code == 400  # in words
    assert says(mona, "asked", "Is the rope part of it?").status_code == 200
    assert state_of(vera, slip)["state"] == "question"
    assert says(mona, "answered", "No.").status_code == 403
    said = says(vera, "answered", "No, it stays.").json()["slips"][0]
    assert said["state"] == "working"
    assert [(one["what"], one["words"]) for one in said["words_said"]] == [
        ("asked", "Is the rope part of it?"),
        ("answered", "No, it stays."),
    ]


def test_what_is_declined_says_why_and_can_be_handed_over_as_it_is(
    vera, mona, signed_in, says, slip, otto
):
    says(mona, "declined", "not before Friday")
    assert state_of(vera, slip)["reason"] == "not before Friday"
    same = says(vera, "handed over", worker=Person.objects.get(username="mona").pk)
    assert same.status_code == 400 and "has this slip already" in same.json()["error"]
    assert says(vera, "handed over", worker=otto.pk).status_code == 200
    assert mona.get("/api/shot-slips/").json() == []
    (handed,) = signed_in(otto.username).get("/api/shot-slips/").json()
    assert (handed["state"], handed["mine"], handed["reason"]) == ("sent", True, "")


def test_the_package_has_a_mask_of_every_frame_that_was_sent_numbered_as_the_frames_are(
    mona, slip, examined
):
    answer = mona.get(f"/api/shot-slips/{slip}/package/")
    assert answer.status_code == 200
    package = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
    said = json.loads(package.read("slip.json"))
    assert said["schema"] == "zweiblick.shot-slip/1" and said["note"] == "the fill jumps"
    assert said["sent"]["name"] == "quay-a.mkv" and said["original"]["frames"] == FRAMES
    (region,) = said["regions"]
    # The original's pictures are numbered from 1.
    assert region["frames"] == [{"first": 5, "last": 10}]
    assert "flicker" in {one["kind"] for one in region["findings"]}
    names = [f"masks/region-1/{number:04}.png" for number in range(5, 11)]
    assert sorted(package.namelist()) == sorted([*names, "slip.json"])
    truth = quay().masks
    for number, name in zip(range(4, 10), names, strict=True):
        mask = read(package.read(name)).pixels[..., 0] > 127
        both, either = (mask & truth[number]).sum(), (mask | truth[number]).sum()
        assert both / either > 0.8


def test_footage_is_had_as_it_came(mona, slip, examined):
    footage = examined.attempts.get(number=1).footage
    answer = mona.get(f"/api/footage/{footage.pk}/file/")
    assert b"".join(answer.streaming_content)[:4] == b"\x1aE\xdf\xa3"
    assert "quay-a.mkv" in answer["Content-Disposition"]


def test_a_package_is_kept_only_while_the_slip_is_worked(vera, mona, says, slip):
    from shots.models import ShotSlip
    from shots.packages import forget_packages, is_kept

    assert is_kept(ShotSlip.objects.get(pk=slip))
    says(vera, "withdrawn")
    forget_packages()
    assert not is_kept(ShotSlip.objects.get(pk=slip))
    assert mona.get(f"/api/shot-slips/{slip}/package/").status_code == 404


def test_a_retoucher_brings_the_answer_themselves_and_hands_it_in(
    vera, mona, slip, brings, video, examined
):
    given = [frame.copy() for frame in quay("flicker", 2.0).result]
    given[4:10] = quay().result[4:10]
    footage = brings(video(given))
    page = mona.get(f"/api/shots/{examined.pk}/").json()
    assert [one["id"] for one in page["waiting"]] == [footage]
    back = post(mona, f"/api/shot-slips/{slip}/answer/", {"footage": footage})
    assert back.status_code == 201, back.content
    do_all_work()
    assert state_of(mona, slip)["state"] == "rechecked"
    assert not state_of(vera, slip)["differing"]
    third = examined.attempts.get(number=3)
    assert third.maker == Person.objects.get(username="mona").called


def test_footage_of_other_frames_is_refused_at_once_and_can_be_forgotten(
    mona, slip, brings, video, examined
):
    footage = brings(video(quay().result[:20]))
    back = post(mona, f"/api/shot-slips/{slip}/answer/", {"footage": footage})
    assert back.status_code == 400 and "has 20 frames" in back.json()["error"]
    assert state_of(mona, slip)["state"] == "sent"
    assert mona.delete(f"/api/footage/{footage}/").status_code == 204
    assert mona.get(f"/api/shots/{examined.pk}/").json()["waiting"] == []


def test_nobody_hands_in_what_somebody_else_brought(mona, slip, kept, examined):
    others = kept("quay-vera.zip", packed(quay().result))
    page = mona.get(f"/api/shots/{examined.pk}/").json()
    assert page["waiting"] == []
    refused = post(mona, f"/api/shot-slips/{slip}/answer/", {"footage": others.pk})
    assert refused.status_code == 404


def test_whoever_has_no_slip_out_brings_no_footage(vera, mona, says, job):
    asked = {"name": "x.mkv", "size": 10, "what": "footage"}
    says(vera, "withdrawn")
    assert post(mona, f"/api/jobs/{job.pk}/uploads/", asked).status_code == 404


def test_who_works_a_slip_of_a_shot_stays_in_the_job(vera, mona, says, slip, job):
    person = Person.objects.get(username="mona")
    path = f"/api/jobs/{job.pk}/people/{person.pk}/"
    kept = vera.delete(path)
    assert kept.status_code == 400 and "a slip of a shot to work" in kept.json()["error"]
    says(vera, "withdrawn")
    assert vera.delete(path).status_code in (200, 204)
