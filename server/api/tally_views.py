"""The Tally: which method holds on what, and what it takes."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from people.sessions import person_of
from signing.records import table
from tally.counting import Asked, supervised, tally_of
from zweiblick_core.rules.advice import CHANGES

from . import tally_serializers as shape

COLUMNS = ("name", "backdrop", "held", "of", "low", "high")


def _tallied(request: Request) -> dict[str, Any]:
    asked = shape.TallyAsked(data=request.query_params.dict())
    asked.is_valid(raise_exception=True)
    given = Asked(**asked.validated_data)
    if given.job is not None:
        get_object_or_404(supervised(person_of(request)), pk=given.job)
    return tally_of(person_of(request), given)


class TallyView(APIView):
    """Of the jobs that one supervises; empty for everybody else."""

    @extend_schema(parameters=[shape.TallyAsked], responses=shape.TallyOf, operation_id="tally")
    def get(self, request: Request) -> Response:
        found = _tallied(request)
        for one in found["advice"]:
            one["words"] = CHANGES.get(one["what"], one["what"])
        return Response(found)


class TallyTableView(APIView):
    """What held at the first attempt, as a CSV."""

    @extend_schema(
        parameters=[shape.TallyAsked],
        responses={(200, "text/csv"): OpenApiTypes.BINARY},
        operation_id="tally_table",
    )
    def get(self, request: Request) -> HttpResponse:
        rows = [{**row, "held": row["count"]} for row in _tallied(request)["rows"]]
        return HttpResponse(
            table(COLUMNS, rows),
            content_type="text/csv; charset=utf-8",
            headers={"Content-Disposition": 'attachment; filename="tally.csv"'},
        )
