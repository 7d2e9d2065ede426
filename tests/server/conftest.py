"""Tests against a real MariaDB; `bin/test` starts it and sets the environment."""

from __future__ import annotations

import numpy as np
import pytest
from builders import filled, holding, png, with_thing
from django.test import Client
from house import MASKS, PASSWORD, TRUTH, do_all_work


@pytest.fixture(autouse=True)
def _no_broker(settings, monkeypatch, request):
    """Work is done in the test itself, unless the test starts a worker of its own; passwords are hashed quickly."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    if "own_worker" not in request.keywords:
        monkeypatch.setattr("work.leases.dispatch", lambda pk: None)


@pytest.fixture
def job(db):
    from jobs.models import DeliverySize, Job

    job = Job.objects.create(name="Harbour Year")
    DeliverySize.objects.create(job=job, name="wall", spec="594x420mm@150dpi@700mm", position=0)
    DeliverySize.objects.create(job=job, name="phone", spec="1080px@430dpi@350mm", position=1)
    return job


@pytest.fixture
def people(job):
    from jobs.models import Job, Membership
    from people.models import Person

    found = {}
    for name, role in (("vera", "supervisor"), ("ines", "supervisor"), ("mona", "retoucher"), ("archive", "guest"), ("stranger", None)):
        found[name] = Person.objects.create_user(name, password=PASSWORD, name=name.title())
        if role:
            Membership.objects.create(job=job, person=found[name], role=role)
    Membership.objects.create(job=Job.objects.create(name="Another job"), person=found["stranger"], role="supervisor")
    return found


@pytest.fixture
def picture(job, people):
    """Two regions, three attempts: one copies and is too bright, one holds in the first region only, one holds."""
    from attempts.intake import Facts, add_attempt, add_picture

    both = np.any(MASKS, axis=0)
    original = with_thing(TRUTH, both)
    picture = add_picture(job, "Slipway", "slipway.png", png(original), [("buoy", MASKS[0]), ("hose reel", MASKS[1])], people["vera"])
    bad = filled(TRUTH, both, TRUTH.astype(float) + 26)
    half = filled(holding(TRUTH, MASKS[0]), MASKS[1], TRUTH.astype(float) + 26)
    for number, pixels in enumerate((bad, half, holding(TRUTH, both)), 1):
        add_attempt(picture, f"slipway-{number}.png", png(pixels), Facts(f"method {number}", "built in", "us", 2.0), people["vera"])
    return picture


@pytest.fixture
def checked(picture):
    """The picture with all of its work done."""
    do_all_work()
    return picture


@pytest.fixture
def signed_in(people):
    def make(name: str) -> Client:
        client = Client()
        assert client.login(username=name, password=PASSWORD)
        return client

    return make
