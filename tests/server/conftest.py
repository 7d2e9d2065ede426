"""Tests against a real MariaDB; `bin/test` starts it and sets the environment."""

from __future__ import annotations

import copy
import hashlib
import threading
from http.server import ThreadingHTTPServer

import numpy as np
import pytest
from builders import filled, holding, png, with_thing
from django.test import Client
from house import MASKS, PASSWORD, TRUTH, do_all_work, post
from kept import Kept


@pytest.fixture(autouse=True)
def _no_broker(settings, monkeypatch, request):
    """Work is done in the test itself, unless the test starts a worker of its own; passwords are
    hashed quickly.
    """
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    if "own_worker" not in request.keywords:
        monkeypatch.setattr("work.leases.dispatch", lambda pk: None)
        # A test is one transaction that never commits: what waits for a commit is done at once.
        monkeypatch.setattr("django.db.transaction.on_commit", lambda func, **_: func())


@pytest.fixture(scope="session", autouse=True)
def _may_be_emptied():
    """Tests that commit are tidied up by emptying every table; those that only grow let go for
    that, and are guarded again.
    """
    from django.db import connection

    from history.protection import APPENDED, guards, unguards

    emptied = connection.ops.sql_flush

    def flushing(*given, **more):
        statements = emptied(*given, **more)
        return [
            *(sql for table in APPENDED for sql in unguards(table)),
            *statements,
            *(sql for table in APPENDED for sql in guards(table)),
        ]

    connection.ops.sql_flush = flushing
    yield
    connection.ops.sql_flush = emptied


@pytest.fixture(autouse=True)
def _own_store(settings, tmp_path_factory):
    """Files of their own, so that nothing that a test damages is another's."""
    root = tmp_path_factory.mktemp("store")
    storages = copy.deepcopy(settings.STORAGES)
    for place, name in (
        ("default", "blobs"),
        ("derived", "derived"),
        ("arrivals", "arrivals"),
        ("deliveries", "deliveries"),
    ):
        storages[place]["OPTIONS"]["location"] = root / name
    settings.STORAGES = storages
    settings.STORE = root
    from images.decoding import forget_decoded
    from images.tiles import _tile

    forget_decoded()
    _tile.cache_clear()


_judged: dict[str, object] = {}


@pytest.fixture(autouse=True)
def _judged_once(monkeypatch):
    """The core judges the same pixels and masks the same way (its own tests hold it to that), so
    each pair is judged once in a run of these tests.
    """
    from zweiblick_core.check import check

    def once(original, result, regions, size, progress, alignment=None):
        parts = [original.pixels, result.pixels, *(region.mask for region in regions)]
        key = hashlib.sha256(
            b"".join(np.ascontiguousarray(part).tobytes() for part in parts)
            + repr(
                [
                    *(part.shape for part in parts),
                    *(region.bbox for region in regions),
                    size,
                    original.profile,
                    result.profile,
                    original.format,
                    result.format,
                ]
            ).encode()
        ).hexdigest()
        if key not in _judged:
            _judged[key] = check(original, result, regions, size, progress, alignment=alignment)
        report = copy.deepcopy(_judged[key])
        for told, region in zip(report.regions, regions, strict=False):
            told.id = region.id  # the rows of another test
        return report

    monkeypatch.setattr("checks.running.core_check", once)


def _make_job():
    from jobs.models import DeliverySize, Job

    job = Job.objects.create(name="Harbour Year")
    DeliverySize.objects.create(job=job, name="wall", spec="594x420mm@150dpi@700mm", position=0)
    DeliverySize.objects.create(job=job, name="phone", spec="1080px@430dpi@350mm", position=1)
    return job


_ROLES = {
    "vera": "supervisor",
    "ines": "supervisor",
    "mona": "retoucher",
    "archive": "guest",
    "stranger": None,
}


def _make_people(job):
    from jobs.models import Job, Membership
    from people.models import Person

    another = Job.objects.create(name="Another job")
    for name, role in _ROLES.items():
        person = Person.objects.create_user(name, password=PASSWORD, name=name.title())
        where, what = (job, role) if role else (another, "supervisor")
        Membership.objects.create(job=where, person=person, role=what)


