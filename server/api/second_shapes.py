"""Second looks as the API says them, and what whoever was asked must not see before they answered."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.db.models import Q

from jobs.models import Membership, Picture
from ledger.book import Ledger
from people.models import Person
from regions.models import Region
from runs.going import hidden_from
from verdicts.models import Cell, SecondLook


def second_of(look: SecondLook, person: Person) -> dict[str, Any]:
    """A second look, with what its asker had ruled once it is answered."""
    return {
        "id": look.pk,
        "cell": look.cell_id,
        "asked": look.asked.called,
        "mine": look.asked_id == person.pk,
        "by": look.person.called,
        "words": look.words,
        "at": look.made_at,
        "ruling": look.ruling or None,
        "size": look.size.name if look.size else None,
        "answer": look.answer,
        "answered_at": look.answered_at,
    }


def asked_in(book: Ledger, person: Person) -> set[int]:
    """Regions that somebody was asked about and has not answered."""
    return {
        region
        for region, look in book.second_looks.items()
        if look.answered_at is None and look.asked_id == person.pk
    }


@dataclass(frozen=True)
class Unseen:
    """What somebody does not see of a picture's rulings.

    Attributes:
        asked: regions that they were asked about: they see no ruling but their own there.
        again: regions that are shown to them once more in a run: they look as they did before
            anybody ruled.
    """

    person: Person
    asked: set[int]
    again: set[int]

    @property
    def regions(self) -> set[int]:
        """Regions that look undecided to them."""
        return self.asked | self.again

    def shows(self, cell: Cell) -> bool:
        """Whether they see the cell's verdict."""
        if cell.current is None or cell.region_id in self.again:
            return False
        return cell.region_id not in self.asked or cell.current.person_id == self.person.pk

    def state(self, book: Ledger, cell: Cell) -> str:
        """A cell's state as they see it."""
        if cell.region_id in self.again:
            return "undecided"
        if cell.region_id not in self.asked:
            return book.cell_state(cell)
        asked = book.second_looks[cell.region_id].cell_id == cell.pk
        return "undecided" if asked else "not needed"


def shows(cell: Cell, person: Person) -> bool:
    """Whether somebody sees a cell's verdict, where no ledger is at hand."""
    asked = SecondLook.objects.waiting().filter(asked=person, cell__region=cell.region_id)
    regions = set(asked.values_list("cell__region", flat=True))
    return Unseen(person, regions, hidden_from(person, cell.attempt.picture)).shows(cell)


def hidden_entries(picture: Picture, person: Person) -> Q:
    """History entries that would say how others ruled, where one was asked for an own look."""
    hidden = Q(pk__in=())
    for region in (
        SecondLook.objects.waiting()
        .filter(cell__attempt__picture=picture, asked=person)
        .values_list("cell__region__number", flat=True)
    ):
        hidden |= Q(
            what__in=("verdict", "verdict taken back", "words on a verdict", "pass carried over"),
            about__startswith=f"region {region} in attempt ",
        ) & ~Q(person=person)
    return hidden


def left_of(picture: Picture) -> list[dict[str, Any]]:
    """Regions of which it was ruled that the thing stays."""
    rows = Region.every.filter(picture=picture).exclude(left_by=None).select_related("left_by")
    return [
        {
            "id": row.pk,
            "number": row.number,
            "name": row.name,
            "person": row.left_by.called if row.left_by else "",
            "words": row.left_words,
            "at": row.withdrawn_at,
        }
        for row in rows.order_by("number")
    ]


def askable(picture: Picture, person: Person) -> list[dict[str, Any]]:
    """Whose eyes somebody can ask for: the job's other supervisors and its guests."""
    rows = (
        Membership.objects.filter(
            job=picture.job_id, role__in=(Membership.Role.SUPERVISOR, Membership.Role.GUEST)
        )
        .exclude(person=person)
        .select_related("person")
        .order_by("-role", "person__name")
    )
    return [{"id": row.person_id, "name": row.person.called, "role": row.role} for row in rows]


def questions_by_attempt(attempts: list[int], person: Person) -> dict[int, list[dict[str, Any]]]:
    """What a guest is asked, by attempt; in one query."""
    found: dict[int, list[dict[str, Any]]] = {}
    for look in (
        SecondLook.objects.standing()
        .filter(cell__attempt__in=attempts, asked=person)
        .select_related("person", "cell__region__current")
    ):
        found.setdefault(look.cell.attempt_id, []).append(
            {
                "id": look.pk,
                "words": look.words,
                "by": look.person.called,
                "bbox": list(look.cell.region.drawn.bbox),
                "answered": look.answered_at is not None,
            }
        )
    return found
