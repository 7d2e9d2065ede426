"""What is known of attempts, as the API says it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from attempts.models import Attempt, Method
from jobs.models import Job
from zweiblick_core.rules.rights import refuse_terms


def _refused(attempt: Attempt, use: str) -> str | None:
    terms = str(attempt.run.settings.get("terms") or "")
    try:
        words = refuse_terms(terms, use)
    except KeyError:
        words = f"its terms, “{terms}”, are not known here"
    return f"attempt {attempt.number}: {words}" if words else None


def barred_by_terms(
    attempts: Iterable[Attempt], sources: dict[int, list[int]], use: str
) -> dict[int, str]:
    """By attempt, why its own terms, or those of what it was made from, don't allow a use."""
    known = {attempt.pk: attempt for attempt in attempts}
    own = {pk: _refused(attempt, use) for pk, attempt in known.items()}
    found = {}
    for pk in known:
        waiting, met = [pk], set()
        while waiting:
            one = waiting.pop()
            if one in met:
                continue
            met.add(one)
            waiting += sources.get(one, [])
        words = [own.get(one) for one in sorted(met)]
        said = next((one for one in words if one), None)
        if said:
            found[pk] = said
    return found


def methods_of(job: Job) -> list[dict[str, Any]]:
    """Every method that is known, with what was said of its newest attempt in the job."""
    newest: dict[int, Attempt] = {}
    for attempt in Attempt.objects.filter(picture__job=job).select_related("run").order_by("id"):
        newest[attempt.run.method_id] = attempt
    return [_method(row, newest.get(row.pk)) for row in Method.objects.order_by("name")]


def _method(method: Method, newest: Attempt | None) -> dict[str, Any]:
    settings = dict(newest.run.settings) if newest else {}
    terms = str(settings.pop("terms", ""))
    return {
        "name": method.name,
        "kind": method.kind,
        "maker": newest.maker if newest else "",
        "settings": settings,
        "terms": terms,
        "left_house": newest.run.left_house if newest else None,
    }
