"""Running one method on one region, as work."""

from __future__ import annotations

import time
from typing import Any

import cv2
import numpy as np
from django.db import transaction

from attempts.intake import Facts, add_attempt
from attempts.models import AttemptSource
from history.models import record
from images.aligning import image_alignment
from images.decoding import decoded, read_bounded
from images.models import Image
from regions.models import Region
from work.leases import Lease
from work.models import Work
from zweiblick_core import methods
from zweiblick_core.errors import Refused
from zweiblick_core.reading import eight_bit
from zweiblick_core.regions import Region as Area
from zweiblick_core.rules.states import advance

from .asking import PUT_BACK
from .models import Trial


def run_trial(lease: Lease) -> None:
    """Make the attempt and store it; nothing is stored of a run that was cancelled meanwhile."""
    trial = Trial.objects.select_related(
        "picture__job", "person", "region_version__region", "base__image__blob"
    ).get(pk=lease.work.subject)
    if not _started(trial):
        with lease.writing():
            return
    began = time.monotonic()
    lease.progress(0.05, "reading")
    image: Image = trial.base.image if trial.base else trial.picture.original
    image.picture = trial.picture
    pixels = eight_bit(decoded(image.blob).pixels).round().astype(np.uint8)
    lease.progress(0.2, trial.method)
    made = (
        _put_back(trial, pixels)
        if trial.method == PUT_BACK
        else _removed(trial, image, pixels, trial.settings)
    )
    lease.progress(0.85, "writing")
    ok, data = cv2.imencode(
        ".png", np.ascontiguousarray(made[..., ::-1]), [cv2.IMWRITE_PNG_COMPRESSION, 3]
    )
    assert ok
    content = data.tobytes()
    whole = read_bounded(content)
    shown = {
        name: value for name, value in trial.settings.items() if value not in (None, [], False)
    }
    facts = Facts(
        trial.method, "built in", "Zweiblick", round(time.monotonic() - began, 1), None, shown
    )
    with lease.writing():
        row = Trial.objects.select_for_update().get(pk=trial.pk)
        if row.state == "cancelled":
            return
        attempt = add_attempt(
            trial.picture, f"trial-{trial.pk}.png", content, facts, trial.person, whole
        )
        if trial.base is not None:
            AttemptSource.objects.create(attempt=attempt, source=trial.base)
        row.state, row.attempt = advance("trial", row.state, "finished"), attempt
        row.save()


@transaction.atomic
def _started(trial: Trial) -> bool:
    """Whether it is still wanted; then it runs from now on."""
    row = Trial.objects.select_for_update().get(pk=trial.pk)
    if row.state in ("cancelled", "done"):
        return False
    row.state = advance("trial", row.state, "started")
    row.save()
    return True


def _placed(image: Image, area: Area) -> Area | None:
    """An area of the original in an image's own frame."""
    if image.role != "result":
        return area
    return image_alignment(image).placed(area, (image.height, image.width))


def _removed(
    trial: Trial, image: Image, pixels: np.ndarray, settings: dict[str, Any]
) -> np.ndarray:
    assert trial.region_version is not None
    frame = pixels.shape[:2]
    region = _placed(image, trial.region_version.core)
    if region is None:
        raise Refused("the region lies outside what this attempt shows")
    barred = np.zeros(frame, bool)
    if trial.base is None:
        # In the original whatever else must go still stands: nothing is taken from there.
        others = Region.objects.filter(picture=trial.picture).select_related("current")
        for other in others.exclude(pk=trial.region_version.region_id):
            barred |= other.drawn.core.full(frame)
    for x, y, width, height in settings.get("keep out", ()):
        box = Area("kept out", np.ones((height, width), bool), (x, y, width, height))
        placed = _placed(image, box)
        if placed is not None:
            left, top, w, h = placed.bbox
            barred[max(0, top) : top + h, max(0, left) : left + w] = True
    own: dict[str, Any] = {
        name: tuple(value) if name == "offset" else value
        for name, value in settings.items()
        if name not in ("grow", "feather", "grain", "tone", "seed", "keep out")
    }
    return methods.remove(
        trial.method,
        pixels,
        region.full(frame),
        grow=int(settings["grow"]),
        feather=float(settings["feather"]),
        keep_out=barred if barred.any() else None,
        grain=bool(settings["grain"]),
        tone=bool(settings["tone"]),
        seed=int(settings["seed"]),
        **own,
    )


def _put_back(trial: Trial, pixels: np.ndarray) -> np.ndarray:
    original = eight_bit(decoded(trial.picture.original.blob).pixels).round().astype(np.uint8)
    frame = original.shape[:2]
    regions = np.zeros(frame, bool)
    for region in trial.picture.regions.select_related("current"):
        regions |= region.drawn.core.full(frame)
    return methods.original_outside(original, pixels, regions, int(trial.settings["margin"]))


def trial_failed(work: Work) -> None:
    """The method could not do it; people see why."""
    with transaction.atomic():
        row = (
            Trial.objects.select_for_update()
            .select_related("picture__job")
            .filter(pk=work.subject)
            .first()
        )
        if row is None or row.state not in ("waiting", "running"):
            return
        row.state, row.reason = advance("trial", row.state, "failed"), work.error
        row.save()
        record(row.picture, None, "trial failed", row.method, after={"reason": work.error})
