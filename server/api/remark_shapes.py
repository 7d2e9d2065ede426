"""Guests' remarks as the API says them."""

from __future__ import annotations

from typing import Any

from jobs.models import Picture
from people.models import Person
from signing.models import Remark


def remark_of(row: Remark) -> dict[str, Any]:
    return {
        "id": row.pk,
        "person": row.person.called,
        "words": row.words,
        "place": row.place,
        "attempt": row.attempt.number,
        "made_at": row.made_at,
        "answer": row.answer,
        "answered_by": row.answered_by.called if row.answered_by else None,
        "answered_at": row.answered_at,
        "kind": row.finding.kind if row.finding else None,
    }


_WITH = ("person", "attempt", "answered_by", "finding")


def remarks_of(picture: Picture) -> list[dict[str, Any]]:
    """All of a picture's, the oldest first."""
    return [remark_of(row) for row in picture.remarks.select_related(*_WITH)]


def remarks_by_picture(pictures: list[int], person: Person) -> dict[int, list[dict[str, Any]]]:
    """A guest's own, by picture; in one query."""
    found: dict[int, list[dict[str, Any]]] = {}
    rows = Remark.objects.filter(picture__in=pictures, person=person)
    for row in rows.select_related(*_WITH):
        found.setdefault(row.picture_id, []).append(remark_of(row))
    return found