def _make_picture(job, vera):
    from attempts.intake import Facts, add_attempt, add_picture

    both = np.any(MASKS, axis=0)
    original = with_thing(TRUTH, both)
    picture = add_picture(
        job,
        "Slipway",
        "slipway.png",
        png(original),
        [("buoy", MASKS[0]), ("hose reel", MASKS[1])],
        vera,
    )
    bad = filled(TRUTH, both, TRUTH.astype(float) + 26)
    half = filled(holding(TRUTH, MASKS[0]), MASKS[1], TRUTH.astype(float) + 26)
    for number, pixels in enumerate((bad, half, holding(TRUTH, both)), 1):
        add_attempt(
            picture,
            f"slipway-{number}.png",
            png(pixels),
            Facts(f"method {number}", "built in", "us", 2.0),
            vera,
        )
    return picture


_kept: dict[str, Kept] = {}
#: What tests start from, each with all before it.
_STAGES = ("job", "people", "picture", "checked")


@pytest.fixture
def _stage(db, request, tmp_path_factory):
    """As far as the test asks for it: made once, put back for every further test."""
    from people.models import Person

    far = max(_STAGES.index(name) for name in _STAGES if name in request.fixturenames)

    def make():
        job = _make_job()
        if far >= 1:
            _make_people(job)
        if far >= 2:
            _make_picture(job, Person.objects.get(username="vera"))
        if far >= 3:
            do_all_work()

    name = _STAGES[far]
    if name in _kept:
        _kept[name].put_back()
    else:
        _kept[name] = Kept.of(make, tmp_path_factory.mktemp("kept") / name)


@pytest.fixture
def job(_stage):
    from jobs.models import Job

    return Job.objects.get(name="Harbour Year")


@pytest.fixture
def people(job):
    from people.models import Person

    if not Person.objects.filter(username="vera").exists():
        # A test with a job of its own.
        _make_people(job)
    return {person.username: person for person in Person.objects.filter(username__in=_ROLES)}


@pytest.fixture
def picture(job, people):
    """Two regions, three attempts: one copies and is too bright, one holds in the first region
    only, one holds.
    """
    return job.pictures.get(name="Slipway")


@pytest.fixture
def checked(picture):
    """The picture with all of its work done."""
    do_all_work()
    return picture


@pytest.fixture
def signed_in(people):
    from people.models import Person

    def make(name: str) -> Client:
        client = Client()
        person = Person.objects.get(username=name)
        client.force_login(person, "django.contrib.auth.backends.ModelBackend")
        return client

    return make


@pytest.fixture
def failed(checked, people):
    """Attempt 2 passes in the first region and is sent back for the second."""
    from verdicts.models import Cell
    from verdicts.ruling import rule

    attempt = checked.attempts.get(number=2)
    for region, ruling in ((1, "passes"), (2, "rework")):
        rule(
            Cell.objects.get(attempt=attempt, region__number=region).pk,
            people["vera"],
            ruling,
            None,
            None,
        )
    return attempt


@pytest.fixture
def sent(signed_in, failed, people):
    client = signed_in("vera")
    slip = post(client, f"/api/attempts/{failed.pk}/slips/").json()
    client.patch(
        f"/api/slips/{slip['id']}/", {"worker": people["mona"].pk}, content_type="application/json"
    )
    assert post(client, f"/api/slips/{slip['id']}/send/").json()["state"] == "sent"
    return slip["id"]


@pytest.fixture
def service(tmp_path, settings, monkeypatch):
    from standins.removal import Service, handler_for

    made = Service(tmp_path, 0.0, 200)
    served = ThreadingHTTPServer(("127.0.0.1", 0), handler_for(made, "secret"))
    threading.Thread(target=served.serve_forever, daemon=True).start()
    settings.REMOVAL_URL = f"http://127.0.0.1:{served.server_port}"
    settings.REMOVAL_KEY = "secret"
    # Loopback answers at once or never.
    monkeypatch.setattr("outside.client.TIMEOUT", (2.0, 0.7))
    monkeypatch.setattr("outside.running.PACE", 0.02)
    yield made
    served.shutdown()
    served.server_close()


@pytest.fixture
def known(service, db):
    from outside.account import refresh_account

    refresh_account()
    return service
