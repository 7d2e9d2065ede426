"""Asking for a second look, answering as a guest, asking no longer; ruling that a thing stays."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.exceptions import ValidationError
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from jobs.models import Membership
from people.models import Person
from people.sessions import person_of
from regions.editing import leave_region
from regions.models import Region
from signing.clients_look import answer, ask
from verdicts.models import Cell, SecondLook
from verdicts.seconds import withdraw_second

from . import serializers as shape
from .asking import size_asked, validated
from .permissions import Rules
from .remark_shapes import remark_of
from .shapes import bench_of

_SIZE = [OpenApiParameter("size", int)]


class AskSecondView(APIView):
    """Ask somebody else to look at a cell."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.SecondAsked,
        responses={201: shape.Bench, 400: shape.Failure, 409: shape.Failure},
        parameters=_SIZE,
        operation_id="ask_second",
    )
    def post(self, request: Request, pk: int) -> Response:
        cell = get_object_or_404(
            Cell.objects.visible_to(person_of(request)).select_related("attempt__picture__job"),
            pk=pk,
        )
        self.check_object_permissions(request, cell)
        given = validated(shape.SecondAsked, request)
        picture = cell.attempt.picture
        size = size_asked(request, picture)
        asked = Person.objects.filter(
            pk__in=Membership.objects.filter(job=picture.job).values("person"), pk=given["person"]
        ).first()
        if asked is None:
            raise ValidationError("There is no such person in this job.")
        ask(cell, asked, given["words"], person_of(request))
        return Response(bench_of(picture, person_of(request), size), 201)


class SecondView(APIView):
    """Ask no longer."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        responses={200: shape.Bench, 409: shape.Failure},
        parameters=_SIZE,
        operation_id="withdraw_second",
    )
    def delete(self, request: Request, pk: int) -> Response:
        look = get_object_or_404(
            SecondLook.objects.visible_to(person_of(request)).select_related(
                "cell__attempt__picture__job"
            ),
            pk=pk,
        )
        self.check_object_permissions(request, look.cell)
        picture = look.cell.attempt.picture
        size = size_asked(request, picture)
        withdraw_second(look, person_of(request))
        return Response(bench_of(picture, person_of(request), size))


class AnswerSecondView(APIView):
    """A guest answers what they were asked, in words."""

    @extend_schema(
        request=shape.Words,
        responses={201: shape.RemarkOf, 400: shape.Failure, 409: shape.Failure},
        operation_id="answer_second",
    )
    def post(self, request: Request, pk: int) -> Response:
        look = get_object_or_404(
            SecondLook.objects.filter(asked=person_of(request)).select_related(
                "cell__attempt__picture__job", "cell__region__current"
            ),
            pk=pk,
        )
        given = validated(shape.Words, request)
        return Response(remark_of(answer(look, given["words"], person_of(request))), 201)


class LeaveRegionView(APIView):
    """Rule that the thing stays."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.LeftAsked,
        responses={200: shape.Bench, 400: shape.Failure},
        parameters=_SIZE,
        operation_id="leave_region",
    )
    def post(self, request: Request, pk: int) -> Response:
        region = get_object_or_404(
            Region.objects.visible_to(person_of(request)).select_related("picture__job"), pk=pk
        )
        self.check_object_permissions(request, region)
        given = validated(shape.LeftAsked, request)
        size = size_asked(request, region.picture)
        leave_region(region, person_of(request), given["words"])
        return Response(bench_of(region.picture, person_of(request), size))
