"""Asking for a check, running it, storing what it found."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from django.db import transaction
from django.utils import timezone

from attempts.assembling import sources_by_region
from attempts.models import Attempt
from history.models import record
from images.aligning import image_alignment, keep_alignment, stored_alignment
from images.decoding import decoded
from jobs.models import Job, Picture
from regions.drafts import read_draft, written
from regions.models import RegionVersion
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core import __version__ as core_version
from zweiblick_core.align import Alignment, register
from zweiblick_core.check import check as core_check
from zweiblick_core.check import judged_against
from zweiblick_core.compare import Wear, same_pixels, same_when_saved_anew, saved_as
from zweiblick_core.io import Picture as CorePicture
from zweiblick_core.recalibrate import recalibrated
from zweiblick_core.regions import (
    Region,
    drawn_around,
    given_outline,
    proposed,
    worked_outline,
)
from zweiblick_core.report import Report
from zweiblick_core.rules.states import advance
from zweiblick_core.scoring import MODEL
from zweiblick_core.visibility import parse_size

from .basing import agreed_base
from .carrying import carry_answers, same_in
from .events import Proofs, check_finished
from .models import Check, CheckedRegion, Finding, Recalibration
from .recalibrating import curve_in, in_force
from .wearing import worn_in


def versions_of(picture: Picture) -> list[RegionVersion]:
    return [
        region.current
        for region in picture.regions.select_related("current").order_by("number")
        if region.current
    ]


def fingerprint_of(attempt: Attempt, versions: list[RegionVersion], options: dict[str, Any]) -> str:
    parts = [
        attempt.picture.original.blob_id,
        attempt.image.blob_id,
        *(str(version.pk) for version in versions),
        core_version,
        json.dumps(options, sort_keys=True),
        str(attempt.pk),
    ]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()


@transaction.atomic
def ask_check(attempt: Attempt) -> Check:
    """Ask for the attempt's check; the same pictures, regions and core give the same check, asked
    for again if it failed.
    """
    versions = versions_of(attempt.picture)
    size = attempt.picture.job.sizes.first()
    options: dict[str, Any] = {
        "size": size.spec if size else None,
        "regions": [version.pk for version in versions],
        "model": MODEL.name,
    }
    house = in_force()
    if house is not None:
        options["recalibrated"] = house.pk
    base = agreed_base(attempt.picture)
    if base is not None and base.pk != attempt.pk:
        options["agreed_base"] = base.pk
    newest = Check.objects.filter(attempt=attempt).order_by("-id").first()
    fingerprint = fingerprint_of(attempt, versions, options)
    if (
        newest is not None
        and newest.fingerprint != fingerprint
        and Check.objects.filter(fingerprint=fingerprint).exists()
    ):
        # The newest check is the one that counts: one for outlines that stand again is a new one.
        options["after"] = newest.pk
        fingerprint = fingerprint_of(attempt, versions, options)
    check, made = Check.objects.get_or_create(
        fingerprint=fingerprint,
        defaults={"attempt": attempt, "core_version": core_version, "options": options},
    )
    if not made and check.state == "failed":
        check.state = advance("check", check.state, "asked again")
        check.reason = ""
        check.save()
        made = True
    if made:
        attempt.refresh_from_db(fields=["state"])
        attempt.state = advance("attempt", attempt.state, "check asked")
        attempt.save()
        ask("check", str(check.pk), attempt.picture)
    return check


def ask_checks_anew(*, picture: Picture, **_: object) -> None:
    """Other outlines: every attempt is examined for them. Earlier checks keep theirs."""
    for attempt in picture.attempts.select_related("picture__job", "image__blob"):
        if picture.regions.exists():
            ask_check(attempt)


def ask_checks_of_job(*, job: Job, **_: object) -> None:
    """Another size to judge for: every attempt is examined for it."""
    for picture in job.pictures.all():
        ask_checks_anew(picture=picture)


def ask_check_of_new(*, attempt: Attempt, **_: object) -> None:
    """Every attempt that comes in is examined."""
    ask_check(attempt)


def run_check(lease: Lease) -> None:
    """Examine and store. Everything is written in one transaction under the lease's token."""
    check = Check.objects.select_related("attempt__picture__job", "attempt__image__blob").get(
        pk=lease.work.subject
    )
    if check.state == "done":
        with lease.writing():
            return
    if _overtaken(check):
        with lease.writing():
            Check.objects.filter(pk=check.pk).update(
                state=advance("check", check.state, "overtaken"), finished_at=timezone.now()
            )
            return
    Check.objects.filter(pk=check.pk).update(state=advance("check", check.state, "started"))
    picture, image = check.attempt.picture, check.attempt.image
    versions = list(RegionVersion.objects.filter(pk__in=check.options["regions"]))
    lease.progress(0.0, "reading")
    original, result = decoded(picture.original.blob), decoded(image.blob)
    alignment = stored_alignment(picture.original.blob, image.blob) or aligned(
        original, result, versions
    )
    report = examined(
        original,
        result,
        versions,
        check.options["size"],
        lease.progress,
        alignment,
        _agreed(check),
        Recalibration.objects.filter(pk=check.options.get("recalibrated") or 0).first(),
    )
    changed = _changed(original, result, alignment)
    proofs = _proofs(check.attempt, versions, report.to_dict()["overreach"]["findings"])
    worn = worn_in(check.attempt, versions)
    with lease.writing():
        keep_alignment(picture.original.blob, image.blob, alignment)
        _store(
            check, report, {str(version.pk): version for version in versions}, changed, proofs, worn
        )
        # What people already said follows the pixels; whoever waits for this check is notified.
        check_finished.send(sender=Check, check=check, proofs=proofs)


