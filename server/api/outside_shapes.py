"""The outside service as the API says it."""

from __future__ import annotations

from typing import Any

from django.conf import settings

from attempts.models import Attempt
from images.aligning import image_alignment
from images.crops import NotYet
from images.models import Image
from jobs.models import Picture
from outside.asking import Tier, base_image, budget_of, refused_for
from outside.leaving import area_of, box_of
from outside.models import Order, Service
from regions.models import Region
from slips.models import Slip
from slips.ordering import ordered_areas
from work.clock import now
from work.models import Work
from zweiblick_core.errors import Refused
from zweiblick_core.regions import Region as Area

#: So many orders of a picture are listed.
_LISTED = 40


def outside_of(picture: Picture, region: Region | None, base: Attempt | None) -> dict[str, Any]:
    """What the service offers for a region of a picture, and what was ordered."""
    row = Service.objects.filter(name=settings.REMOVAL_NAME).first()
    account = row.account if row and row.account else {}
    credits, spent = budget_of(picture.job)
    resting = row.resting_until if row else None
    leaves = leaves_of(picture, region, base, account.get("largest")) if region else None
    return {
        "name": settings.REMOVAL_NAME if settings.REMOVAL_URL else None,
        "use": picture.job.use,
        "resting": resting is not None and resting > now(),
        "largest": account.get("largest"),
        "takes": account.get("takes", 1),
        "tiers": [
            {**tier, "refused": refused_for(Tier(**tier), picture.job)}
            for tier in account.get("tiers", ())
        ],
        "credits": credits,
        "spent": spent,
        "leaves": leaves,
        "orders": orders_of(picture),
    }


def leaves_of(
    picture: Picture, region: Region, base: Attempt | None, largest: int | None
) -> dict[str, Any]:
    image = base_image(picture, base)
    return said_to_leave(image, area_of(image, region.drawn), largest)


def said_to_leave(image: Image, area: Area, largest: int | None) -> dict[str, Any]:
    """What leaves of an image for an area in its own frame."""
    x, y, width, height = box_of(image, area)
    box = [x, y, width, height]
    result = image.role == "result"
    return {
        "box": box,
        "shown": image_alignment(image).boxed_back(box) if result else [float(one) for one in box],
        "share": width * height / (image.width * image.height),
        "marked": int(area.mask.sum()),
        "soft": largest is not None and max(width, height) > largest,
    }


def slip_outside_of(slip: Slip) -> dict[str, Any]:
    """What the service offers for a slip, and what would leave of each of its regions."""
    outside = outside_of(slip.picture, None, None)
    try:
        areas = ordered_areas(slip) if outside["name"] else []
    except (NotYet, Refused):
        areas = []
    image = slip.attempt.image
    return {
        "outside": outside,
        "regions": [
            {
                "region": part.region_id,
                "leaves": said_to_leave(image, area, outside["largest"]),
            }
            for part, area in areas
        ],
    }


def orders_of(picture: Picture) -> list[dict[str, Any]]:
    """A picture's orders, the newest first; in three queries."""
    rows = list(
        picture.orders.select_related("region_version", "base", "person")
        .prefetch_related("takes__attempt")
        .order_by("-id")[:_LISTED]
    )
    work = {row.subject: row for row in Work.objects.filter(picture=picture, kind="order")}
    return [_order(row, work.get(str(row.pk))) for row in rows]


def _order(order: Order, work: Work | None) -> dict[str, Any]:
    out = order.state in ("waiting", "running")
    return {
        "id": order.pk,
        "region": order.region_version.region_id,
        "made_from": order.base.number if order.base else None,
        "tier": order.tier,
        "terms": order.terms,
        "credits": order.credits,
        "state": order.state,
        "progress": (work.progress if work else 0.0) if out else 1.0,
        "words": work.words if work and out else "",
        "reason": order.reason,
        "left": order.sent_at is not None,
        "attempts": [take.attempt.number for take in order.takes.all() if take.attempt],
        "person": order.person.called,
        "made_at": order.made_at,
    }
