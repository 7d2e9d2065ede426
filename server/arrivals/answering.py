"""A file that arrived and answers a slip is handed in as that."""

from __future__ import annotations

from django.db import transaction

from jobs.models import Job
from people.models import Person
from slips.matching import called
from slips.models import Slip
from slips.returning import Given, ask_return
from zweiblick_core.errors import Refused

from .models import Arrival
from .receiving import bytes_of, forget


def answers_of(job: Job, arrivals: list[Arrival]) -> dict[int, dict[str, object]]:
    """By arrival, the slip that it answers, {id, words}, if that still takes an answer; in one
    query.
    """
    wanted = {row.pk: row.facts.get("slip") for row in arrivals}
    rows = Slip.objects.filter(
        pk__in=[pk for pk in wanted.values() if pk], state__in=("sent", "working"), picture__job=job
    ).select_related("picture", "worker")
    slips = {row.pk: row for row in rows}
    return {
        arrival: {
            "id": slips[pk].pk,
            "words": called(slips[pk]),
            "worker": _with(slips[pk]),
        }
        for arrival, pk in wanted.items()
        if pk in slips
    }


def _with(slip: Slip) -> str:
    return slip.worker.called if slip.worker else ""


@transaction.atomic
def hand_in_arrival(arrival: Arrival, person: Person) -> Slip:
    """Hand a file in as the answer to the slip that it was found to answer.

    Raises:
        Refused: it answers none, or is just being brought in.
        NotAllowed: the slip takes no result now.
    """
    row = Arrival.objects.select_for_update().get(pk=arrival.pk)
    slip = Slip.objects.filter(pk=row.facts.get("slip") or 0, picture__job=row.job_id).first()
    if slip is None:
        raise Refused(f"{row.name}: answers no slip of this job")
    if row.taken_by_id is not None:
        raise Refused(f"{row.name}: is just being brought in")
    ask_return(slip, person, Given(row.name), [bytes_of(row)])
    forget(row)
    return slip
