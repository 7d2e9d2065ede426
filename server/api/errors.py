"""Every error the API gives has one shape: {"error": what happened, in one sentence}."""

from __future__ import annotations

from rest_framework.response import Response
from rest_framework.views import exception_handler

from verdicts.ruling import Stale
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import NotAllowed


def handler(error: Exception, context: dict) -> Response | None:
    if isinstance(error, Stale):
        return Response(
            {
                "error": "Somebody else ruled here since you looked. Nothing of yours was stored; look again and rule again."
            },
            412,
        )
    if isinstance(error, NotAllowed):
        return Response({"error": f"That cannot be done now: {error}."}, 409)
    if isinstance(error, Refused):
        return Response({"error": str(error)}, 400)
    response = exception_handler(error, context)
    if response is not None:
        response.data = {"error": _words(response.data)}
    return response


def _words(data: object) -> str:
    if isinstance(data, dict):
        if "detail" in data:
            return str(data["detail"])
        return "; ".join(f"{name}: {_words(value)}" for name, value in data.items())
    if isinstance(data, list):
        return " ".join(_words(item) for item in data)
    return str(data)
