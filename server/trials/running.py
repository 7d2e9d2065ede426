"""Running one method on one region, as work."""

from __future__ import annotations

import time
from typing import Any

import numpy as np
from django.db import transaction

from attempts.intake import Facts, add_attempt
from attempts.models import Attempt, AttemptSource
from history.models import record
from images.aligning import image_alignment
from images.decoding import decoded, read_bounded
from images.models import Image
from regions.models import Region, RegionVersion
from work.leases import Lease
from work.models import Work
from zweiblick_core import methods
from zweiblick_core.align import original_in_frame
from zweiblick_core.errors import Refused
from zweiblick_core.regions import Region as Area
from zweiblick_core.rules.states import advance

from .asking import COMMON, PUT_BACK, SENT_PUT_BACK
from .models import Trial
from .removing import as_png, placed, png, sources_barred, worked_outline, working_copy


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
    source = decoded(image.blob).pixels
    lease.progress(0.2, trial.method)
    content = _made(trial, image, source, lease)
    lease.progress(0.9, "reading")
    whole = read_bounded(content)
    shown = {
        name: value
        for name, value in trial.settings.items()
        if value not in (None, [], False) and name != "also"
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
        row.settings = trial.settings
        row.save()


def _made(trial: Trial, image: Image, source: np.ndarray, lease: Lease) -> bytes:
    if trial.method == SENT_PUT_BACK:
        return png(_sent_put_back(trial, image, source))
    if trial.method == PUT_BACK:
        return png(_put_back(trial, image))
    pixels = working_copy(source)
    return as_png(_removed(trial, image, pixels, lease), source, pixels)


@transaction.atomic
def _started(trial: Trial) -> bool:
    """Whether it is still wanted; then it runs from now on."""
    row = Trial.objects.select_for_update().get(pk=trial.pk)
    if row.state in ("cancelled", "done"):
        return False
    row.state = advance("trial", row.state, "started")
    row.save()
    return True


def _versions(trial: Trial) -> list[RegionVersion]:
    """The outlines that a run works, in the order of the core's plan."""
    assert trial.region_version is not None
    also = trial.settings.get("also", [])
    if not also:
        return [trial.region_version]
    rows = {
        row.pk: row
        for row in RegionVersion.objects.select_related("region").filter(
            pk__in=also, region__picture=trial.picture
        )
    }
    versions = [trial.region_version, *(rows[pk] for pk in also)]
    # What must go still stands in the original, whatever the base made of it.
    original = decoded(trial.picture.original.blob).pixels
    steps = methods.plan(original, [version.core for version in versions])
    trial.settings["order"] = [
        f"{versions[step.at].region.number} {versions[step.at].region.name}: {step.why}"
        for step in steps
    ]
    return [versions[step.at] for step in steps]


def _removed(trial: Trial, image: Image, pixels: np.ndarray, lease: Lease) -> np.ndarray:
    versions = _versions(trial)
    shown = [
        (version, area) for version in versions if (area := placed(image, version.core)) is not None
    ]
    if not shown:
        raise Refused("the region lies outside what this attempt shows")
    others: list[Area] = []
    if trial.base is None:
        # In the original whatever else must go still stands: nothing is taken from there.
        rows = Region.objects.filter(picture=trial.picture).select_related("current")
        worked = [version.region_id for version in versions]
        others = [row.drawn.core for row in rows.exclude(pk__in=worked)]
    for number, (version, area) in enumerate(shown):
        if len(shown) > 1:
            lease.progress(
                0.2 + 0.7 * number / len(shown), f"{trial.method}: {version.region.name}"
            )
        waiting = [later.core for later, _ in shown[number + 1 :]]
        pixels = _filled(trial, image, pixels, area, [*others, *waiting])
    return pixels


def _filled(
    trial: Trial, image: Image, pixels: np.ndarray, area: Area, others: list[Area]
) -> np.ndarray:
    """One region worked; nothing is taken from `others`, areas in the original's frame."""
    settings = trial.settings
    own: dict[str, Any] = {
        name: tuple(value) if name == "offset" else value
        for name, value in settings.items()
        if name not in COMMON
    }
    return methods.remove(
        trial.method,
        pixels,
        area.full(pixels.shape[:2]),
        grow=int(settings["grow"]),
        feather=float(settings["feather"]),
        keep_out=sources_barred(
            image, settings.get("keep out", ()), settings.get("take from", ()), others
        ),
        opacity=float(settings.get("opacity", 1.0)),
        grain=bool(settings["grain"]),
        tone=bool(settings["tone"]),
        seed=int(settings["seed"]),
        **own,
    )


def _put_back(trial: Trial, image: Image) -> np.ndarray:
    """In the attempt's own frame and depth."""
    result = decoded(image.blob)
    original, covered = original_in_frame(
        decoded(trial.picture.original.blob), result, image_alignment(image)
    )
    # What the original does not show cannot be put back.
    kept = ~covered
    for region in trial.picture.regions.filter(withdrawn_at=None).select_related("current"):
        area = placed(image, region.drawn.core)
        if area is not None:
            kept |= area.full(kept.shape)
    return methods.original_outside(original, result.pixels, kept, int(trial.settings["margin"]))


def _sent_put_back(trial: Trial, image: Image, source: np.ndarray) -> np.ndarray:
    """In the source's own depth: what was sent comes back to the bit."""
    sent = Attempt.every.select_related("image__blob").get(
        picture=trial.picture, pk=trial.settings["from"]
    )
    frame = (image.height, image.width)
    worked = np.zeros(frame, bool)
    for version, pixels, past_frame in trial.settings["areas"]:
        outline = RegionVersion.objects.get(pk=version, region__picture=trial.picture).core
        area = placed(image, outline)
        if area is not None:
            area = worked_outline(area, float(pixels), bool(past_frame), frame)
        if area is not None:
            worked |= area.full(frame)
    before = decoded(sent.image.blob).pixels
    return methods.original_outside(before, source, worked, int(trial.settings["margin"]))


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
