"""The few calls that bringing in takes, with a person's own token."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import requests

from zweiblick_core.errors import Refused

#: A part of a file has so many bytes.
PART = 4_000_000
#: A call is tried so often while the server cannot be reached, with longer and longer waits.
TRIES = 8
#: Seconds to connect, and between two bytes.
TIMEOUT = (10.0, 120.0)


class Unreachable(Exception):
    """The server could not be reached for long."""


class Server:
    """A house, as somebody's program sees it.

    Args:
        address: for instance "http://127.0.0.1:8000".
        token: made in the web under one's own name.
    """

    def __init__(self, address: str, token: str):
        self._address = address.rstrip("/")
        self._session = requests.Session()
        self._session.headers["Authorization"] = f"Token {token}"

    def _call(self, method: str, path: str, **more: Any) -> requests.Response:
        for tried in range(TRIES):
            try:
                answer = self._session.request(
                    method, f"{self._address}/api{path}", timeout=TIMEOUT, **more
                )
            except requests.RequestException:
                time.sleep(min(30.0, 0.5 * 2**tried))
                continue
            if answer.status_code < 500 and answer.status_code != 408:
                return answer
            time.sleep(min(30.0, 0.5 * 2**tried))
        raise Unreachable(f"{self._address} cannot be reached")

    def _json(self, method: str, path: str, **more: Any) -> Any:
        answer = self._call(method, path, **more)
        try:
            body = answer.json()
        except ValueError:
            body = None
        if answer.status_code >= 400:
            said = body.get("error") if isinstance(body, dict) else None
            raise Refused(str(said or f"the server answered {answer.status_code}"))
        return body

    def jobs(self) -> list[dict[str, Any]]:
        """The jobs that the person takes part in."""
        return list(self._json("GET", "/jobs/"))

    def intake(self, job: int) -> dict[str, Any]:
        """What waits in a job, and how its names pair."""
        return dict(self._json("GET", f"/jobs/{job}/intake/"))

    def bring_picture(self, job: int, wanted: dict[str, Any]) -> dict[str, Any]:
        """Ask for a picture with its results."""
        return dict(self._json("POST", f"/jobs/{job}/pictures/", json=wanted))

    def bring_result(self, picture: int, wanted: dict[str, Any]) -> dict[str, Any]:
        """Ask for a further result of a picture."""
        return dict(self._json("POST", f"/pictures/{picture}/attempts/", json=wanted))

    def incoming(self, key: int) -> dict[str, Any]:
        """How far what was asked for is."""
        return dict(self._json("GET", f"/incoming/{key}/"))

    def send(self, job: int, file: Path, name: str) -> dict[str, Any]:
        """Send a file in parts, going on where an earlier try broke off.

        Raises:
            Refused: it cannot be used, or is in the job already.
            Unreachable: the server could not be reached for long; what went over is kept there.
        """
        size = file.stat().st_size
        asked = {"name": name, "size": size, "sha256": hash_of(file)}
        under = self._json("POST", f"/jobs/{job}/uploads/", json=asked)
        for _ in range(2 * (size // PART + 2)):
            part = _bytes(file, under["received"])
            answer = self._call(
                "PUT",
                f"/uploads/{under['key']}/{under['received']}/",
                data=part,
                headers={"Content-Type": "application/octet-stream"},
            )
            body = answer.json()
            # 409: the server says where the file has come to.
            if answer.status_code >= 400 and answer.status_code != 409:
                raise Refused(str(body.get("error")))
            under = body
            if under["arrival"]:
                return dict(under["arrival"])
        raise Refused(f"{name}: does not come over")


def hash_of(file: Path) -> str:
    """SHA-256 of a file, hex."""
    digest = hashlib.sha256()
    for part in _parts(file):
        digest.update(part)
    return digest.hexdigest()


def _parts(file: Path) -> Iterator[bytes]:
    with file.open("rb") as opened:
        while part := opened.read(1 << 20):
            yield part


def _bytes(file: Path, offset: int) -> bytes:
    with file.open("rb") as opened:
        opened.seek(offset)
        return opened.read(PART)
