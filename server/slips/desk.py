"""The trip to the retoucher's desk and back."""

from __future__ import annotations

import time
from typing import Any

import requests
from django.conf import settings
from django.utils import timezone

from attempts.intake import Facts
from images.crops import NotYet
from work.leases import Later, Lease
from zweiblick_core.errors import Refused

from .answering import fitting, take_back
from .models import Slip
from .packing import package_of
from .sending import take_up
from .talking import answer_for_desk, asked_at_desk

#: How long one lease waits for the desk before it gives the work back, and how often it asks,
#: seconds.
PATIENCE, PACE = 25.0, 0.4


def _desk(method: str, path: str, **more: Any) -> requests.Response:
    try:
        return requests.request(
            method,
            settings.DESK_URL + path,
            headers={"X-Desk-Key": settings.DESK_KEY},
            timeout=(3, 120),
            **more,
        )
    except requests.RequestException as error:
        raise Later("the desk does not answer") from error


def work_at_desk(slip: Slip, lease: Lease) -> None:
    """Bring a slip to the desk and its result back. The desk knows the slip by its key, so bringing
    it twice does no harm.

    Raises:
        Refused: no desk is set up, or it refused the slip.
    """
    if not settings.DESK_URL:
        raise Refused("no retoucher's desk is set up here")
    lease.progress(0.02, "at the desk")
    answer = _brought(slip)
    if slip.state == "sent":
        take_up(slip, None)
    question = _wait(slip, answer, lease)
    if question is not None:
        with lease.writing():
            current = Slip.objects.get(pk=slip.pk)
            if current.state in ("sent", "working") and current.key == slip.key:
                asked_at_desk(slip, question)
        return
    result = _desk("GET", f"/slips/{slip.key}/result")
    if result.status_code != 200:
        raise Later("the desk does not hand the result over")
    _store(slip, result.content, lease)


def _brought(slip: Slip) -> requests.Response:
    """What the desk says of a slip, which is brought there if it does not know it."""
    answer = _desk("GET", f"/slips/{slip.key}")
    if answer.status_code == 404:
        try:
            package = package_of(slip)
        except NotYet as error:
            raise Later("the picture's tiles are being made") from error
        answer = _desk("PUT", f"/slips/{slip.key}", data=package)
    if answer.status_code >= 400:
        raise Refused(f"the desk refused the slip ({answer.status_code})")
    return answer


def _wait(slip: Slip, answer: requests.Response, lease: Lease) -> str | None:
    """Until the desk is done, or has a question that nobody answered yet, which is given; not longer
    than one lease should wait.
    """
    until = time.monotonic() + PATIENCE
    while answer.json()["state"] in ("working", "asking"):
        if answer.json()["state"] == "asking":
            words = answer_for_desk(slip)
            if words is None:
                return str(answer.json()["question"])
            _desk("PUT", f"/slips/{slip.key}/answer", json={"words": words})
        if time.monotonic() > until:
            raise Later("the desk is still working")
        lease.progress(0.05 + 0.9 * answer.json()["progress"], "at the desk")
        time.sleep(PACE)
        answer = _desk("GET", f"/slips/{slip.key}")
        if answer.status_code == 404:
            raise Later("the desk lost the slip")
    if answer.json()["state"] == "failed":
        raise Refused(answer.json()["reason"])
    return None


def _store(slip: Slip, content: bytes, lease: Lease) -> None:
    seconds = (timezone.now() - (slip.sent_at or slip.written_at)).total_seconds()
    name = "retoucher's desk"
    facts = Facts(name, "by hand", name, round(seconds, 1), None, {"slip": slip.round})
    file_name = f"slip-{slip.round}.png"
    answer = fitting(slip, content, file_name)
    with lease.writing():
        current = Slip.objects.get(pk=slip.pk)
        # Another key: it was handed over while the desk worked.
        if current.state in ("sent", "working") and current.key == slip.key:
            take_back(slip, answer, facts, None)
