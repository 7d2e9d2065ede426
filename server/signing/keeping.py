"""Deliveries are kept a while; their records stay."""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.db import transaction

from store.places import deliveries
from work.clock import now
from zweiblick_core.rules.states import advance

from .models import Delivery


def stored_name(delivery: Delivery) -> str:
    """Where a delivery's zip lies."""
    return f"{delivery.key[:2]}/{delivery.key}.zip"


def is_kept(delivery: Delivery) -> bool:
    """Whether its zip is there: it may be gone though nobody removed it, as after a restore."""
    return delivery.state == "ready" and deliveries().is_file(stored_name(delivery))


def forget_deliveries() -> None:
    """Remove zips that were finished long ago."""
    limit = now() - timedelta(seconds=settings.DELIVERIES_KEPT)
    for pk in Delivery.objects.filter(state="ready", finished_at__lt=limit).values_list("pk")[:50]:
        with transaction.atomic():
            row = Delivery.objects.select_for_update().get(pk=pk[0])
            if row.state == "ready":
                row.state = advance("delivery", row.state, "forgotten")
                row.save()
                deliveries().remove(stored_name(row))
