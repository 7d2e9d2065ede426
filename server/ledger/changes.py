"""What changed between two attempts of a picture: their settings, what became of each region's
flaws, and of what lies outside.
"""

from __future__ import annotations

from typing import Any

from attempts.models import Attempt
from checks.models import Check
from slips.flaws import flaws_of, seen_of
from zweiblick_core.compare import differing
from zweiblick_core.rules import slips


def _outside(attempt: Attempt) -> list[dict[str, Any]]:
    check = Check.objects.filter(attempt=attempt, state="done").order_by("-id").first()
    return list(check.outside) if check else []


def _judged(attempt: Attempt) -> bool:
    return Check.objects.filter(attempt=attempt, state="done", overall__isnull=False).exists()


def changes_between(before: Attempt, after: Attempt) -> dict[str, Any]:
    """Both must be attempts of one picture. Regions tell nothing while either was not judged."""
    judged = _judged(before) and _judged(after)
    regions = []
    for region in after.picture.regions.all() if judged else []:
        found = slips.outcome(
            [seen_of(flaw) for flaw in flaws_of(before, region, only_sent=False)],
            [seen_of(flaw) for flaw in flaws_of(after, region, only_sent=False)],
        )
        regions.append(
            {
                "region": region.pk,
                "number": region.number,
                "name": region.name,
                "word": found.word if found.kinds else None,
                "kinds": [{"kind": kind, "word": word} for kind, word in found.kinds],
            }
        )
    outside = (
        slips.outcome(
            [seen_of({**one, "severity": 0.0}) for one in _outside(before)],
            [seen_of({**one, "severity": 0.0}) for one in _outside(after)],
        )
        if judged
        else None
    )
    return {
        "before": before.pk,
        "after": after.pk,
        "judged": judged,
        "regions": regions,
        "settings": [
            {"name": one.name, "before": one.before, "after": one.after}
            for one in differing(before.run.settings, after.run.settings)
        ],
        "outside": [{"kind": kind, "word": word} for kind, word in outside.kinds]
        if outside
        else [],
    }
