"""What is asked of the service over HTTP, and what may come back. Described in docs/outside.md."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Any

import requests
from django.conf import settings

from zweiblick_core.errors import Refused

#: Seconds until a connection stands, and until the next byte comes.
TIMEOUT = (3.0, 15.0)
#: No answer of the service is larger.
MOST_BYTES = 400_000_000


class Unreachable(Exception):
    """It does not answer, or not in a way that can be understood: asking again may help."""


class NotWhatItSaid(Unreachable):
    """A take that is not the one that was announced."""


@dataclass(frozen=True)
class Ordered:
    """An order as the service sees it.

    Attributes:
        state: "working", "done" or "failed".
        charged: credits.
        takes: SHA-256 of each take that is ready, in their order.
    """

    id: str
    state: str
    progress: float
    charged: int
    terms: str
    takes: tuple[str, ...]
    reason: str


def _ask(method: str, path: str, **more: Any) -> requests.Response:
    headers = {"X-Api-Key": settings.REMOVAL_KEY, **more.pop("headers", {})}
    try:
        answer = requests.request(
            method,
            settings.REMOVAL_URL + path,
            headers=headers,
            timeout=more.pop("timeout", TIMEOUT),
            allow_redirects=False,
            **more,
        )
        length = answer.headers.get("Content-Length")
        if length is not None and len(answer.content) != int(length):
            raise Unreachable("the answer broke off")
    except (requests.RequestException, ValueError) as error:
        raise Unreachable("it does not answer") from error
    if answer.status_code >= 500 or len(answer.content) > MOST_BYTES:
        raise Unreachable(f"it answers {answer.status_code}")
    return answer


def _plain(answer: requests.Response) -> dict[str, Any]:
    try:
        plain = answer.json()
    except ValueError as error:
        raise Unreachable("its answer cannot be read") from error
    if not isinstance(plain, dict):
        raise Unreachable("its answer cannot be read")
    if answer.status_code >= 400:
        raise Refused(f"{settings.REMOVAL_NAME} refused it: {str(plain.get('error'))[:200]}")
    return plain


def _ordered(plain: dict[str, Any]) -> Ordered:
    try:
        takes = tuple(str(one) for one in plain["takes"])
        order = Ordered(
            str(plain["id"])[:80],
            plain["state"],
            float(plain["progress"]),
            int(plain["charged"]),
            str(plain["terms"])[:60],
            takes,
            str(plain["reason"])[:200],
        )
    except (KeyError, TypeError, ValueError) as error:
        raise Unreachable("its answer cannot be read") from error
    if order.state not in ("working", "done", "failed") or order.charged < 0 or len(takes) > 9:
        raise Unreachable("its answer cannot be read")
    return order


def account(timeout: tuple[float, float] = TIMEOUT) -> dict[str, Any]:
    """What it offers: {credits, largest, takes, tiers: [{name, credits, terms}]}.

    Raises:
        Unreachable, Refused.
    """
    plain = _plain(_ask("GET", "/v1/account", timeout=timeout))
    try:
        return {
            "credits": int(plain["credits"]),
            "largest": int(plain["largest"]),
            "takes": int(plain["takes"]),
            "tiers": [
                {
                    "name": str(tier["name"])[:40],
                    "credits": int(tier["credits"]),
                    "terms": str(tier["terms"])[:60],
                }
                for tier in plain["tiers"]
            ],
        }
    except (KeyError, TypeError, ValueError) as error:
        raise Unreachable("its answer cannot be read") from error


def order(key: str, package: bytes) -> Ordered:
    """Order, or find what was ordered with this key.

    Raises:
        Unreachable: it may have been taken or not; asking again with the same key tells.
        Refused: it was not taken, and nothing was charged.
    """
    headers = {"Idempotency-Key": key, "Content-Type": "application/zip"}
    return _ordered(_plain(_ask("POST", "/v1/orders", data=package, headers=headers)))


def state(remote: str) -> Ordered:
    """How far an order is.

    Raises:
        Unreachable, Refused.
    """
    return _ordered(_plain(_ask("GET", f"/v1/orders/{remote}")))


def take(remote: str, number: int, announced: str) -> bytes:
    """One take, as it was announced.

    Raises:
        Unreachable: half of it, another one, or none.
    """
    answer = _ask("GET", f"/v1/orders/{remote}/takes/{number}")
    if answer.status_code != 200:
        raise Unreachable(f"it does not give take {number}")
    if hashlib.sha256(answer.content).hexdigest() != announced:
        raise NotWhatItSaid(f"take {number} is not what was announced")
    return answer.content
