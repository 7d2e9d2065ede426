"""The outside service: what would leave, ordering, giving up, the job's budget."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from attempts.models import Attempt
from jobs.models import Job, Membership, Picture
from outside.asking import ask_again, ask_order, cancel, set_budget
from outside.models import Order
from people.sessions import person_of
from regions.models import Region

from . import outside_serializers as shape
from .asking import asked_whole
from .outside_shapes import outside_of
from .permissions import Rules
from .serializers import Failure


def _picture(request: Request, pk: int) -> Picture:
    rows = Picture.objects.worked_by(person_of(request)).select_related("job")
    return get_object_or_404(rows, pk=pk)


def _of(
    picture: Picture, region: int | None, base: int | None
) -> tuple[Region | None, Attempt | None]:
    """A picture's region and attempt by their ids; neither where none is asked for."""
    found, attempt = None, None
    if region is not None:
        rows = Region.objects.filter(picture=picture).select_related("current")
        found = get_object_or_404(rows, pk=region)
    if base is not None:
        attempt = get_object_or_404(
            Attempt.objects.select_related("image__blob"), picture=picture, pk=base
        )
    return found, attempt


class OutsideView(APIView):
    """What the service offers for a region, and what would leave; ordering it."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        responses=shape.RemovalOf,
        operation_id="outside",
        parameters=[
            OpenApiParameter("region", int, description="what is to be removed"),
            OpenApiParameter("base", int, description="an attempt; without: the original"),
        ],
    )
    def get(self, request: Request, pk: int) -> Response:
        picture = _picture(request, pk)
        self.check_object_permissions(request, picture)
        region, base = _of(picture, asked_whole(request, "region"), asked_whole(request, "base"))
        return Response(outside_of(picture, region, base))

    @extend_schema(
        request=shape.OrderAsked,
        responses={202: shape.RemovalOf, 400: Failure},
        operation_id="order_outside",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = _picture(request, pk)
        self.check_object_permissions(request, picture)
        asked = shape.OrderAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        region, base = _of(picture, given["region"], given["base"])
        if region is None:
            raise NotFound
        ask_order(picture, region, base, given["tier"], given["box"], person_of(request))
        return Response(outside_of(picture, region, base), 202)


class OrderView(APIView):
    """Give an order up; go on with one that failed."""

    def order(self, request: Request, pk: int) -> Order:
        rows = Order.objects.visible_to(person_of(request)).select_related("picture__job")
        return get_object_or_404(rows, pk=pk)

    @extend_schema(responses={200: shape.RemovalOf, 409: Failure}, operation_id="cancel_order")
    def delete(self, request: Request, pk: int) -> Response:
        order = cancel(self.order(request, pk), person_of(request))
        return Response(outside_of(order.picture, None, None))

    @extend_schema(
        request=None,
        responses={202: shape.RemovalOf, 400: Failure, 409: Failure},
        operation_id="order_again",
    )
    def post(self, request: Request, pk: int) -> Response:
        order = ask_again(self.order(request, pk), person_of(request))
        return Response(outside_of(order.picture, None, None), 202)


class BudgetView(APIView):
    """How many credits a job may spend outside."""

    @extend_schema(
        request=shape.BudgetAsked,
        responses={200: shape.BudgetAsked, 400: Failure},
        operation_id="set_outside_budget",
    )
    def put(self, request: Request, pk: int) -> Response:
        person = person_of(request)
        job = get_object_or_404(
            Job.objects.filter(
                memberships__person=person, memberships__role=Membership.Role.SUPERVISOR
            ),
            pk=pk,
        )
        asked = shape.BudgetAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        set_budget(job, asked.validated_data["credits"], person)
        return Response(asked.validated_data)
