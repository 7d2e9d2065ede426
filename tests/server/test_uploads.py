"""Files in parts, and the tokens that programs bring them with. Each test reads like its rule."""

from __future__ import annotations

import hashlib
from datetime import timedelta

import pytest
from builders import png, textured
from django.test import Client
from house import do_all_work, post

pytestmark = pytest.mark.django_db

DATA = png(textured(300, 400, seed=71))
HASH = hashlib.sha256(DATA).hexdigest()


def begin(client, job, name="quay.png", data=DATA, sha256=HASH, **headers):
    asked = {"name": name, "size": len(data), "sha256": sha256}
    return client.post(
        f"/api/jobs/{job.pk}/uploads/", asked, content_type="application/json", headers=headers
    )


def part(client, key, offset, data, **headers):
    return client.put(
        f"/api/uploads/{key}/{offset}/",
        data,
        content_type="application/octet-stream",
        headers=headers,
    )


@pytest.fixture
def vera(signed_in):
    return signed_in("vera")


@pytest.fixture
def key(vera, job):
    return begin(vera, job).json()["key"]


def test_a_file_arrives_once_all_of_its_parts_are_there(vera, job, key):
    from arrivals.models import Arrival, Upload

    half = len(DATA) // 2
    first = part(vera, key, 0, DATA[:half]).json()
    assert first["received"] == half and first["arrival"] is None
    assert not Arrival.objects.exists()
    last = part(vera, key, half, DATA[half:]).json()
    assert last["arrival"]["name"] == "quay.png" and not Upload.objects.exists()
    do_all_work()
    row = Arrival.objects.get()
    assert row.state == "ready" and row.sha256 == HASH and row.width == 400


def test_what_broke_off_goes_on_where_it_stopped(vera, job, key):
    part(vera, key, 0, DATA[:1000])
    # The page was closed; the same file is dropped again.
    again = begin(vera, job).json()
    assert again["key"] == key and again["received"] == 1000
    # A part whose answer was lost is sent again: it is known.
    twice = part(vera, key, 0, DATA[:1000])
    assert twice.status_code == 409 and twice.json()["received"] == 1000
    assert part(vera, key, 1000, DATA[1000:]).json()["arrival"]


def test_parts_leave_nothing_behind(vera, job, key, settings):
    from store.places import arrivals

    part(vera, key, 0, DATA[:1000])
    part(vera, key, 1000, DATA[1000:])
    assert [name for name in arrivals().names() if key in name] == []


def test_where_the_last_step_failed_the_parts_stay_and_it_is_tried_again(
    vera, job, key, monkeypatch
):
    import arrivals.uploading as uploading

    def full(*_):
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as disk:
        disk.setattr(uploading, "receive", full)
        vera.raise_request_exception = False
        assert part(vera, key, 0, DATA).status_code == 500
    assert vera.get(f"/api/uploads/{key}/").json()["received"] == len(DATA)
    assert part(vera, key, len(DATA), b"").json()["arrival"]["name"] == "quay.png"


def test_bytes_that_are_not_those_announced_are_refused_whole(vera, job):
    from arrivals.models import Arrival, Upload

    key = begin(vera, job, sha256="0" * 64).json()["key"]
    refused = part(vera, key, 0, DATA)
    assert refused.status_code == 400 and "came over damaged" in refused.json()["error"]
    assert not Arrival.objects.exists() and not Upload.objects.exists()


def test_what_is_no_picture_is_refused_at_its_first_part(vera, job):
    data = b"no picture at all" * 100
    key = begin(vera, job, name="notes.png", data=data, sha256="").json()["key"]
    assert part(vera, key, 0, data).status_code == 400
    assert vera.get(f"/api/uploads/{key}/").json()["received"] == 0


@pytest.mark.parametrize(
    ("size", "sha256", "words"),
    [(0, "", "1 byte"), (10**12, "", "1 byte"), (9, "zz", "64 hexadecimal")],
)
def test_what_cannot_be_a_file_is_refused_before_it_is_sent(vera, job, size, sha256, words):
    asked = {"name": "one.png", "size": size, "sha256": sha256}
    refused = post(vera, f"/api/jobs/{job.pk}/uploads/", asked)
    assert refused.status_code == 400 and words in refused.json()["error"]


