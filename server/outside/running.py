"""An order on its way, as work. It may be taken up again after any step: nothing is ordered,
charged or stored twice.
"""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
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
from zweiblick_core.regions import Region as Area
from zweiblick_core.rules.states import advance

from . import breaker, client
from .asking import base_image, said_of
from .leaving import area_of, crop_and_mask, package
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
    with reached():
        lease.progress(0.02, "reading")
        image = base_image(order.picture, order.base)
        source = decoded(image.blob).pixels
        pixels = working_copy(source)
        area = area_of(image, order.region_version)
        send(order, area, pixels)
        fetched = fetch(order, area, pixels, lease)
        breaker.worked()
        made = []
        for take in fetched.takes:
            whole = pixels.copy()
            take.put_into(whole)
            made.append((take.number, take.sha256, as_png(whole, source, pixels)))
    _store(order, fetched.said, made, lease)


@contextmanager
def reached() -> Iterator[None]:
    """Around what is asked of the service.

    Raises:
        Later: it does not answer now, or is left alone for a while.
        Refused: there is none.
    """
    if not settings.REMOVAL_URL:
        raise Refused("no outside service is set up here")
    try:
        breaker.refuse_resting()
        yield
    except breaker.Resting as error:
        raise Later(str(error)) from error
    except client.Unreachable as error:
        breaker.failed()
        raise Later(f"{settings.REMOVAL_NAME}: {error}") from error


@dataclass(frozen=True)
class Fetched:
    """What the service made of an order: what it said, and its takes that are not stored yet."""

    said: client.Ordered
    takes: list[Filled]


@dataclass(frozen=True)
class Filled:
    """One take. `pixels`: uint8 of `box` (x, y, width, height); `mask`: bool, the area in it."""

    number: int
    sha256: str
    pixels: np.ndarray
    mask: np.ndarray
    box: tuple[int, int, int, int]

    def put_into(self, whole: np.ndarray) -> None:
        """Fill the area of a picture; what the service changed outside it is its own affair."""
        x, y, w, h = self.box
        whole[y : y + h, x : x + w][self.mask] = self.pixels[self.mask]


def send(order: Order, area: Area, pixels: np.ndarray) -> None:
    """Have an order taken, unless it was.

    Args:
        area: in the frame of `pixels`, uint8, which it is made from.
    """
    if order.made_at < now() - LONGEST:
        raise Refused(f"{settings.REMOVAL_NAME} did not finish it in two hours")
    if not order.remote:
        x, y, w, h = order.box
        crop, mask = crop_and_mask(area, pixels, (x, y, w, h))
        _send(order, package(crop, mask, order.tier))


def fetch(order: Order, area: Area, pixels: np.ndarray, lease: Lease) -> Fetched:
    """Wait for an order that was sent, and fetch its takes."""
    x, y, w, h = order.box
    _, mask = crop_and_mask(area, pixels, (x, y, w, h))
    said = _waited(order, lease)
    known = {take.number for take in order.takes.all()}
    takes = []
    for number, announced in enumerate(said.takes, 1):
        if number in known:
            continue
        lease.progress(0.6 + 0.3 * number / len(said.takes), f"take {number}")
        taken = _read(client.take(order.remote, number, announced), (h, w), number)
        takes.append(Filled(number, announced, taken, mask, (x, y, w, h)))
    return Fetched(said, takes)


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
    share = price_of(said)
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
                    share,
                    {"tier": row.tier, "take": number, "terms": row.terms},
                )
                attempt = add_attempt(
                    order.picture, f"order-{row.pk}-{number}.png", data, facts, order.person, whole
                )
                if order.base is not None:
                    AttemptSource.objects.create(attempt=attempt, source=order.base)
            stored.add(sha)
            Take.objects.create(order=row, number=number, sha256=sha, attempt=attempt)
        finish(row, said)


def price_of(said: client.Ordered) -> Decimal:
    """What one take of an order costs."""
    price = Decimal(said.charged) * settings.REMOVAL_PRICE / max(1, len(said.takes))
    return price.quantize(Decimal("0.01"))


def finish(order: Order, said: client.Ordered) -> None:
    """Put an order down as done; its row is held."""
    order.state, order.finished_at = advance("order", order.state, "finished"), timezone.now()
    order.credits = said.charged
    order.save()


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
        give_up(row, work.error)


def give_up(order: Order, reason: str) -> None:
    """Put an order down as failed; its row is held."""
    order.state, order.reason = advance("order", order.state, "failed"), reason
    if not order.remote and refused_outright(order):
        order.credits = 0
    order.save()
    record(
        order.picture,
        None,
        "order failed",
        order.tier,
        after={"reason": reason, "credits": order.credits},
    )


def refused_outright(order: Order) -> bool:
    """Whether nothing can have been charged: it never left, or the service refused it."""
    return order.sent_at is None or f"{settings.REMOVAL_NAME} refused it" in order.reason
