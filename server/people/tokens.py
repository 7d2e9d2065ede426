"""Tokens: a program of a person's own signs in with one; it is shown once, and can be revoked."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta
from typing import Any

from django.utils import timezone
from drf_spectacular.authentication import TokenScheme
from rest_framework.authentication import TokenAuthentication
from rest_framework.exceptions import AuthenticationFailed

from .models import Person, Token

#: So many a person has at most.
MOST = 20
#: When one was used last is kept to so much.
_TO = timedelta(minutes=5)


class TooMany(Exception):
    """A person has as many tokens as one may have."""


def hashed(secret: str) -> str:
    """What is kept of a token."""
    return hashlib.sha256(secret.encode()).hexdigest()


def make_token(person: Person, name: str) -> tuple[Token, str]:
    """A token and its secret, which is shown once.

    Raises:
        TooMany: revoke one first.
    """
    if person.tokens.count() >= MOST:
        raise TooMany
    secret = secrets.token_urlsafe(32)
    return Token.objects.create(person=person, name=name.strip(), token_hash=hashed(secret)), secret


class PersonalToken(TokenAuthentication):
    """`Authorization: Token …`, at views that name it."""

    def authenticate_credentials(self, key: str) -> tuple[Person, Token]:
        row = Token.objects.filter(token_hash=hashed(key)).select_related("person").first()
        if row is None or not row.person.is_active:
            raise AuthenticationFailed("This token is unknown or was revoked.")
        if row.used_at is None or timezone.now() - row.used_at > _TO:
            Token.objects.filter(pk=row.pk).update(used_at=timezone.now())
        return row.person, row


class PersonalTokenScheme(TokenScheme):  # type: ignore[no-untyped-call]
    """How the API's description names it."""

    target_class = "people.tokens.PersonalToken"
    name = "token"

    def get_security_definition(self, auto_schema: Any) -> dict[str, Any]:
        return {"type": "apiKey", "in": "header", "name": "Authorization"}
