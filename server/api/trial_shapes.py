"""Trials as the API says them."""

from __future__ import annotations

from typing import Any

from jobs.models import Picture
from trials.models import Trial
from work.models import Work

#: So many are listed; older ones are attempts by now, or were given up.
_LISTED = 40


def trial_of(trial: Trial, work: Work | None) -> dict[str, Any]:
    """`work`: how far it is, where it is known."""
    running = trial.state in ("waiting", "running")
    version = trial.region_version
    return {
        "id": trial.pk,
        "method": trial.method,
        "settings": {
            name: value
            for name, value in trial.settings.items()
            if value not in (None, [], False, 0, 0.0) and name != "also"
        },
        "region": version.region_id if version else None,
        "regions": (1 + len(trial.settings.get("also", []))) if version else 0,
        "made_from": trial.base.number if trial.base else None,
        "state": trial.state,
        "progress": (work.progress if work else 0.0) if running else 1.0,
        "words": work.words if work and running else "",
        "reason": trial.reason,
        "attempt": trial.attempt.number if trial.attempt else None,
    }


def trials_of(picture: Picture) -> list[dict[str, Any]]:
    """A picture's trials, the newest first."""
    work = {row.subject: row for row in Work.objects.filter(picture=picture, kind="trial")}
    rows = picture.trials.select_related("region_version", "base", "attempt").order_by("-id")
    return [trial_of(row, work.get(str(row.pk))) for row in rows[:_LISTED]]
