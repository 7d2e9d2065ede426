"""Session sign-in that answers 401, so that the web can tell "sign in again" from "not yours"."""

from typing import Any

from django.http import JsonResponse
from drf_spectacular.authentication import SessionScheme
from rest_framework.authentication import SessionAuthentication
from rest_framework.request import Request


def locked_out(
    request: Request, original_response: Any = None, credentials: Any = None
) -> JsonResponse:
    """What is said once too many wrong passwords were given for a name."""
    return JsonResponse(
        {"error": "Too many wrong passwords for this name; wait five minutes."}, status=429
    )


class SessionSignIn(SessionAuthentication):
    def authenticate_header(self, request: Request) -> str:
        return "Session"


class SessionSignInScheme(SessionScheme):  # type: ignore[no-untyped-call]
    """How the API's description names it."""

    target_class = "people.authentication.SessionSignIn"
    name = "session"
