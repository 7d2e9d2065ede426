"""What guests say of what was released to them: kept as they said it, and answered."""

from __future__ import annotations

from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from history.models import record
from jobs.models import Release
from looks.own import add_own
from people.models import Person
from verdicts.models import Cell
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import NotAllowed

from .models import Remark

#: So many remarks a guest can make on one picture.
MOST = 200
#: A place is a point; as a flaw it is outlined so far around it: a share of the longer side, and
#: pixels at least.
_AROUND, _LEAST = 0.01, 12


@dataclass(frozen=True)
class AsFlaw:
    """A remark that becomes a person's finding: in which region, of which kind, how bad."""

    region: int
    kind: str
    severity: str


@transaction.atomic
def add_remark(release: Release, person: Person, words: str, place: list[float] | None) -> Remark:
    """Keep what a guest says.

    Args:
        place: (x, y) in the picture, pixels; None: of the whole.

    Raises:
        Refused: it says nothing, lies outside the picture, or there are too many.
    """
    if not words.strip():
        raise Refused("Say it in words.")
    original = release.picture.original
    if place is not None and not (
        0 <= place[0] <= original.width and 0 <= place[1] <= original.height
    ):
        raise Refused("That place lies outside the picture.")
    if release.picture.remarks.filter(person=person).count() >= MOST:
        raise Refused(f"There are {MOST} remarks of yours on this picture already.")
    made = Remark.objects.create(
        picture=release.picture,
        attempt=release.attempt,
        person=person,
        words=words.strip(),
        place=place,
    )
    record(
        release.picture,
        person,
        "remark made",
        f"attempt {release.attempt.number}",
        after={"words": made.words, "place": place},
    )
    return made


@transaction.atomic
def answer_remark(remark: Remark, person: Person, words: str, flaw: AsFlaw | None) -> Remark:
    """Answer a remark; once. With `flaw` it becomes a person's finding too.

    Raises:
        Refused: it is answered with nothing, or cannot become that finding.
        NotAllowed: it is answered already.
    """
    row = (
        Remark.objects.select_for_update()
        .select_related("picture__job", "attempt", "person")
        .get(pk=remark.pk)
    )
    if row.answered_at is not None:
        raise NotAllowed("this remark is answered already")
    if not words.strip() and flaw is None:
        raise Refused("Say it in words.")
    if flaw is not None:
        row.finding = add_own(
            _cell(row, flaw.region), person, flaw.kind, flaw.severity, None, row.words, _ring(row)
        )
    row.answer, row.answered_by, row.answered_at = words.strip(), person, timezone.now()
    row.save()
    record(
        row.picture,
        person,
        "remark answered",
        f"{row.person.called}: {row.words}"[:180],
        after={"words": row.answer, "flaw": flaw.kind if flaw else None},
    )
    return row


def _cell(remark: Remark, region: int) -> Cell:
    cell = Cell.objects.filter(attempt=remark.attempt, region=region).first()
    if cell is None:
        raise Refused("This picture has no such region.")
    return cell


def _ring(remark: Remark) -> list[list[float]]:
    if remark.place is None:
        raise Refused("This remark has no place that could be marked; answer it in words.")
    original = remark.picture.original
    reach = max(_LEAST, _AROUND * max(original.width, original.height))
    x, y = remark.place
    return [[x + dx * reach, y + dy * reach] for dx, dy in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
