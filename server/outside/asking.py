"""Ordering outside: rights, budget and what leaves are settled before anything does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import Sum
from django.utils import timezone

from attempts.models import Attempt
from history.models import record, record_job
from images.models import Image
from jobs.models import Job, Picture
from people.models import Person
from regions.models import Region, RegionVersion
from work.keys import new_key
from work.leases import ask
from zweiblick_core.errors import Refused
from zweiblick_core.regions import Region as Area
from zweiblick_core.rules.rights import refuse_terms
from zweiblick_core.rules.states import advance

from .leaving import area_of, box_of
from .models import Budget, Order, Service


@dataclass(frozen=True)
class Tier:
    """What the service offers: credits an order costs, and the terms under which its takes are
    had.
    """

    name: str
    credits: int
    terms: str


def tiers() -> list[Tier]:
    """As the service said last; empty while it said nothing."""
    row = Service.objects.filter(name=settings.REMOVAL_NAME).first()
    return [Tier(**tier) for tier in row.account["tiers"]] if row and row.account else []


def refused_for(tier: Tier, job: Job) -> str | None:
    """Why a job's rights don't allow a tier; terms that nobody knows are not allowed."""
    try:
        return refuse_terms(tier.terms, job.use)
    except KeyError:
        return f"its terms, “{tier.terms}”, are not known here"


def budget_of(job: Job) -> tuple[int, int]:
    """A job's credits, and how many of them are spent or held by orders that are out."""
    row = Budget.objects.filter(job=job).first()
    spent = Order.objects.filter(picture__job=job).aggregate(sum=Sum("credits"))["sum"]
    return (row.credits if row else settings.REMOVAL_CREDITS), spent or 0


@transaction.atomic
def set_budget(job: Job, credits: int, person: Person) -> None:
    """Change how many credits a job may spend."""
    before, _ = budget_of(job)
    Budget.objects.update_or_create(job=job, defaults={"credits": credits})
    record_job(job, person, "outside budget changed", "", before=before, after=credits)


def base_image(picture: Picture, base: Attempt | None) -> Image:
    """What an order is made from."""
    image: Image = base.image if base else picture.original
    image.picture = picture
    return image


@transaction.atomic
def ask_order(
    picture: Picture,
    region: Region,
    base: Attempt | None,
    tier: str,
    box: list[int],
    person: Person,
) -> Order:
    """Order one region's removal.

    Args:
        box: what the person saw would leave; something else does not leave.

    Raises:
        Refused: the job's rights or its budget don't allow it, there is no such tier, or what
            leaves is not what was seen.
    """
    # The job is held, so that two orders never spend the same credits.
    job = Job.objects.select_for_update().get(pk=picture.job_id)
    row = Picture.objects.select_for_update().select_related("job").get(pk=picture.pk)
    if region.picture_id != row.pk or region.withdrawn_at is not None:
        raise Refused("This picture has no such region.")
    if base is not None and base.picture_id != row.pk:
        raise Refused("That attempt is another picture's.")
    area = area_of(base_image(row, base), region.drawn)
    order = order_row(job, Wanted(row, region.drawn, area, base, tier, box), person)
    ask("order", str(order.pk), row)
    return order


@dataclass(frozen=True)
class Wanted:
    """What is to be removed. `area`: where, in the frame of what it is made from; `box`: what the
    person saw would leave.
    """

    picture: Picture
    version: RegionVersion
    area: Area
    base: Attempt | None
    tier: str
    box: Sequence[int]


def order_row(job: Job, wanted: Wanted, person: Person) -> Order:
    """An order that waits to be sent; whoever asks for it sees to that. The job's row is held.

    Raises:
        Refused: as for `ask_order`.
    """
    tier = _allowed(job, wanted.tier)
    leaves = list(box_of(base_image(wanted.picture, wanted.base), wanted.area))
    if leaves != list(wanted.box):
        raise Refused("What would leave is not what was shown: the outline changed. Look again.")
    order = Order.objects.create(
        picture=wanted.picture,
        region_version=wanted.version,
        base=wanted.base,
        tier=tier.name,
        terms=tier.terms,
        box=leaves,
        credits=tier.credits,
        person=person,
    )
    record(
        wanted.picture,
        person,
        "ordered outside",
        f"region {wanted.version.region.number}, {wanted.version.region.name}",
        after=said_of(order),
    )
    return order


def _allowed(job: Job, name: str) -> Tier:
    tier = next((one for one in tiers() if one.name == name), None)
    if tier is None:
        raise Refused(f"{settings.REMOVAL_NAME} has not said that it offers “{name}”")
    reason = refused_for(tier, job)
    if reason:
        raise Refused(f"“{name}” cannot be used here: {reason}")
    _refuse_beyond(job, tier.credits)
    return tier


def _refuse_beyond(job: Job, more: int) -> None:
    credits, spent = budget_of(job)
    if spent + more > credits:
        raise Refused(
            f"this costs {more} credits, and {max(0, credits - spent)} of the job's {credits} are left"
        )


def said_of(order: Order) -> dict[str, Any]:
    """What history says of an order."""
    return {
        "to": settings.REMOVAL_NAME,
        "from": f"attempt {order.base.number}" if order.base else "the original",
        "crop": order.box,
        "metadata": "stripped",
        "terms": order.terms,
        "credits": order.credits,
    }


@transaction.atomic
def ask_again(order: Order, person: Person) -> Order:
    """Go on with an order that failed: with its own key, so that nothing is charged twice. Where
    nothing was charged it is ordered anew.

    Raises:
        NotAllowed: it did not fail. Refused: the job's budget or rights don't allow it any more.
    """
    row = revive(order, person)
    ask("order", str(row.pk), row.picture)
    return row


def revive(order: Order, person: Person) -> Order:
    """As `ask_again`; whoever asks for it sees to that it is sent."""
    job = Job.objects.select_for_update().get(pk=order.picture.job_id)
    row = Order.objects.select_for_update().select_related("picture__job").get(pk=order.pk)
    row.state, row.reason = advance("order", row.state, "asked again"), ""
    if row.credits == 0:
        tier = _allowed(job, row.tier)
        row.credits, row.key, row.remote, row.sent_at = tier.credits, new_key(), "", None
    elif row.remote:
        row.state = advance("order", row.state, "sent")  # it was taken: its takes are fetched
    row.made_at = timezone.now()
    row.save()
    record(row.picture, person, "order asked again", row.tier)
    return row


@transaction.atomic
def cancel(order: Order, person: Person) -> Order:
    """Give an order up. What did not leave costs nothing; what left stays charged.

    Raises:
        NotAllowed: it is done or was given up.
    """
    row = Order.objects.select_for_update().select_related("picture__job").get(pk=order.pk)
    row.state = advance("order", row.state, "cancelled")
    if row.sent_at is None:
        row.credits = 0
    row.save()
    record(row.picture, person, "order given up", row.tier, after={"credits": row.credits})
    return row
