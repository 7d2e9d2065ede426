"""A new original for a picture: which regions it touches, and taking it."""

from __future__ import annotations

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers as s
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.response import Response

from arrivals.bringing import incoming_state
from arrivals.models import Arrival
from arrivals.renewing import ask_new_original, renewal_of
from jobs.models import Picture
from people.sessions import person_of

from . import serializers as shape
from .asking import asked_whole, validated
from .of_picture import OfPicture


class TouchedOf(shape.Plain):
    region = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    touched = s.BooleanField(help_text="in it or right around it the two originals differ")
    ruled = s.IntegerField(help_text="how many rulings stand on it")


class RenewalOf(shape.Plain):
    state = s.CharField(help_text="working, done, failed; ask again while it is working")
    fits = s.BooleanField()
    reason = s.CharField()
    regions = TouchedOf(many=True)


class RenewalAsked(shape.Plain):
    arrival = shape.Whole()
    touched = shape.Bounded(
        child=shape.Whole(),
        max_length=500,
        help_text="regions on which nothing that was ruled counts any more",
    )


def _regions(picture: Picture, touched: list[int]) -> list[dict[str, Any]]:
    ruled: dict[int, int] = {}
    for region in (
        picture.regions.filter(cells__current__isnull=False)
        .exclude(cells__current__ruling="taken back")
        .values_list("pk", flat=True)
    ):
        ruled[region] = ruled.get(region, 0) + 1
    return [
        {
            "region": row.pk,
            "number": row.number,
            "name": row.name,
            "touched": row.pk in touched,
            "ruled": ruled.get(row.pk, 0),
        }
        for row in picture.regions.order_by("number")
    ]


class OriginalView(OfPicture):
    """What a new original would touch; taking it in the former one's place."""

    @extend_schema(
        responses=RenewalOf,
        operation_id="renewal",
        parameters=[OpenApiParameter("arrival", int, required=True)],
    )
    def get(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        number = asked_whole(request, "arrival")
        if number is None:
            raise ValidationError("A file is needed.")
        found = renewal_of(picture, self._arrival(picture, number))
        touched = found.pop("touched")
        return Response({**found, "regions": _regions(picture, touched)})

    @extend_schema(
        request=RenewalAsked,
        responses={202: shape.BroughtIn, 400: shape.Failure},
        operation_id="renew_original",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        given = validated(RenewalAsked, request)
        arrival = self._arrival(picture, given["arrival"])
        made = ask_new_original(picture, arrival, given["touched"], person_of(request))
        return Response(incoming_state(made), 202)

    def _arrival(self, picture: Picture, number: int) -> Arrival:
        found: Arrival = get_object_or_404(Arrival.objects.filter(job=picture.job_id), pk=number)
        return found
