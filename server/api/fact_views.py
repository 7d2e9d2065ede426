"""Correcting what is known of attempts and pictures, withdrawing what came in by mistake."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from attempts.correcting import (
    Correction,
    correct_attempt,
    rename_picture,
    take_attempt_in_again,
    take_picture_in_again,
    withdraw_attempt,
    withdraw_picture,
)
from attempts.models import Attempt
from jobs.models import Picture
from people.sessions import person_of
from zweiblick_core.rules.rights import TERMS

from . import fact_serializers as facts
from . import serializers as shape
from .asking import size_asked, validated
from .crew_serializers import JobSheet
from .crew_views import sheet_of
from .fact_shapes import methods_of
from .intake_views import supervised
from .permissions import Rules
from .shapes import bench_of

_SIZE = [OpenApiParameter("size", int)]
_REFUSED = {400: shape.Failure}


class _OfAttempt(APIView):
    """Only a supervisor corrects; the answer is the whole Bench."""

    permission_classes = [IsAuthenticated, Rules]

    def attempt(self, request: Request, pk: int) -> Attempt:
        found: Attempt = get_object_or_404(
            Attempt.every.visible_to(person_of(request)).select_related("picture__job"), pk=pk
        )
        self.check_object_permissions(request, found)
        return found

    def bench(self, request: Request, attempt: Attempt) -> Response:
        size = size_asked(request, attempt.picture)
        return Response(bench_of(attempt.picture, person_of(request), size))


class AttemptFactsView(_OfAttempt):
    """Correct what is known of how an attempt came to be."""

    @extend_schema(
        request=facts.FactsAsked,
        responses={200: shape.Bench, **_REFUSED},
        parameters=_SIZE,
        operation_id="correct_attempt",
    )
    def put(self, request: Request, pk: int) -> Response:
        attempt = self.attempt(request, pk)
        given = validated(facts.FactsAsked, request)
        settings = dict(given["settings"])
        if given["terms"]:
            settings["terms"] = given["terms"]
        wanted = Correction(
            given["method"],
            given["kind"],
            given["maker"],
            given["seconds"],
            given["cost"],
            settings,
            given["made_from"],
            given["left_house"],
            given["cropped_when"],
        )
        correct_attempt(attempt, wanted, person_of(request))
        return self.bench(request, attempt)


class AttemptView(_OfAttempt):
    """Withdraw an attempt."""

    @extend_schema(
        responses={200: shape.Bench, **_REFUSED}, parameters=_SIZE, operation_id="withdraw_attempt"
    )
    def delete(self, request: Request, pk: int) -> Response:
        attempt = self.attempt(request, pk)
        withdraw_attempt(attempt, person_of(request))
        return self.bench(request, attempt)


class AttemptAgainView(_OfAttempt):
    """A withdrawn attempt stands again."""

    @extend_schema(
        request=None,
        responses=shape.Bench,
        parameters=_SIZE,
        operation_id="take_attempt_in_again",
    )
    def post(self, request: Request, pk: int) -> Response:
        attempt = self.attempt(request, pk)
        take_attempt_in_again(attempt, person_of(request))
        return self.bench(request, attempt)


class MethodsOfJobView(APIView):
    """The methods that are known, with what was said of each last in a job."""

    @extend_schema(responses=facts.MethodsOf, operation_id="methods_of_job")
    def get(self, request: Request, pk: int) -> Response:
        job = supervised(person_of(request), pk)
        return Response({"methods": methods_of(job), "terms": list(TERMS)})


class _OfJob(APIView):
    """The answer is the job's page."""

    permission_classes = [IsAuthenticated, Rules]

    def picture(self, request: Request, pk: int) -> Picture:
        found: Picture = get_object_or_404(
            Picture.every.worked_by(person_of(request)).select_related("job"), pk=pk
        )
        self.check_object_permissions(request, found)
        return found

    def sheet(self, request: Request, picture: Picture) -> Response:
        return Response(sheet_of(picture.job, person_of(request)))


class PictureView(_OfJob):
    """Rename or withdraw a picture."""

    @extend_schema(
        request=facts.PictureNamed,
        responses={200: JobSheet, **_REFUSED},
        operation_id="rename_picture",
    )
    def patch(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        rename_picture(picture, validated(facts.PictureNamed, request)["name"], person_of(request))
        return self.sheet(request, picture)

    @extend_schema(responses={200: JobSheet, **_REFUSED}, operation_id="withdraw_picture")
    def delete(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        withdraw_picture(picture, person_of(request))
        return self.sheet(request, picture)


class PictureAgainView(_OfJob):
    """A withdrawn picture stands again."""

    @extend_schema(request=None, responses=JobSheet, operation_id="take_picture_in_again")
    def post(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        take_picture_in_again(picture, person_of(request))
        return self.sheet(request, picture)
