"""What somebody looks for on the Desk again and again, kept under a name."""

from __future__ import annotations

from django.http import Http404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers as s
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from people.models import DeskView
from people.sessions import person_of

from . import serializers as shape
from .asking import validated

#: So many a person keeps at most.
MOST = 30


class KeptOf(shape.Plain):
    id = s.IntegerField()
    name = s.CharField()
    looked = shape.DeskAsked()


class KeptAsked(shape.Plain):
    name = s.CharField(max_length=60)
    looked = shape.DeskAsked()


def _kept(request: Request) -> list[dict[str, object]]:
    rows = person_of(request).desk_views.all()
    return [{"id": row.pk, "name": row.name, "looked": row.looked} for row in rows]


class KeptViewsView(APIView):
    """One's own kept views; keeping one. A name that is kept already gets the new one."""

    @extend_schema(responses=KeptOf(many=True), operation_id="kept_views")
    def get(self, request: Request) -> Response:
        return Response(_kept(request))

    @extend_schema(
        request=KeptAsked,
        responses={201: KeptOf(many=True), 400: shape.Failure},
        operation_id="keep_view",
    )
    def post(self, request: Request) -> Response:
        given = validated(KeptAsked, request)
        mine = person_of(request).desk_views
        name = given["name"].strip()
        if not mine.filter(name=name).exists() and mine.count() >= MOST:
            raise ValidationError(f"{MOST} views are kept at most; forget one first.")
        mine.update_or_create(name=name, defaults={"looked": dict(given["looked"])})
        return Response(_kept(request), 201)


class KeptViewView(APIView):
    """Forget a kept view."""

    @extend_schema(responses={200: KeptOf(many=True)}, operation_id="forget_view")
    def delete(self, request: Request, pk: int) -> Response:
        if not DeskView.objects.filter(pk=pk, person=person_of(request)).delete()[0]:
            raise Http404
        return Response(_kept(request))
