"""What a request may cost before anybody knows who sends it: how large its body is, how slowly it
may come.
"""

from __future__ import annotations

import json
import re
import time
from collections.abc import Callable, Iterable, Iterator
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from wsgiref.types import StartResponse, WSGIApplication, WSGIEnvironment

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse

#: The views that take files.
UPLOADS = re.compile(r"/api/(?:jobs/\d{1,18}/arrivals|slips(?:/\d{1,18})?/result)/")
#: The view that takes a part of a file.
PARTS = re.compile(r"/api/uploads/[0-9a-f]{32}/\d{1,12}/")
#: The most bytes of a part.
PART = 8_000_000
#: A form's own lines around a file; the most that a form without one has.
_AROUND, _FORM = 100_000, 2_000


class BodyLimits:
    """Refuses bodies that are too large, or of a kind that is not read, before any of them is."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        refused = self._refused(request)
        if refused is not None:
            # What was not read would be taken for the next request.
            refused.headers["Connection"] = "close"
            return refused
        return self.get_response(request)

    def _refused(self, request: HttpRequest) -> JsonResponse | None:
        given = request.META.get("CONTENT_LENGTH") or "0"
        if "chunked" in request.META.get("HTTP_TRANSFER_ENCODING", "").lower():
            return _said(411, "The length of the body must be given.")
        if not re.fullmatch(r"[0-9]{1,18}", given):
            return _said(400, "The length of the body is no number.")
        size, files = int(given), bool(UPLOADS.fullmatch(request.path_info))
        part = bool(PARTS.fullmatch(request.path_info))
        if size > _FORM and request.content_type == "multipart/form-data" and not files:
            return _said(415, "No file is taken here.")
        known = request.COOKIES.get(settings.SESSION_COOKIE_NAME) or request.headers.get(
            "Authorization"
        )
        if (files or part) and size and not known:
            return _said(401, "Sign in first.")
        most = settings.MOST_BYTES + _AROUND if files else settings.DATA_UPLOAD_MAX_MEMORY_SIZE
        most = PART if part else most
        if size > most:
            return _said(413, f"That is larger than {most // 1_000_000} MB.")
        return None


class ApiHeaders:
    """Nothing that the API says is kept by anybody, unless a view says so itself."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if request.path_info.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response


class SlowBody(OSError):
    """A body came too slowly."""


class PacedBody:
    """A request's body that must come at a pace: whoever sends a byte a second holds a worker's
    thread for hours otherwise.
    """

    def __init__(self, body: Any, pace: float, patience: float) -> None:
        self._body, self._pace, self._patience = body, pace, patience
        self._began, self._had = time.monotonic(), 0

    def _count(self, data: bytes) -> bytes:
        self._had += len(data)
        spent = time.monotonic() - self._began
        if spent > self._patience and self._had < self._pace * spent:
            raise SlowBody("the body came too slowly")
        return data

    def read(self, size: int = -1) -> bytes:
        """As a file's, in parts, so that the pace is seen."""
        if size < 0:
            return self._count(self._body.read())
        parts, left = [], size
        while left > 0:
            data = self._count(self._body.read(min(left, 65_536)))
            if not data:
                break
            parts.append(data)
            left -= len(data)
        return b"".join(parts)

    def readline(self, size: int = -1) -> bytes:
        """As a file's."""
        return self._count(self._body.readline(size))

    def __iter__(self) -> Iterator[bytes]:
        return iter(self.readline, b"")


def paced(application: WSGIApplication) -> WSGIApplication:
    """A WSGI application whose bodies must come at a pace."""

    def run(environ: WSGIEnvironment, start_response: StartResponse) -> Iterable[bytes]:
        connection = environ.get("gunicorn.socket")
        if connection is not None and environ.get("CONTENT_LENGTH") not in (None, "", "0"):
            # A sender that falls silent altogether.
            connection.settimeout(settings.BODY_PATIENCE)
            environ["wsgi.input"] = PacedBody(
                environ["wsgi.input"], settings.BODY_PACE, settings.BODY_PATIENCE
            )
        try:
            return application(environ, start_response)
        except (SlowBody, TimeoutError):
            body = json.dumps({"error": "The body came too slowly."}).encode()
            start_response(
                "408 Request Timeout",
                [
                    ("Content-Type", "application/json"),
                    ("Content-Length", str(len(body))),
                    ("Connection", "close"),
                ],
            )
            return [body]

    return run


def _said(status: int, words: str) -> JsonResponse:
    return JsonResponse({"error": words}, status=status)
