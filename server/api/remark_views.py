"""Guests' remarks on what was released to them, and the answers."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import ValidationError
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from jobs.models import Release
from people.sessions import person_of
from signing.models import Remark
from signing.remarking import AsFlaw, add_remark, answer_remark

from . import serializers as shape
from .asking import validated
from .permissions import Rules
from .remark_shapes import remark_of


class RemarksView(APIView):
    """A guest says something of a picture that was released to them."""

    @extend_schema(
        request=shape.RemarkAsked,
        responses={201: shape.RemarkOf, 400: shape.Failure},
        operation_id="make_remark",
    )
    def post(self, request: Request, pk: int) -> Response:
        release = get_object_or_404(
            Release.objects.filter(person=person_of(request)).select_related(
                "picture__job", "attempt"
            ),
            pk=pk,
        )
        given = validated(shape.RemarkAsked, request)
        made = add_remark(release, person_of(request), given["words"], given["place"])
        return Response(remark_of(made), status=201)


class AnswerRemarkView(APIView):
    """Answer a remark, or make it a person's finding."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.RemarkAnswered,
        responses={200: shape.RemarkOf, 400: shape.Failure, 409: shape.Failure},
        operation_id="answer_remark",
    )
    def post(self, request: Request, pk: int) -> Response:
        remark = get_object_or_404(
            Remark.objects.visible_to(person_of(request)).select_related("picture__job"), pk=pk
        )
        self.check_object_permissions(request, remark)
        given = validated(shape.RemarkAnswered, request)
        flaw = None
        if given["kind"] is not None:
            if given["region"] is None:
                raise ValidationError("A finding lies in a region.")
            flaw = AsFlaw(given["region"], given["kind"], given["severity"])
        return Response(remark_of(answer_remark(remark, person_of(request), given["words"], flaw)))
