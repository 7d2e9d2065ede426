"""A slip on its way: sent, taken up, withdrawn."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from history.models import record
from people.models import Person
from work.keys import new_key
from work.leases import ask
from zweiblick_core.rules.states import advance

from .models import Slip
from .ordering import give_up_orders, place_orders
from .packages import ask_package


def held(slip: Slip) -> Slip:
    """A slip's row, held until the transaction ends."""
    return (
        Slip.objects.select_for_update().select_related("picture__job", "attempt").get(pk=slip.pk)
    )


@transaction.atomic
def send_slip(slip: Slip, person: Person, leaves: dict[int, list[int]] | None = None) -> Slip:
    """Send it off: to the retoucher's list, to the desk, to a method or to the outside service.

    Args:
        leaves: for the service, by region: the box that the person saw would leave.

    Raises:
        Refused: the outside service may not have it.
    """
    row = held(slip)
    if row.state == "failed":
        row.key = new_key()  # the desk would answer the old one with what it said before
    if row.tier:
        place_orders(row, person, leaves or {})
    row.state, row.reason, row.sent_at = advance("slip", row.state, "sent"), "", timezone.now()
    row.save()
    record(
        row.picture,
        person,
        "slip sent",
        f"slip {row.round}",
        after={"to": row.recipient},
    )
    if row.worker is None:
        ask("slip", str(row.pk), row.picture)
    else:
        ask_package(row)
    return row


@transaction.atomic
def withdraw_slip(slip: Slip, person: Person) -> Slip:
    row = held(slip)
    before = row.state
    row.state = advance("slip", row.state, "withdrawn")
    row.save()
    give_up_orders(row, person)
    record(
        row.picture, person, "slip withdrawn", f"slip {row.round}", before=before, after="withdrawn"
    )
    return row


@transaction.atomic
def take_up(slip: Slip, person: Person | None) -> Slip:
    row = held(slip)
    if row.state != "working":
        row.state = advance("slip", row.state, "taken up")
        row.save()
        record(row.picture, person, "slip taken up", f"slip {row.round}")
    return row
