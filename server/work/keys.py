"""Keys that name something outside, so that it is done once however often it is asked for."""

from __future__ import annotations

import uuid


def new_key() -> str:
    """32 hexadecimal digits that nobody else has."""
    return uuid.uuid4().hex
