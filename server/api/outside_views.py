"""The outside service: what would leave, ordering, giving up, the job's budget."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from jobs.models import Job, Membership
from outside.asking import ask_again, ask_order, cancel, set_budget
from outside.models import Order
from people.sessions import person_of

from . import outside_serializers as shape
from .asking import asked_whole, validated
from .of_picture import OfPicture, attempt_of, region_of
from .outside_shapes import outside_of
from .serializers import Failure


class OutsideView(OfPicture):
    """What the service offers for a region, and what would leave; ordering it."""

    @extend_schema(
        responses=shape.RemovalOf,
        operation_id="outside",
        parameters=[
            OpenApiParameter("region", int, description="what is to be removed"),
            OpenApiParameter("base", int, description="an attempt; without: the original"),
        ],
    )
    def get(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        region, base = asked_whole(request, "region"), asked_whole(request, "base")
        return Response(
            outside_of(
                picture,
                None if region is None else region_of(picture, region),
                None if base is None else attempt_of(picture, base),
            )
        )

    @extend_schema(
        request=shape.OrderAsked,
        responses={202: shape.RemovalOf, 400: Failure},
        operation_id="order_outside",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        given = validated(shape.OrderAsked, request)
        region = region_of(picture, given["region"])
        base = attempt_of(picture, given["base"]) if given["base"] is not None else None
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
        given = validated(shape.BudgetAsked, request)
        set_budget(job, given["credits"], person)
        return Response(given)
