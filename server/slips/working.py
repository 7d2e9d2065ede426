"""Slips that nobody here works by hand, as work: at the retoucher's desk, by a built-in
method, or by the outside service.
"""

from __future__ import annotations

from django.db import transaction

from history.models import record
from work.leases import Lease
from work.models import Work
from zweiblick_core.rules.states import advance

from .by_method import work_by_method
from .by_service import orders_failed, work_by_service
from .desk import work_at_desk
from .models import Slip


def run_slip(lease: Lease) -> None:
    """Have a slip worked and its answer stored."""
    slip = Slip.objects.select_related(
        "picture__job", "attempt__image__blob", "attempt__image__picture"
    ).get(pk=lease.work.subject)
    if slip.state not in ("sent", "working") or slip.worker_id is not None:
        # Answered, withdrawn or handed over in the meantime.
        with lease.writing():
            return
    if slip.tier:
        work_by_service(slip, lease)
    elif slip.method:
        work_by_method(slip, lease)
    else:
        work_at_desk(slip, lease)


def slip_failed(work: Work) -> None:
    """It could not be done; the slip says why and can be sent again."""
    with transaction.atomic():
        row = (
            Slip.objects.select_for_update()
            .select_related("picture__job")
            .filter(pk=work.subject)
            .first()
        )
        if row is None or row.state not in ("sent", "working") or row.worker_id is not None:
            return
        row.state, row.reason = advance("slip", row.state, "failed"), work.error
        row.save()
        orders_failed(row, work.error)
        record(row.picture, None, "slip failed", f"slip {row.round}", after={"reason": work.error})
