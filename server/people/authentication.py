"""Session sign-in that answers 401, so that the web can tell "sign in again" from "not yours"."""

from django.http import JsonResponse
from drf_spectacular.authentication import SessionScheme
from rest_framework.authentication import SessionAuthentication


def locked_out(request, original_response=None, credentials=None) -> JsonResponse:
    """What is said once too many wrong passwords were given for a name."""
    return JsonResponse(
        {"error": "Too many wrong passwords for this name; wait five minutes."}, status=429
    )


class SessionSignIn(SessionAuthentication):
    def authenticate_header(self, request):
        return "Session"


class SessionSignInScheme(SessionScheme):
    """How the API's description names it."""

    target_class = "people.authentication.SessionSignIn"
    name = "session"