def test_the_same_bytes_are_not_sent_twice(vera, job, key):
    part(vera, key, 0, DATA)
    refused = begin(vera, job, name="again.png")
    assert refused.status_code == 400 and "is here already, as quay.png" in refused.json()["error"]


def test_parts_beyond_the_end_empty_or_too_large_are_refused(vera, job, key):
    assert part(vera, key, 0, b"").status_code == 400
    assert part(vera, key, 0, DATA + b"more").status_code == 400
    assert part(vera, key, 0, bytes(8_000_001)).status_code == 413


def test_files_under_way_are_one_s_own_and_can_be_given_up(vera, signed_in, job, key):
    for name in ("ines", "mona", "stranger"):
        assert signed_in(name).get(f"/api/uploads/{key}/").status_code == 404
    assert vera.delete(f"/api/uploads/{key}/").status_code == 204
    assert vera.get(f"/api/uploads/{key}/").status_code == 404
    assert begin(signed_in("mona"), job).status_code == 404


def test_what_nobody_goes_on_with_is_forgotten(vera, job, key):
    from arrivals.models import Upload
    from arrivals.uploading import forget_old_uploads
    from store.places import arrivals
    from work.clock import now

    part(vera, key, 0, DATA[:1000])
    assert forget_old_uploads() == 0
    Upload.objects.update(touched_at=now() - timedelta(days=30))
    assert forget_old_uploads() == 1
    assert [name for name in arrivals().names() if key in name] == []


@pytest.fixture
def secret(vera):
    made = post(vera, "/api/session/tokens/", {"name": "export folder"})
    assert made.status_code == 201
    return made.json()["secret"]


def test_a_program_brings_files_in_with_its_person_s_token(vera, job, secret):
    from people.models import Token

    program = Client()
    headers = {"Authorization": f"Token {secret}"}
    assert program.get("/api/jobs/", headers=headers).json()[0]["name"] == job.name
    key = begin(program, job, **headers).json()["key"]
    assert part(program, key, 0, DATA, **headers).json()["arrival"]
    assert program.get(f"/api/jobs/{job.pk}/intake/", headers=headers).status_code == 200
    assert Token.objects.get().used_at is not None


def test_a_token_is_good_for_bringing_in_and_for_nothing_else(checked, vera, secret):
    headers = {"Authorization": f"Token {secret}"}
    program = Client()
    for path in ("/api/desk/", f"/api/pictures/{checked.pk}/bench/", "/api/session/tokens/"):
        assert program.get(path, headers=headers).status_code == 401, path
    refused = program.post("/api/jobs/", {}, content_type="application/json", headers=headers)
    assert refused.status_code == 403 and "makes no jobs" in refused.json()["error"]


def test_a_token_is_shown_once_kept_as_a_hash_and_can_be_revoked(vera, signed_in, secret):
    from people.models import Token

    row = Token.objects.get()
    assert secret not in repr(row.__dict__) and len(row.token_hash) == 64
    listed = vera.get("/api/session/tokens/").json()
    assert listed["secret"] is None and listed["tokens"][0]["name"] == "export folder"
    assert signed_in("ines").delete(f"/api/session/tokens/{row.pk}/").status_code == 404
    assert vera.delete(f"/api/session/tokens/{row.pk}/").json()["tokens"] == []
    answer = Client().get("/api/jobs/", headers={"Authorization": f"Token {secret}"})
    assert answer.status_code == 401 and "revoked" in answer.json()["error"]


def test_whoever_may_no_longer_sign_in_has_no_token_either(people, secret):
    people["vera"].is_active = False
    people["vera"].save()
    answer = Client().get("/api/jobs/", headers={"Authorization": f"Token {secret}"})
    assert answer.status_code == 401


def test_one_has_so_many_tokens_at_most(vera, secret):
    for number in range(19):
        assert post(vera, "/api/session/tokens/", {"name": f"n{number}"}).status_code == 201
    refused = post(vera, "/api/session/tokens/", {"name": "one more"})
    assert refused.status_code == 400 and "revoke one" in refused.json()["error"]
