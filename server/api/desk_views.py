"""The Desk: which pictures need a decision now. Read from stored states, in a number of queries
that does not grow with the pictures.
"""

from __future__ import annotations

import hashlib
from typing import Any

from django.db.models import Avg, Count, Max, Q, QuerySet, Sum
from django.db.models.functions import Coalesce
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from attempts.models import Method
from desk.looking import DONE, asked_of, in_order, looked_for, states_of
from jobs.models import STAFF, Membership, Picture
from ledger.models import PictureState
from looks.models import Sighting
from people.models import Person
from people.sessions import person_of
from signing.models import SignOff
from work.models import Work

from . import serializers as shape
from .asking import asked_whole

PAGE = 100


def _stamp(states: QuerySet[PictureState], person: Person) -> str:
    """Changes with whatever the Desk shows: states, running checks, what was seen."""
    known = states.order_by().aggregate(n=Count("pk"), newest=Max("made_at"), entry=Max("entry"))
    work = Work.objects.filter(kind="check", state__in=("waiting", "running")).aggregate(
        n=Count("pk"), part=Avg("progress"), newest=Max("pk")
    )
    seen = Sighting.objects.filter(person=person).aggregate(newest=Max("pk"))
    shown = repr(
        [*known.values(), work["n"], round(work["part"] or 0.0, 2), work["newest"], *seen.values()]
    )
    return hashlib.sha256(shown.encode()).hexdigest()[:16]


class DeskView(APIView):
    """The pictures that need a decision, the nearest deadline first, by pages."""

    @extend_schema(
        responses=shape.Desk,
        operation_id="desk",
        parameters=[
            OpenApiParameter("start", int, description="where the page begins"),
            OpenApiParameter("since", str, description="the `stamp` of what one has"),
            shape.DeskAsked,
        ],
    )
    def get(self, request: Request) -> Response:
        start = asked_whole(request, "start") or 0
        asked = shape.DeskAsked(data=request.query_params)
        asked.is_valid(raise_exception=True)
        states = states_of(person_of(request))
        stamp = _stamp(states, person_of(request))
        if request.query_params.get("since") == stamp:
            empty = dict.fromkeys(("total", "done", "undecided", "awaiting"), 0)
            return Response(
                {
                    "pictures": [],
                    **empty,
                    "matching": 0,
                    "jobs": [],
                    "kinds": [],
                    "methods": [],
                    "supervisors": [],
                    "more": None,
                    "stamp": stamp,
                    "changed": False,
                }
            )
        counts = states.order_by().aggregate(
            total=Count("pk"),
            done=Count("pk", filter=DONE),
            awaiting=Count("pk", filter=Q(undecided__gt=0) | Q(state="changed outside")),
        )
        undecided = states.order_by().aggregate(n=Coalesce(Sum("undecided"), 0))["n"]
        given = asked.validated_data
        wanted = in_order(looked_for(states, given, person_of(request)), given["sort"])
        matching = wanted.order_by().count()
        rows = list(wanted[start : start + PAGE])
        keys = [row.picture_id for row in rows]
        running: dict[int, dict[str, Any]] = {
            found["picture"]: dict(found)
            for found in Work.objects.filter(
                picture__in=keys, kind="check", state__in=("waiting", "running")
            )
            .order_by()
            .values("picture")
            .annotate(n=Count("pk"), part=Avg("progress"))
        }
        seen = set(
            Sighting.objects.filter(person=person_of(request), picture__in=keys).values_list(
                "picture_id", flat=True
            )
        )
        asks = {
            found["cell__attempt__picture"]: found["n"]
            for found in asked_of(person_of(request)).annotate(n=Count("pk"))
        }
        roles = dict(
            Membership.objects.filter(
                person=person_of(request), job__in={row.picture.job_id for row in rows}
            ).values_list("job_id", "role")
        )
        signed = set(
            SignOff.objects.filter(standing__in=keys).values_list("standing_id", flat=True)
        )
        return Response(
            {
                "pictures": [
                    {
                        **_row(row, running.get(row.picture_id), seen, roles),
                        "signed": row.picture_id in signed,
                        "asks_you": asks.get(row.picture_id, 0),
                    }
                    for row in rows
                ],
                **counts,
                "undecided": undecided,
                "matching": matching,
                "jobs": [
                    {"id": pk, "name": name}
                    for pk, name in states.order_by("picture__job__name", "picture__job")
                    .values_list("picture__job", "picture__job__name")
                    .distinct()
                ],
                "kinds": list(
                    states.exclude(worst_kind="")
                    .order_by("worst_kind")
                    .values_list("worst_kind", flat=True)
                    .distinct()
                ),
                "methods": _methods(states),
                "supervisors": _supervisors(person_of(request)),
                "more": start + PAGE if start + PAGE < matching else None,
                "stamp": stamp,
                "changed": True,
            }
        )


def _methods(states: QuerySet[PictureState]) -> list[str]:
    """By which methods the attempts of some pictures are."""
    return list(
        Method.objects.filter(
            runs__attempts__picture__in=states.order_by().values("picture"),
            runs__attempts__withdrawn_at=None,
        )
        .order_by("name")
        .values_list("name", flat=True)
        .distinct()
    )


def _supervisors(person: Person) -> list[dict[str, Any]]:
    """Who decides in the jobs that somebody works on."""
    jobs = Membership.objects.filter(person=person, role__in=STAFF).values("job")
    rows = Person.objects.filter(
        memberships__job__in=jobs, memberships__role=Membership.Role.SUPERVISOR
    ).distinct()
    return [named(row) for row in rows.order_by("name", "pk")]


def named(person: Person) -> dict[str, Any]:
    return {"id": person.pk, "name": person.called}


def _row(
    row: PictureState,
    running: dict[str, Any] | None,
    seen: set[int],
    roles: dict[int, str],
) -> dict[str, Any]:
    picture: Picture = row.picture
    return {
        "id": picture.pk,
        "number": picture.number,
        "name": picture.name,
        "job": picture.job.name,
        "role": roles[picture.job_id],
        "deadline": picture.job.deadline,
        "charge": named(picture.charge.person) if hasattr(picture, "charge") else None,
        "state": row.state,
        "regions": row.regions,
        "undecided": row.undecided,
        "unexamined": row.unexamined,
        "attempts": row.attempts,
        "worst": row.worst_word or None,
        "worst_kind": row.worst_kind or None,
        "worst_severity": row.worst_severity,
        "checking": running["n"] if running else 0,
        "progress": running["part"] if running else None,
        "failed": row.failed,
        # Only what the person has opened already, so that a cold look stays possible.
        "crop": f"/api/pictures/{picture.pk}/crop/" if picture.pk in seen else None,
    }