def _overtaken(check: Check) -> bool:
    """Whether a later check of the attempt was asked for, for the outlines that stand now."""
    return Check.objects.filter(attempt=check.attempt, pk__gt=check.pk).exists()


def examined(
    original: CorePicture,
    result: CorePicture,
    versions: list[RegionVersion],
    spec: str | None,
    progress: Callable[[float, str], None],
    alignment: Alignment,
    agreed: CorePicture | None = None,
    house: Recalibration | None = None,
) -> Report:
    """The core's report of a result, whether it is stored or not.

    Args:
        spec: the size judged for. agreed: the agreed base. house: how sure findings are, if people
            of this house have said.
    """
    areas = [version.core for version in versions]
    size = parse_size(spec)
    report = core_check(original, result, areas, size, progress, alignment=alignment)
    if agreed is not None:
        report = judged_against(agreed, report, result, areas, size, alignment)
    return recalibrated(report, curve_in(house)) if house is not None else report


def _agreed(check: Check) -> CorePicture | None:
    base = Attempt.every.filter(pk=check.options.get("agreed_base") or 0).first()
    return decoded(base.image.blob) if base is not None else None


def aligned(original: CorePicture, result: CorePicture, versions: list[RegionVersion]) -> Alignment:
    """How a result lies to the original: registered by what lies outside the regions."""
    outside = np.ones(original.pixels.shape[:2], bool)
    for version in versions:
        outside[
            version.y : version.y + version.height, version.x : version.x + version.width
        ] &= ~version.mask
    return register(original, result, outside)


def _proofs(
    attempt: Attempt, versions: list[RegionVersion], outside: list[dict[str, Any]]
) -> list[Proofs]:
    """What is, pixel for pixel, as in the attempts that this one was made from. Images never
    change: what was the same before the check stays the same after it.

    Args:
        outside: the findings outside every region.
    """
    whole = (
        attempt.sources.filter(region=None)
        .select_related("source__image__blob", "source__image__picture")
        .first()
    )
    # An assembled attempt's regions come from several; each is proven against its own.
    origin = (
        {version.region_id: whole.source for version in versions}
        if whole is not None
        else sources_by_region(attempt)
    )
    proven: dict[int, Proofs] = {}
    resaved: dict[int, np.ndarray | None] = {}
    for version in versions:
        source = origin.get(version.region_id)
        if source is None:
            continue
        # Regions are drawn on the original; what is compared lies in the source's own frame.
        placed = _placed(source, versions)
        region = placed.get(version.region_id)
        if region is None:
            continue
        found = proven.setdefault(source.pk, Proofs(source, {}))
        first, second = decoded(source.image.blob), decoded(attempt.image.blob)
        proof = same_pixels(first.pixels, second.pixels, region, others=placed.values())
        if not proof.same:
            if source.pk not in resaved:
                resaved[source.pk] = saved_as(first, second)
            expected = resaved[source.pk]
            if expected is not None:
                anew = same_when_saved_anew(expected, second.pixels, region, others=placed.values())
                proof = anew if anew.same else proof
        found.by_region[version.region_id] = proof
    for found in proven.values():
        found.outside.update(_same_outside(found.source, attempt, outside))
    return list(proven.values())


def _same_outside(
    source: Attempt, attempt: Attempt, outside: list[dict[str, Any]]
) -> Iterator[int]:
    """Numbers of changes outside that show the same pixels in the attempt's source."""
    alignment, image = image_alignment(source.image), source.image
    original = attempt.picture.original
    for number, change in enumerate(outside):
        place = drawn_around(change["polygon"], (original.height, original.width))
        placed = alignment.placed(place, (image.height, image.width))
        first, second = decoded(source.image.blob), decoded(attempt.image.blob)
        if placed and same_pixels(first.pixels, second.pixels, placed, rim=0).same:
            yield number


def _placed(attempt: Attempt, versions: list[RegionVersion]) -> dict[int, Region]:
    """Regions in an attempt's own frame, by region; what it does not show is missing."""
    alignment = image_alignment(attempt.image)
    frame = (attempt.image.height, attempt.image.width)
    placed = {version.region_id: alignment.placed(version.core, frame) for version in versions}
    return {pk: region for pk, region in placed.items() if region is not None}


