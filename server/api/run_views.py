"""Runs: what is undecided, one after another across pictures."""

from __future__ import annotations

from dataclasses import asdict
from statistics import median
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from people.sessions import person_of
from runs.going import go_back, gone_by, own_agreement, plain, start_run, stops_of
from runs.models import Run, RunStop
from zweiblick_core.rules.likely import agreement, hasty

from . import run_serializers as shape
from .asking import validated
from .serializers import Failure


def run_of(run: Run) -> dict[str, Any]:
    """A run as the API says it, in a number of queries that does not grow with it."""
    stops = stops_of(run)
    gone = gone_by(stops)
    seen = [plain(stop) for stop in stops]
    took = [stop.seconds for stop in stops if stop.seconds is not None]
    return {
        "id": run.pk,
        "order": run.asked.get("order", "worst"),
        "stops": [_stop(stop, stop.pk in gone) for stop in stops],
        "next": next(
            (stop.number for stop in stops if not stop.ruled and stop.pk not in gone), None
        ),
        "agreement": agreement(seen).to_dict(),
        "own": asdict(own_agreement(run.person)),
        "hasty": hasty(seen),
        "seconds": round(median(took), 1) if took else None,
    }


def _stop(stop: RunStop, gone: bool) -> dict[str, Any]:
    # What was likely stays unsaid until it was asked in full.
    # Of what is shown again nothing was likely, before or after.
    shown = (not stop.in_full or bool(stop.ruled)) and not stop.again
    return {
        "number": stop.number,
        "cell": stop.cell_id,
        "picture": stop.cell.attempt.picture_id,
        "name": stop.cell.attempt.picture.name,
        "region": stop.cell.region.number,
        "attempt": stop.cell.attempt.number,
        "offered": {
            "ruling": stop.likely,
            "chance": stop.chance,
            "passed": stop.passed,
            "of": stop.of,
        }
        if shown
        else None,
        "in_full": stop.in_full,
        "ruled": stop.ruled or None,
        "gone": gone,
    }


class RunsView(APIView):
    """Start a run through what is undecided."""

    @extend_schema(
        request=shape.RunAskedFor,
        responses={201: shape.RunOf, 400: Failure},
        operation_id="start_run",
    )
    def post(self, request: Request) -> Response:
        return Response(
            run_of(start_run(person_of(request), validated(shape.RunAskedFor, request))), 201
        )


class RunView(APIView):
    """How a run of one's own stands."""

    @extend_schema(responses=shape.RunOf, operation_id="run")
    def get(self, request: Request, pk: int) -> Response:
        return Response(run_of(get_object_or_404(Run.objects.of(person_of(request)), pk=pk)))


class RunBackView(APIView):
    """Take the run's last ruling back."""

    @extend_schema(
        responses={200: shape.RunOf, 400: Failure, 412: Failure}, operation_id="run_back"
    )
    def delete(self, request: Request, pk: int) -> Response:
        run = get_object_or_404(Run.objects.of(person_of(request)), pk=pk)
        go_back(run, person_of(request))
        return Response(run_of(run))
