"""Asking for the check of an attempt at a shot, running it, storing what it found."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from django.db import transaction
from django.utils import timezone

from history.models import record_job
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core import __version__ as core_version
from zweiblick_core.rules.states import advance
from zweiblick_core.shots import check_shot, proposed_in_shot
from zweiblick_core.visibility import parse_size

from .models import Shot, ShotAttempt, ShotCheck
from .opening import opened
from .outlining import drawn_in, keep_drawn, masks_of, versions_of
from .returning import keep_return, proven

#: What is asked of the queue: examine; find out what was to be removed.
WORK = "shot check"
REGIONS = "shot regions"


def ask_regions(shot: Shot) -> None:
    """Have the shot's masks read, or its regions proposed where it has none; checks follow."""
    ask(REGIONS, str(shot.pk))


def run_regions(lease: Lease) -> None:
    """Store what was to be removed from a shot that has no regions yet, and ask for its checks."""
    shot = _shot(int(lease.work.subject))
    drawn = None
    if shot is not None and not shot.regions.exists():
        lease.progress(0.1, "reading the masks" if shot.masks else "looking for what changed")
        if shot.masks is not None:
            drawn = masks_of(shot)
        else:
            attempts = list(shot.attempts.select_related("footage__blob"))
            for attempt in attempts:
                drawn = proposed_in_shot(opened(shot.original), opened(attempt.footage))
                if drawn:
                    break
    with lease.writing():
        if shot is None:
            return
        Shot.objects.select_for_update().get(pk=shot.pk)
        if drawn and not shot.regions.exists():
            keep_drawn(shot, drawn)
        ask_checks(shot)


def _shot(pk: int) -> Shot | None:
    return Shot.objects.filter(pk=pk).select_related("job", "original__blob", "masks__blob").first()


def ask_checks(shot: Shot) -> None:
    """Have every attempt at a shot examined for the outlines that stand."""
    for attempt in shot.attempts.select_related("shot__job", "shot__original", "footage"):
        ask_check(attempt)


@transaction.atomic
def ask_check(attempt: ShotAttempt) -> ShotCheck:
    """Ask for an attempt's check; the same footage, outlines and core give the same check, asked for
    again if it failed.
    """
    shot = attempt.shot
    size = shot.job.sizes.first()
    options: dict[str, Any] = {
        "size": size.spec if size else None,
        "regions": {str(number): version for number, version in versions_of(shot).items()},
    }
    fingerprint = hashlib.sha256(
        "\n".join(
            [
                shot.original.blob_id,
                attempt.footage.blob_id,
                core_version,
                json.dumps(options, sort_keys=True),
                str(attempt.pk),
            ]
        ).encode()
    ).hexdigest()
    check, made = ShotCheck.objects.get_or_create(
        fingerprint=fingerprint,
        defaults={"attempt": attempt, "core_version": core_version, "options": options},
    )
    if not made and check.state == "failed":
        check.state = advance("check", check.state, "asked again")
        check.reason = ""
        check.save()
        made = True
    if made:
        ask(WORK, str(check.pk))
    return check


def run_check(lease: Lease) -> None:
    """Examine and store, in one transaction under the lease's token."""
    check = ShotCheck.objects.select_related("attempt__footage__blob").get(pk=lease.work.subject)
    shot = _shot(check.attempt.shot_id)
    assert shot is not None
    if check.state in ("done", "overtaken") or _overtaken(check):
        with lease.writing():
            if check.state not in ("done", "overtaken"):
                _advance(check, "overtaken")
            return
    _advance(check, "started")
    report = check_shot(
        opened(shot.original),
        opened(check.attempt.footage),
        drawn_in(shot),
        parse_size(check.options["size"]),
        progress=lease.progress,
    )
    proof = proven(check.attempt, report, lease)
    with lease.writing():
        row = ShotCheck.objects.select_for_update().get(pk=check.pk)
        row.report = report.to_dict()
        row.state = advance("check", row.state, "finished")
        row.finished_at = timezone.now()
        row.save()
        record_job(
            shot.job,
            None,
            "check of a shot finished",
            f"{shot.name}, attempt {check.attempt.number}",
            after={
                "findings": sum(len(region.findings) for region in report.regions),
                "overall": report.overall,
            },
        )
        keep_return(check.attempt, row.report, proof)


def _advance(check: ShotCheck, event: str) -> None:
    check.state = advance("check", check.state, event)
    finished = timezone.now() if event == "overtaken" else None
    ShotCheck.objects.filter(pk=check.pk).update(state=check.state, finished_at=finished)


def _overtaken(check: ShotCheck) -> bool:
    """Whether a later check of the attempt was asked for, or its outlines stand no more."""
    later = ShotCheck.objects.filter(attempt=check.attempt_id, pk__gt=check.pk).exists()
    stands = {str(number): version for number, version in versions_of(check.attempt.shot).items()}
    return later or stands != check.options["regions"]


def check_failed(work: Work) -> None:
    """The check could not be made; say so where people look."""
    with transaction.atomic():
        check = ShotCheck.objects.select_for_update().filter(pk=work.subject).first()
        if check is not None and check.state in ("waiting", "running"):
            check.state = advance("check", check.state, "failed")
            check.reason, check.finished_at = work.error, timezone.now()
            check.save()
