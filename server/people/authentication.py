"""Session sign-in that answers 401, so that the web can tell "sign in again" from "not yours"."""

from rest_framework.authentication import SessionAuthentication


class SessionSignIn(SessionAuthentication):
    def authenticate_header(self, request):  # noqa: ANN001, ANN201
        return "Session"
