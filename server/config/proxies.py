"""Who a request comes from, behind as many proxies as are trusted and no more."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest


def client_address(request: HttpRequest) -> str:
    """The address that the outermost trusted proxy saw; without proxies, the connection's own. What
    a client writes into `X-Forwarded-For` itself is never believed.
    """
    seen: list[str] = [
        one.strip() for one in request.META.get("HTTP_X_FORWARDED_FOR", "").split(",")
    ]
    trusted: int = settings.PROXIES
    if trusted and len(seen) >= trusted and seen[-trusted]:
        return seen[-trusted]
    return str(request.META.get("REMOTE_ADDR", ""))
