"""The answer to a slip: whether a file can be one, what it shows elsewhere, and storing it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils import timezone

from attempts.fitting import refuse_stored, refuse_unmatched
from attempts.intake import Facts, add_attempt, locked_picture
from attempts.models import Attempt, AttemptSource
from history.models import record
from images.aligning import image_alignment
from images.decoding import decoded, read_bounded
from people.models import Person
from zweiblick_core.align import register
from zweiblick_core.compare import MARGIN, same_elsewhere
from zweiblick_core.errors import Refused
from zweiblick_core.io import Picture as CorePicture
from zweiblick_core.rules.states import NotAllowed, advance

from .area import area_asked
from .models import Slip
from .sending import held


@dataclass(frozen=True)
class Answer:
    """A file that can answer a slip, read. `elsewhere`: as the slip keeps it."""

    name: str
    data: bytes
    whole: CorePicture
    elsewhere: dict[str, Any]


def fitting(slip: Slip, data: bytes, file_name: str) -> Answer:
    """Read a file that answers a slip. The same is asked of a hand's file, of the desk's and of a
    method's.

    Raises:
        Refused: it cannot be read, was brought in before, or does not lie in the frame of what was sent.
    """
    try:
        result = read_bounded(data)
    except Refused as error:
        raise Refused(str(error).replace("the file", file_name, 1)) from error
    refuse_stored(slip.picture.job, result.sha256, file_name)
    # It must lie in the frame of what was sent, whatever that is: pixels are compared one by one.
    sent = decoded(slip.attempt.image.blob)
    refuse_unmatched(register(sent, result), file_name, in_place=True)
    return Answer(file_name, data, result, _elsewhere(slip, sent, result))


def _elsewhere(slip: Slip, sent: CorePicture, result: CorePicture) -> dict[str, Any]:
    """What the answer shows outside everything that was sent, and a margin."""
    alignment = image_alignment(slip.attempt.image)
    frame = (slip.attempt.image.height, slip.attempt.image.width)
    parts = slip.regions.select_related("version")
    areas = [area for part in parts if (area := area_asked(part, alignment, frame)) is not None]
    found = same_elsewhere(sent, result, areas)
    return {
        "margin": MARGIN,
        "same": found.proof.same,
        "saved_anew": found.proof.saved_anew,
        "compared": found.proof.compared,
        "differing": found.proof.differing,
        "places": [
            {**place.to_dict(), "bbox": alignment.boxed_back(place.bbox)} for place in found.places
        ],
    }


def answering_event(slip: Slip) -> str:
    """What an answer does to a slip: "returned", or "replaced" where another one came before."""
    if slip.returned_id is None:
        return "returned"
    if slip.looked_at is not None:
        raise NotAllowed("what came back was looked at already; it stays as it is")
    return "replaced"


def take_back(
    slip: Slip,
    answer: Answer,
    facts: Facts,
    person: Person | None,
    followed: dict[int, list[str]] | None = None,
) -> Attempt:
    """A result that answers a slip becomes a new attempt made from the one that was sent. Once
    only, or again while nobody who rules has looked at the answer: then the former attempt stays as
    an attempt, and the new one is the answer.

    Args:
        followed: by region, which changes were followed; what is missing nobody said.

    Raises:
        NotAllowed: the answer was looked at, or the slip was withdrawn.
    """
    with transaction.atomic():
        locked_picture(slip.picture_id)
        row = held(slip)
        event = answering_event(row)
        row.state = advance("slip", row.state, event)
        former = row.returned.number if row.returned else None
        attempt = add_attempt(row.picture, answer.name, answer.data, facts, person, answer.whole)
        AttemptSource.objects.create(attempt=attempt, source=row.attempt)
        row.returned, row.returned_at, row.reason = attempt, timezone.now(), ""
        row.elsewhere = answer.elsewhere
        row.save()
        row.locks.all().delete()
        for part in row.regions.all():
            part.outcome = None
            if followed and part.region_id in followed:
                part.followed = followed[part.region_id]
            part.save(update_fields=["followed", "outcome"])
        record(
            row.picture,
            person,
            f"slip {event}",
            f"slip {row.round}",
            before=None if former is None else {"attempt": former},
            after={
                "attempt": attempt.number,
                "elsewhere": "the same"
                if answer.elsewhere["same"]
                else f"{answer.elsewhere['differing']} pixels differ",
            },
        )
    return attempt
