"""A slip that goes to the outside service: its takes, put together, are attempts; the first of them
answers the slip.
"""

from __future__ import annotations

from decimal import Decimal

import numpy as np
from django.conf import settings
from django.utils import timezone

from attempts.intake import Facts, add_attempt
from attempts.models import Attempt, AttemptSource
from images.decoding import decoded
from outside import breaker
from outside.models import Order, Take
from outside.running import Fetched, fetch, finish, give_up, price_of, reached, send
from trials.removing import as_png, working_copy
from work.leases import Lease
from zweiblick_core.errors import Refused
from zweiblick_core.rules.following import FOLLOWED_BY_OUTLINE

from .answering import Answer, fitting, take_back
from .models import Slip
from .ordering import ordered_areas
from .sending import take_up


def work_by_service(slip: Slip, lease: Lease) -> None:
    """Have a slip's regions removed and store what came of it.

    Raises:
        Later: the service does not answer now. Refused: it could not do it.
    """
    if slip.state == "sent":
        take_up(slip, None)
    source = decoded(slip.attempt.image.blob).pixels
    pixels = working_copy(source)
    parts = [(part.order, area) for part, area in ordered_areas(slip) if part.order is not None]
    with reached():
        for order, area in parts:
            send(order, area, pixels)
        fetched = {order.pk: fetch(order, area, pixels, lease) for order, area in parts}
        breaker.worked()
    lease.progress(0.9, "writing")
    answers = _answers(slip, list(fetched.values()), source, pixels)
    took = max((timezone.now() - order.made_at).total_seconds() for order, _ in parts)
    price = sum((price_of(one.said) for one in fetched.values()), Decimal(0))
    with lease.writing():
        current = Slip.objects.get(pk=slip.pk)
        # Another key: it was handed over in the meantime, and its orders were given up.
        if current.state in ("sent", "working") and current.key == slip.key:
            _store(slip, answers, fetched, took, price)


def _answers(
    slip: Slip, fetched: list[Fetched], source: np.ndarray, pixels: np.ndarray
) -> dict[int, Answer]:
    """By number, the takes of all regions put together; those that are attempts already are left
    out.
    """
    answers: dict[int, Answer] = {}
    reason: Refused | None = None
    seen = set()
    for number in sorted({take.number for one in fetched for take in one.takes}):
        whole = pixels.copy()
        for one in fetched:
            # A region with fewer takes than another keeps its last.
            take = max(
                (take for take in one.takes if take.number <= number),
                key=lambda take: take.number,
                default=None,
            )
            if take is not None:
                take.put_into(whole)
        data = as_png(whole, source, pixels)
        if data in seen:
            continue
        seen.add(data)
        try:
            answers[number] = fitting(slip, data, f"slip-{slip.round}-{number}.png")
        except Refused as error:
            reason = error
    if not answers:
        raise reason or Refused(f"{settings.REMOVAL_NAME} gave no take")
    return answers


def _store(
    slip: Slip, answers: dict[int, Answer], fetched: dict[int, Fetched], took: float, price: Decimal
) -> None:
    made: dict[int, Attempt] = {}
    for number, answer in answers.items():
        facts = Facts(
            settings.REMOVAL_NAME,
            "outside service",
            settings.REMOVAL_NAME,
            round(took, 1),
            price,
            {"slip": slip.round, "tier": slip.tier, "take": number, "terms": _terms(slip)},
        )
        if not made:
            made[number] = take_back(slip, answer, facts, None, _followed(slip))
            continue
        attempt = add_attempt(slip.picture, answer.name, answer.data, facts, None, answer.whole)
        AttemptSource.objects.create(attempt=attempt, source=slip.attempt)
        made[number] = attempt
    for order in Order.objects.select_for_update().filter(pk__in=fetched):
        for take in fetched[order.pk].takes:
            Take.objects.create(
                order=order,
                number=take.number,
                sha256=take.sha256,
                attempt=made.get(take.number),
            )
        finish(order, fetched[order.pk].said)


def _terms(slip: Slip) -> str:
    return str(Order.objects.filter(slip_region__slip=slip).values_list("terms", flat=True)[0])


def _followed(slip: Slip) -> dict[int, list[str]]:
    """The service is given an outline and nothing else."""
    return {
        part.region_id: [
            change["what"] for change in part.changes if change["what"] in FOLLOWED_BY_OUTLINE
        ]
        for part in slip.regions.all()
    }


def orders_failed(slip: Slip, reason: str) -> None:
    """What a slip ordered and did not get is put down as failed; done inside a transaction."""
    rows = Order.objects.select_for_update().filter(slip_region__slip=slip)
    for order in rows.filter(state__in=("waiting", "running")).select_related("picture__job"):
        give_up(order, reason)