def about_of(report: Report) -> list[str]:
    """What was done to bring an attempt to its original, and what is to be known of it before any
    flaw; one clause each.
    """
    said = list(report.alignment["done"])
    if said:
        said[-1] += f"; matched to {report.alignment['residual_px']:.2f} px"
    return (
        said
        + [str(fact["words"]) for fact in report.facts]
        + ([str(report.base["words"])] if report.base else [])
    )


def outside_of(overreach: dict[str, Any]) -> list[dict[str, Any]]:
    """The report's overreach findings with their group's words."""
    words = {group["id"]: group["words"] for group in overreach["groups"]}
    return [
        {**finding, "words": words.get(finding["group"], finding["kind"])}
        for finding in overreach["findings"]
    ]


#: So many proposals are enough; a picture of which everything changed gives thousands.
_MOST_PROPOSALS = 40


def _changed(original: CorePicture, result: CorePicture, alignment: Alignment) -> list[Region]:
    """What an attempt changed, the largest first."""
    areas = proposed(original, result, alignment)
    return sorted(areas, key=lambda area: -int(area.mask.sum()))[:_MOST_PROPOSALS]


def _store(
    check: Check,
    report: Report,
    versions: dict[str, RegionVersion],
    changed: list[Region],
    proofs: list[Proofs],
    worn: dict[int, Wear],
) -> None:
    plain = report.to_dict()
    row = Check.objects.select_for_update().get(pk=check.pk)
    row.state = advance("check", row.state, "finished")
    # Findings are rows of their own; the report is kept whole besides, as it was written.
    row.report, row.finished_at = plain, timezone.now()
    row.overall = report.overall if report.alignment["kind"] != "unmatched" else None
    row.reason = report.alignment["reason"] or ""
    row.about, row.outside = about_of(report), outside_of(plain["overreach"])
    row.changed = [written(area) for area in changed]
    row.save()
    original = row.attempt.picture.original
    frame = (original.height, original.width)
    cores = {name: version.core for name, version in versions.items()}
    # Compressed or resampled: what differs little is no work.
    lossy = row.attempt.image.format == "jpeg" or bool(plain["alignment"]["done"])
    given = [read_draft(draft, frame) for draft in row.attempt.outline]
    for region in plain["regions"]:
        checked = CheckedRegion.objects.create(
            check_run=row,
            region_version=versions[region["id"]],
            overall=region["overall"],
            backdrop=region["backdrop"],
            scores=region["scores"],
            abstained=region["abstained"],
            groups=region["groups"],
            worked=_worked(given, changed, region["id"], cores, frame, lossy),
            wear=_plain(worn.get(versions[region["id"]].region_id)),
        )
        findings = Finding.objects.bulk_create(
            [
                Finding(
                    checked=checked,
                    position=position,
                    **{
                        name: finding[name]
                        for name in (
                            "kind",
                            "runner_up",
                            "score",
                            "confidence",
                            "bbox",
                            "polygon",
                            "signal",
                            "measure",
                            "evidence",
                            "group",
                        )
                    },
                )
                for position, finding in enumerate(region["findings"])
            ]
        )
        if findings:
            carry_answers(row, checked, same_in(checked.region_version.region_id, proofs))
    attempt = Attempt.every.select_for_update().get(pk=row.attempt_id)
    if not _overtaken(row):
        attempt.state = advance("attempt", attempt.state, "check finished")
        attempt.save()
    record(
        attempt.picture,
        None,
        "check finished",
        f"attempt {attempt.number}",
        after={
            "findings": sum(len(region["findings"]) for region in plain["regions"]),
            "overall": row.overall,
            "reason": row.reason,
        },
    )


def _plain(wear: Wear | None) -> dict[str, Any] | None:
    return wear.to_dict() if wear else None


def _worked(
    given: list[Region],
    changed: list[Region],
    name: str,
    cores: dict[str, Region],
    frame: tuple[int, int],
    lossy: bool,
) -> dict[str, Any] | None:
    others = [core for other, core in cores.items() if other != name]
    found = (
        given_outline(given, cores[name], others, frame)
        if given
        else worked_outline(changed, cores[name], others, frame, lossy)
    )
    return found.to_dict() if found else None


def check_failed(work: Work) -> None:
    """The check could not be made; say so where people look."""
    with transaction.atomic():
        check = Check.objects.select_for_update().filter(pk=work.subject).first()
        if check is None or check.state not in ("waiting", "running"):
            return
        check.state = advance("check", check.state, "failed")
        check.reason, check.finished_at = work.error, timezone.now()
        check.save()
        attempt = Attempt.every.select_for_update().get(pk=check.attempt_id)
        if not _overtaken(check):
            attempt.state = advance("attempt", attempt.state, "check failed")
            attempt.save()
        record(
            attempt.picture,
            None,
            "check failed",
            f"attempt {attempt.number}",
            after={"reason": work.error},
        )
