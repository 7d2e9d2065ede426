"""Session sign-in that answers 401, so that the web can tell "sign in again" from "not yours"."""

from drf_spectacular.authentication import SessionScheme
from rest_framework.authentication import SessionAuthentication


class SessionSignIn(SessionAuthentication):
    def authenticate_header(self, request):
        return "Session"


class SessionSignInScheme(SessionScheme):
    """How the API's description names it."""

    target_class = "people.authentication.SessionSignIn"
    name = "session"
