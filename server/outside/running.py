"""An order on its way, as work. It may be taken up again after any step: nothing is ordered,
charged or stored twice.
"""

from __future__ import annotations

import time
from datetime import timedelta
from decimal import Decimal

import numpy as np
from django.conf import settings
from django.db import transaction
from django.utils import timezone

from attempts.intake import Facts, add_attempt
from attempts.models import AttemptSource
from history.models import record
from images.decoding import decoded, read_bounded
from trials.removing import as_png, working_copy
from work.clock import now
from work.leases import Later, Lease
from work.models import Work
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import advance

from . import breaker, client
from .asking import base_image, said_of
from .leaving import crop_and_mask, package
from .models import Order, Take

#: How long one lease waits for takes before it gives the work back, and how often it asks, seconds.
PATIENCE, PACE = 25.0, 0.4
#: An order that the service does not finish in so long is put down as failed.
LONGEST = timedelta(hours=2)


def run_order(lease: Lease) -> None:
    """Send it, wait, store its takes.

    Raises:
        Later: the service does not answer now.
        Refused: it does not take the order, or could not do it.
    """
    order = Order.objects.select_related(
        "picture__job", "region_version__region", "base__image__blob", "person"
    ).get(pk=lease.work.subject)
    if order.state not in ("waiting", "running"):
        with lease.writing():
            return
    if not settings.REMOVAL_URL:
        raise Refused("no outside service is set up here")
    if order.made_at < now() - LONGEST:
        raise Refused(f"{settings.REMOVAL_NAME} did not finish it in two hours")
    try:
        breaker.refuse_resting()
        _work(order, lease)
    except breaker.Resting as error:
        raise Later(str(error)) from error
    except client.Unreachable as error:
        breaker.failed()
        raise Later(f"{settings.REMOVAL_NAME}: {error}") from error


def _work(order: Order, lease: Lease) -> None:
    lease.progress(0.02, "reading")
    image = base_image(order.picture, order.base)
    source = decoded(image.blob).pixels
    pixels = working_copy(source)
    x, y, w, h = order.box
    crop, mask = crop_and_mask(image, order.region_version, pixels, (x, y, w, h))
    if not order.remote:
        _send(order, package(crop, mask, order.tier))
    said = _waited(order, lease)
    known = {take.number: take for take in order.takes.all()}
    made = []
    for number, announced in enumerate(said.takes, 1):
        if number in known:
            continue
        lease.progress(0.6 + 0.3 * number / len(said.takes), f"take {number}")
        taken = _read(client.take(order.remote, number, announced), (h, w), number)
        whole = pixels.copy()
        # What the service changed outside the region is its own affair.
        whole[y : y + h, x : x + w][mask] = taken[mask]
        made.append((number, announced, as_png(whole, source, pixels)))
    breaker.worked()
    _store(order, said, made, lease)


def _send(order: Order, packed: bytes) -> None:
    """Have it taken. From here on it has left the house, whatever the answer."""
    with transaction.atomic():
        row = Order.objects.select_for_update().get(pk=order.pk)
        if row.state == "waiting":
            row.state = advance("order", row.state, "sent")
        if row.sent_at is None:
            row.sent_at = timezone.now()
            record(
                order.picture,
                order.person,
                "left the house",
                f"region {order.region_version.region.number}, {order.region_version.region.name}",
                after={**said_of(order), "bytes": len(packed)},
            )
        row.save()
    said = client.order(order.key, packed)
    breaker.worked()
    Order.objects.filter(pk=order.pk).update(remote=said.id, credits=said.charged)
    order.remote = said.id


def _waited(order: Order, lease: Lease) -> client.Ordered:
    """Until it is done; not longer than one lease should wait."""
    until = time.monotonic() + PATIENCE
    while True:
        said = client.state(order.remote)
        if said.state == "failed":
            Order.objects.filter(pk=order.pk).update(credits=said.charged)
            raise Refused(f"{settings.REMOVAL_NAME} could not do it: {said.reason}")
        if said.state == "done":
            return said
        if time.monotonic() > until:
            raise Later(f"{settings.REMOVAL_NAME} is still working")
        lease.progress(0.05 + 0.5 * said.progress, f"at {settings.REMOVAL_NAME}")
        time.sleep(PACE)


def _read(data: bytes, shape: tuple[int, int], number: int) -> np.ndarray:
    """A take's pixels, uint8.

    Raises:
        Refused: it is no picture, or not of the size that was sent.
    """
    try:
        pixels = working_copy(read_bounded(data).pixels)
    except Refused as error:
        raise Refused(f"take {number} cannot be read: {error}") from error
    if pixels.shape[:2] != shape:
        raise Refused(f"take {number} has another size than what was sent")
    return pixels


def _store(
    order: Order, said: client.Ordered, made: list[tuple[int, str, bytes]], lease: Lease
) -> None:
    took = (timezone.now() - (order.sent_at or order.made_at)).total_seconds()
    share = Decimal(said.charged) * settings.REMOVAL_PRICE / max(1, len(said.takes))
    read = [(number, sha, data, read_bounded(data)) for number, sha, data in made]
    with lease.writing():
        row = Order.objects.select_for_update().get(pk=order.pk)
        if row.state == "cancelled":
            return
        stored = {take.sha256 for take in row.takes.all()}
        for number, sha, data, whole in read:
            attempt = None
            if sha not in stored:
                facts = Facts(
                    settings.REMOVAL_NAME,
                    "outside service",
                    settings.REMOVAL_NAME,
                    round(took, 1),
                    share.quantize(Decimal("0.01")),
                    {"tier": row.tier, "take": number, "terms": row.terms},
                )
                attempt = add_attempt(
                    order.picture, f"order-{row.pk}-{number}.png", data, facts, order.person, whole
                )
                if order.base is not None:
                    AttemptSource.objects.create(attempt=attempt, source=order.base)
            stored.add(sha)
            Take.objects.create(order=row, number=number, sha256=sha, attempt=attempt)
        row.state, row.finished_at = advance("order", row.state, "finished"), timezone.now()
        row.credits = said.charged
        row.save()


def order_failed(work: Work) -> None:
    """It could not be done; people see why. What did not leave costs nothing."""
    with transaction.atomic():
        row = (
            Order.objects.select_for_update()
            .select_related("picture__job")
            .filter(pk=work.subject)
            .first()
        )
        if row is None or row.state not in ("waiting", "running"):
            return
        row.state, row.reason = advance("order", row.state, "failed"), work.error
        if not row.remote and refused_outright(row):
            row.credits = 0
        row.save()
        record(
            row.picture,
            None,
            "order failed",
            row.tier,
            after={"reason": work.error, "credits": row.credits},
        )


def refused_outright(order: Order) -> bool:
    """Whether nothing can have been charged: it never left, or the service refused it."""
    return order.sent_at is None or f"{settings.REMOVAL_NAME} refused it" in order.reason
