"""The same region in near-identical pictures: looked at side by side, ruled on at once."""

from __future__ import annotations

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers as s
from rest_framework.exceptions import ValidationError
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from attempts.models import Attempt
from people.models import Person
from people.sessions import person_of
from regions.models import Region
from siblings.ruling import Counterpart, counterparts, rule_together
from verdicts.models import Cell

from . import serializers as shape
from .asking import asked_whole, validated
from .permissions import Rules
from .second_shapes import shows
from .shapes import image_of, sizes_of, verdict_of


class SiblingOf(shape.Plain):
    picture = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    region = s.IntegerField(help_text="its number")
    region_name = s.CharField()
    bbox = s.ListField(child=s.FloatField())
    attempt = s.IntegerField(help_text="its number")
    attempt_id = s.IntegerField()
    method = s.CharField()
    cell = s.IntegerField()
    revision = s.IntegerField()
    verdict = shape.VerdictOf(allow_null=True)
    original = shape.ImageOf()
    image = shape.ImageOf()


class SiblingsOf(shape.Plain):
    region = s.IntegerField()
    picture = s.IntegerField()
    may_rule = s.BooleanField()
    sizes = shape.Size(many=True)
    siblings = SiblingOf(many=True, help_text="the region itself first")


class CellSeen(shape.Plain):
    cell = shape.Whole()
    revision = shape.Whole()


class RuledTogether(shape.RulingAsked):
    cells = shape.Bounded(child=CellSeen(), min_length=1, max_length=100)


def _of(one: Counterpart, person: Person) -> dict[str, Any]:
    attempt = one.cell.attempt
    attempt.image.picture = one.picture
    return {
        "picture": one.picture.pk,
        "number": one.picture.number,
        "name": one.picture.name,
        "region": one.region.number,
        "region_name": one.region.name,
        "bbox": list(one.region.drawn.bbox),
        "attempt": attempt.number,
        "attempt_id": attempt.pk,
        "method": attempt.run.method.name,
        "cell": one.cell.pk,
        "revision": one.cell.revision,
        "verdict": verdict_of(one.cell.current) if shows(one.cell, person) else None,
        "original": image_of(one.picture.original),
        "image": image_of(attempt.image),
    }


class _OfRegion(APIView):
    def region(self, request: Request, pk: int) -> Region:
        found: Region = get_object_or_404(
            Region.objects.visible_to(person_of(request)).select_related("picture__job", "current"),
            pk=pk,
        )
        return found

    def said(self, request: Request, region: Region, attempt: Attempt) -> Response:
        cell = get_object_or_404(
            Cell.objects.select_related(
                "attempt__image", "attempt__run__method", "current__person"
            ),
            attempt=attempt,
            region=region,
        )
        rows = [Counterpart(region.picture, region, cell), *counterparts(region, attempt)]
        return Response(
            {
                "region": region.pk,
                "picture": region.picture_id,
                "may_rule": Rules().has_object_permission(request, self, region),
                "sizes": sizes_of(region.picture, list(region.picture.job.sizes.all())),
                "siblings": [_of(one, person_of(request)) for one in rows],
            }
        )

    def attempt(self, region: Region, number: int | None) -> Attempt:
        found: Attempt = get_object_or_404(
            Attempt.objects.filter(picture=region.picture).select_related("run"), number=number
        )
        return found


_ATTEMPT = [OpenApiParameter("attempt", int, required=True, description="its number")]


class SiblingsView(_OfRegion):
    """A region and its counterparts in near-identical pictures."""

    @extend_schema(responses=SiblingsOf, parameters=_ATTEMPT, operation_id="siblings")
    def get(self, request: Request, pk: int) -> Response:
        region = self.region(request, pk)
        return self.said(request, region, self.attempt(region, asked_whole(request, "attempt")))


class RuleSiblingsView(_OfRegion):
    """Rule on several of them at once, all or none. Only what was shown is named."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=RuledTogether,
        responses={200: SiblingsOf, 400: shape.Failure, 412: shape.Failure},
        parameters=_ATTEMPT,
        operation_id="rule_siblings",
    )
    def post(self, request: Request, pk: int) -> Response:
        region = self.region(request, pk)
        self.check_object_permissions(request, region)
        attempt = self.attempt(region, asked_whole(request, "attempt"))
        given = validated(RuledTogether, request)
        size = None
        if given["ruling"] == "passes at size":
            size = region.picture.job.sizes.filter(pk=given.get("size") or 0).first()
            if size is None:
                raise ValidationError("“Passes at size” needs one of the job's delivery sizes.")
        seen = {one["cell"]: one["revision"] for one in given["cells"]}
        rule_together(region, seen, given["ruling"], size, person_of(request))
        return self.said(request, region, attempt)
