"""Strangers out: wrong passwords are counted whatever a sender says of itself, bodies are weighed
before they are read, nothing that the API says is kept by anybody.
"""

from __future__ import annotations

import io
import time

import pytest
from django.core.cache import cache
from django.test import Client
from house import PASSWORD

pytestmark = pytest.mark.django_db


def sign_in(client, name, password, **headers):
    return client.post(
        "/api/session/",
        {"username": name, "password": password},
        content_type="application/json",
        **headers,
    )


@pytest.fixture(autouse=True)
def _counters():
    cache.clear()


def test_too_many_wrong_passwords_for_a_name_make_it_wait_whatever_address_is_forged(
    people, settings
):
    settings.AXES_FAILURE_LIMIT = 4
    answers = [
        sign_in(
            Client(), "vera", f"wrong {number}", HTTP_X_FORWARDED_FOR=f"10.0.0.{number}"
        ).status_code
        for number in range(5)
    ]
    assert answers == [401, 401, 401, 429, 429]
    # The right one has to wait too, from any process: it is counted in the database.
    late = sign_in(Client(), "vera", PASSWORD)
    assert late.status_code == 429 and "wait" in late.json()["error"]
    assert sign_in(Client(), "ines", PASSWORD).status_code == 200


def test_a_forged_forwarded_address_gives_nobody_a_rate_of_their_own(people, monkeypatch):
    from rest_framework.throttling import ScopedRateThrottle

    monkeypatch.setattr(ScopedRateThrottle, "THROTTLE_RATES", {"sign-in": "3/min"})
    answers = [
        sign_in(
            Client(), f"nobody{number}", "wrong", HTTP_X_FORWARDED_FOR=f"10.0.0.{number}"
        ).status_code
        for number in range(5)
    ]
    assert answers == [401, 401, 401, 429, 429]


def test_behind_trusted_proxies_the_address_is_the_one_that_they_saw(rf, settings):
    from config.proxies import client_address

    request = rf.get("/", HTTP_X_FORWARDED_FOR="1.1.1.1, 2.2.2.2", REMOTE_ADDR="3.3.3.3")
    assert client_address(request) == "3.3.3.3"
    settings.PROXIES = 1
    assert client_address(request) == "2.2.2.2"


def test_a_large_form_of_a_stranger_is_refused_before_it_is_read(job):
    class Unread(io.BytesIO):
        def read(self, *_):
            raise AssertionError("the body was read")

        readline = read

    answer = Client().generic(
        "POST",
        f"/api/jobs/{job.pk}/arrivals/",
        b"",
        CONTENT_TYPE="multipart/form-data; boundary=x",
        CONTENT_LENGTH="200000000",
        **{"wsgi.input": Unread()},
    )
    assert answer.status_code == 401 and answer.headers["Connection"] == "close"


@pytest.mark.parametrize(
    "kind, size, status",
    [
        ("multipart/form-data; boundary=x", 200_000_000, 415),
        ("application/json", 3_000_000, 413),
    ],
)
def test_no_view_but_the_two_for_files_takes_a_large_body(signed_in, kind, size, status):
    answer = signed_in("vera").generic(
        "POST", "/api/session/", b"", CONTENT_TYPE=kind, CONTENT_LENGTH=str(size)
    )
    assert answer.status_code == status


def test_a_file_larger_than_the_limit_is_refused_by_its_length(signed_in, job, settings):
    settings.MOST_BYTES = 1_000_000
    answer = signed_in("vera").generic(
        "POST",
        f"/api/jobs/{job.pk}/arrivals/",
        b"",
        CONTENT_TYPE="multipart/form-data; boundary=x",
        CONTENT_LENGTH="2000000",
    )
    assert answer.status_code == 413


def test_a_body_that_comes_a_byte_at_a_time_is_cut_off():
    from config.limits import PacedBody, SlowBody

    class Slow:
        def read(self, size):
            time.sleep(0.01)
            return b"x"

    body = PacedBody(Slow(), pace=1000.0, patience=0.05)
    with pytest.raises(SlowBody):
        body.read(10_000_000)


def test_what_the_api_says_is_kept_by_nobody_and_pages_run_nothing_inline(signed_in, checked):
    client = signed_in("vera")
    assert client.get("/api/desk/").headers["Cache-Control"] == "no-store"
    policy = client.get("/api/desk/").headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy and "unsafe" not in policy


def test_a_page_carries_its_own_nonce(settings, tmp_path):
    (tmp_path / "index.html").write_text('<script nonce="__NONCE__"></script>')
    settings.WEB_DIST = tmp_path
    first, second = Client().get("/"), Client().get("/")
    nonce = first.content.decode().split('"')[1]
    assert nonce in first.headers["Content-Security-Policy"] and "__NONCE__" not in nonce
    assert nonce not in second.content.decode()


def test_the_description_of_the_api_is_behind_the_sign_in(signed_in):
    assert Client().get("/api/schema/").status_code == 401
    assert signed_in("mona").get("/api/schema/").status_code == 200


def test_a_password_is_changed_by_the_old_one_and_must_be_a_good_one(people):
    client, other = Client(), Client()
    for one in (client, other):
        assert sign_in(one, "vera", PASSWORD).status_code == 200
    change = lambda old, new: client.post(
        "/api/session/password/", {"old": old, "new": new}, content_type="application/json"
    )
    assert change("wrong", "another long one").status_code == 400
    for bad in ("short", "1234567890123", "password123"):
        assert change(PASSWORD, bad).status_code == 400, bad
    assert change(PASSWORD, "another long one").status_code == 204
    # This session goes on, others end.
    assert client.get("/api/desk/").status_code == 200
    assert other.get("/api/desk/").status_code == 401
    assert sign_in(Client(), "vera", "another long one").status_code == 200


def test_whoever_is_deactivated_is_signed_out_everywhere(people):
    client = Client()
    assert sign_in(client, "vera", PASSWORD).status_code == 200
    people["vera"].is_active = False
    people["vera"].save()
    assert client.get("/api/desk/").status_code == 401
    assert sign_in(Client(), "vera", PASSWORD).status_code == 401


def test_an_error_that_nobody_foresaw_says_nothing_of_the_program(signed_in, monkeypatch):
    def broken(*_):
        raise RuntimeError("secret words of the program")

    monkeypatch.setattr("api.desk_views.states_of", broken)
    client = signed_in("vera")
    client.raise_request_exception = False
    answer = client.get("/api/desk/")
    assert answer.status_code == 500 and "secret" not in answer.content.decode()
    assert "The log has it as" in answer.json()["error"]


def test_secure_cookies_and_hsts_follow_once_tls_is_said(settings):
    import os
    import subprocess
    import sys

    told = subprocess.run(
        [
            sys.executable,
            "-c",
            "from config import settings as s; print(s.SESSION_COOKIE_SECURE, s.CSRF_COOKIE_SECURE, s.SECURE_HSTS_SECONDS > 0)",
        ],
        cwd=settings.REPO / "server",
        env={**os.environ, "ZWEIBLICK_TLS": "1"},
        capture_output=True,
        text=True,
        check=True,
    )
    assert told.stdout.split() == ["True", "True", "True"]
