"""Every error the API gives has one shape: {"error": what happened, in one sentence}."""

from __future__ import annotations

import logging
import uuid
from typing import Any

from django.http.request import UnreadablePostError
from rest_framework.response import Response
from rest_framework.views import exception_handler, set_rollback

from config.limits import SlowBody
from images.crops import NotYet
from regions.editing import OutlineStale
from store.busy import is_busy
from store.durable import Damaged
from verdicts.ruling import Stale
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import NotAllowed

log = logging.getLogger(__name__)


def handler(error: Exception, context: dict[str, Any]) -> Response:
    """Whatever is raised in a view becomes one sentence; nothing of the program's own words gets
    out.
    """
    if isinstance(error, Stale):
        return _said(
            412,
            "Somebody else ruled here since you looked. Nothing of yours was stored; look again and rule again.",
        )
    if isinstance(error, OutlineStale):
        return _said(
            412,
            "Somebody else drew this outline since you began. Nothing of yours was stored; it is still here: look at theirs, then keep yours again.",
        )
    if isinstance(error, NotAllowed):
        return _said(409, f"That cannot be done now: {error}.")
    if isinstance(error, Refused):
        return _said(400, str(error))
    if isinstance(error, UnreadablePostError | SlowBody | TimeoutError):
        return _said(408, "The body broke off or came too slowly; nothing was stored.")
    if isinstance(error, NotYet):
        return _later("The tiles of this picture are being made.")
    if is_busy(error):
        return _later("Somebody else is just storing something here; nothing of yours was stored.")
    response = exception_handler(error, context)
    if response is not None:
        response.data = {"error": _words(response.data)}
        return response
    number = uuid.uuid4().hex[:8]
    log.exception("error %s", number, exc_info=error)
    if isinstance(error, Damaged):
        return _said(503, f"A stored file is missing or damaged; the log has it as {number}.")
    return _said(500, f"Something went wrong here; nothing was stored. The log has it as {number}.")


def _said(status: int, words: str) -> Response:
    set_rollback()
    return Response({"error": words}, status)


def _later(words: str) -> Response:
    set_rollback()
    return Response({"error": words}, 503, headers={"Retry-After": "1"})


def _words(data: object) -> str:
    if isinstance(data, dict):
        if "detail" in data:
            return str(data["detail"])
        return "; ".join(f"{name}: {_words(value)}" for name, value in data.items())
    if isinstance(data, list):
        return " ".join(_words(item) for item in data if item)
    return str(data)
