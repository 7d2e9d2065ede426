"""Sessions end by themselves, and are then forgotten."""

from __future__ import annotations

from importlib import import_module

from django.conf import settings


def forget_ended() -> None:
    """Remove sessions that ran out."""
    import_module(settings.SESSION_ENGINE).SessionStore.clear_expired()
