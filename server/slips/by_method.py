"""A slip that goes to a built-in method: its regions one after the other, in one new attempt."""

from __future__ import annotations

import time
from typing import Any

import numpy as np

from attempts.intake import Facts
from images.aligning import image_alignment
from images.decoding import decoded
from trials.removing import as_png, sources_barred, working_copy
from work.leases import Lease
from zweiblick_core import methods
from zweiblick_core.errors import Refused
from zweiblick_core.rules.following import FOLLOWED_BY_METHODS, Asked, asked_of

from .answering import fitting, take_back
from .area import area_asked
from .models import Slip, SlipRegion
from .sending import take_up


def work_by_method(slip: Slip, lease: Lease) -> None:
    """Work a slip and store its answer.

    Raises:
        Refused: the method cannot do it, or what was sent shows none of its regions.
    """
    assert slip.method is not None
    if slip.state == "sent":
        take_up(slip, None)
    began = time.monotonic()
    source = decoded(slip.attempt.image.blob).pixels
    before = working_copy(source)
    made = _worked(slip, before, lease)
    lease.progress(0.85, "writing")
    name = str(slip.method["name"])
    answer = fitting(slip, as_png(made, source, before), f"slip-{slip.round}.png")
    facts = Facts(
        name,
        "built in",
        "Zweiblick",
        round(time.monotonic() - began, 1),
        None,
        {"slip": slip.round},
    )
    followed = {part.region_id: _followed(part, name) for part in slip.regions.all()}
    with lease.writing():
        current = Slip.objects.get(pk=slip.pk)
        # Another key: it was handed over in the meantime.
        if current.state in ("sent", "working") and current.key == slip.key:
            take_back(slip, answer, facts, None, followed)


def _worked(slip: Slip, before: np.ndarray, lease: Lease) -> np.ndarray:
    assert slip.method is not None
    image = slip.attempt.image
    alignment, frame = image_alignment(image), before.shape[:2]
    parts = list(slip.regions.select_related("version"))
    shown = [
        (part, area)
        for part in parts
        if (area := area_asked(part, alignment, (frame[0], frame[1]))) is not None
    ]
    if not shown:
        raise Refused("none of its regions lies in what this attempt shows")
    # What must go still stands in the original, whatever the attempt made of it.
    original = decoded(slip.picture.original.blob).pixels
    steps = methods.plan(original, [part.version.core for part, _ in shown])
    shown = [shown[step.at] for step in steps]
    pixels = before
    for number, (part, area) in enumerate(shown):
        lease.progress(0.05 + 0.8 * number / len(shown), str(slip.method["name"]))
        asked = asked_of(part.changes)
        waiting = [other.version.core for other, _ in shown[number + 1 :]]
        pixels = methods.remove(
            str(slip.method["name"]),
            pixels,
            area.full((frame[0], frame[1])),
            feather=asked.feather,
            keep_out=sources_barred(image, asked.keep_out, asked.take_from, waiting),
            grain=asked.grain,
            tone=asked.tone,
            seed=slip.round,
            **_own(str(slip.method["name"]), asked),
        )
    return pixels


#: The method that continues lines in directions that it is given.
_FOLLOWS_LINES = "copy that fits its rim"


def _own(method: str, asked: Asked) -> dict[str, Any]:
    return {"along": asked.along} if method == _FOLLOWS_LINES and asked.along else {}


def _followed(part: SlipRegion, method: str) -> list[str]:
    """Which changes a method was given as its settings."""
    asked = asked_of(part.changes)
    return [
        change["what"]
        for change in part.changes
        if change["what"] in FOLLOWED_BY_METHODS
        or (change["what"] == "another method" and asked.method == method)
        or (change["what"] == "follow the line" and bool(_own(method, asked)))
    ]
