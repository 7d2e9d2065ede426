"""Bringing pictures and attempts in: whole or not at all."""

from __future__ import annotations

from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

import numpy as np
from django.db import transaction

from history.models import record
from images.blobs import put_image
from images.decoding import read_bounded
from images.pyramids import ask_pyramid
from jobs.models import Job, Picture
from people.models import Person
from regions.editing import store_version
from regions.models import Region
from zweiblick_core.errors import Refused
from zweiblick_core.io import Picture as CorePicture
from zweiblick_core.regions.masks import cropped

from .events import attempt_added
from .models import Attempt, Method, MethodRun


@dataclass(frozen=True)
class Facts:
    """What is known of how an attempt came to be."""

    method: str
    kind: str
    maker: str = ""
    seconds: float | None = None
    cost: Decimal | None = None
    settings: dict[str, Any] = field(default_factory=dict[str, Any])
    left_house: bool | None = None
    cropped_when: str = ""


def locked_picture(pk: int) -> Picture:
    """Hold a picture's row, so that attempts and slips are numbered one after the other."""
    row: Picture = Picture.every.select_for_update().select_related("job").get(pk=pk)
    return row


@transaction.atomic
def add_picture(
    job: Job,
    name: str,
    file_name: str,
    data: bytes,
    masks: list[tuple[str, np.ndarray]],
    person: Person,
    decoded: CorePicture | None = None,
) -> Picture:
    """Store an original with its regions.

    Args:
        masks: (name, bool mask of the oriented frame) for each region.
        decoded: the file, if it was read already.

    Raises:
        Refused: the file cannot be read, or a mask does not fit; nothing is stored then.
    """
    numbers = Picture.every.filter(job=job).order_by("-number").values_list("number", flat=True)
    number = (numbers.first() or 0) + 1
    decoded = decoded or read_bounded(data)
    picture: Picture = Picture.objects.create(job=job, number=number, name=name)
    image = put_image(picture, "original", file_name, data, decoded)
    for region_number, (region_name, mask) in enumerate(masks, 1):
        if mask.shape != decoded.pixels.shape[:2]:
            raise Refused(
                f"the mask of {region_name} is {mask.shape[1]}x{mask.shape[0]}, the picture {decoded.width}x{decoded.height}"
            )
        region = Region.objects.create(picture=picture, number=region_number, name=region_name)
        store_version(region, cropped(mask, region_name), person)
    ask_pyramid(image)
    record(
        picture,
        person,
        "picture brought in",
        name,
        after={"file": file_name, "regions": len(masks)},
    )
    return picture


@transaction.atomic
def add_attempt(
    picture: Picture,
    file_name: str,
    data: bytes,
    facts: Facts,
    person: Person | None,
    decoded: CorePicture | None = None,
) -> Attempt:
    """Store a result as the picture's next attempt; whoever listens to `attempt_added` asks for
    its check and makes its cells.

    Raises:
        Refused: the file cannot be read; nothing is stored then.
    """
    decoded = decoded or read_bounded(data)
    locked_picture(picture.pk)
    method, _ = Method.objects.get_or_create(name=facts.method, defaults={"kind": facts.kind})
    run = MethodRun.objects.create(
        method=method,
        settings=facts.settings,
        seconds=facts.seconds,
        cost=facts.cost,
        left_house=facts.left_house,
        cropped_when=facts.cropped_when,
    )
    image = put_image(picture, "result", file_name, data, decoded)
    # Withdrawn ones keep their numbers.
    numbers = Attempt.every.filter(picture=picture).order_by("-number")
    number = (numbers.values_list("number", flat=True).first() or 0) + 1
    attempt: Attempt = Attempt.objects.create(
        picture=picture, number=number, image=image, run=run, maker=facts.maker
    )
    ask_pyramid(image)
    attempt_added.send(sender=Attempt, attempt=attempt)
    record(
        picture,
        person,
        "attempt brought in",
        f"attempt {number}",
        after={"file": file_name, "method": facts.method, "maker": facts.maker},
    )
    return attempt
