"""Sessions: whose one is, and forgetting those that ended."""

from __future__ import annotations

from importlib import import_module

from django.conf import settings
from rest_framework.request import Request

from people.models import Person


def forget_ended() -> None:
    """Remove sessions that ran out."""
    import_module(settings.SESSION_ENGINE).SessionStore.clear_expired()


def person_of(request: Request) -> Person:
    """Who is signed in; only for views that let nobody else in."""
    assert isinstance(request.user, Person)
    return request.user
