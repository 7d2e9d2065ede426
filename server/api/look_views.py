"""Comparing many attempts of one region: the Spread, picks, blind pairs."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from looks.spread import choose, pair_for, pick, spread_of, unchoose
from rest_framework.exceptions import ValidationError
from rest_framework.permissions import IsAuthenticated
from rest_framework.response import Response
from rest_framework.views import APIView

from jobs.models import DeliverySize, Picture
from regions.models import Region

from . import serializers as shape
from .permissions import Rules
from .shapes import image_of


def size_asked(request, picture: Picture) -> DeliverySize | None:
    """The delivery size of the query, or None for the job's first.

    Raises:
        ValidationError: the job has no such size.
    """
    wanted = request.query_params.get("size")
    if not wanted:
        return None
    size = picture.job.sizes.filter(pk=wanted).first() if wanted.isdigit() else None
    if size is None:
        raise ValidationError("This job has no such delivery size.")
    return size


def _region(request, pk: int) -> Region:
    return get_object_or_404(Region.objects.visible_to(request.user).select_related("picture__job", "current"), pk=pk)


class SpreadView(APIView):
    """One region across all attempts: order by machine and by people, and what was told each."""

    @extend_schema(responses=shape.Spread, operation_id="spread", parameters=[OpenApiParameter("size", int, description="a delivery size of the job")])
    def get(self, request, pk: int):
        region = _region(request, pk)
        return Response(spread_of(region, size_asked(request, region.picture)))


class PickView(APIView):
    """Pick the attempt that holds best in a region."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(request=shape.PickAsked, responses=shape.Spread, operation_id="pick", parameters=[OpenApiParameter("size", int)])
    def post(self, request, pk: int):
        region = _region(request, pk)
        self.check_object_permissions(request, region)
        asked = shape.PickAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        attempt = region.picture.attempts.filter(pk=asked.validated_data["attempt"]).first()
        if attempt is None:
            raise ValidationError("This picture has no such attempt.")
        size = size_asked(request, region.picture)
        pick(region, attempt, request.user)
        return Response(spread_of(region, size))


class PairView(APIView):
    """Blind pairs of a region: the next one, with names hidden; a choice; the last choice taken back."""

    permission_classes = [IsAuthenticated, Rules]

    def _next(self, region: Region, person) -> Response:
        pair = pair_for(region, person)
        hidden = [{**image_of(attempt.image), "name": side, "facts": ""} for attempt, side in zip(pair, ("left", "right"), strict=True)] if pair else [None, None]
        return Response({"region": region.pk, "left": hidden[0], "right": hidden[1], "pairs": region.pairs.filter(withdrawn_at=None).count(),
                         "mine": region.pairs.filter(withdrawn_at=None, person=person).count()})

    @extend_schema(responses=shape.PairOf, operation_id="pair")
    def get(self, request, pk: int):
        region = _region(request, pk)
        self.check_object_permissions(request, region)
        return self._next(region, request.user)

    @extend_schema(request=shape.PairAsked, responses=shape.PairOf, operation_id="choose")
    def post(self, request, pk: int):
        region = _region(request, pk)
        self.check_object_permissions(request, region)
        asked = shape.PairAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        left, right = (region.picture.attempts.filter(image=given[side]).first() for side in ("left", "right"))
        if left is None or right is None or left == right:
            raise ValidationError("These are not two attempts of this picture.")
        choose(region, request.user, left, right, {"left": left, "right": right}.get(given["better"]))
        return self._next(region, request.user)

    @extend_schema(responses={200: shape.PairOf}, operation_id="unchoose")
    def delete(self, request, pk: int):
        region = _region(request, pk)
        self.check_object_permissions(request, region)
        if not unchoose(region, request.user):
            raise ValidationError("You have chosen no pair here yet.")
        return self._next(region, request.user)
