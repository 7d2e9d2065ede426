"""Drawing a picture's regions."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.response import Response

from images.crops import NotYet
from images.models import Image
from images.outlining import Act, acted
from jobs.models import Picture
from people.sessions import person_of
from regions.drafts import read_draft
from regions.editing import (
    correct,
    draw_region,
    frame_of,
    merge_regions,
    redraw,
    split_region,
    take_in_again,
    withdraw_region,
)
from regions.models import Region

from . import outline_serializers as shape
from . import serializers
from .of_picture import OfPicture
from .outline_shapes import area_of, outlines_of


class _Outlined(OfPicture):
    """Only a supervisor draws regions; whoever works on the picture sees them."""

    seen_by_all = True

    def region(self, request: Request, pk: int) -> Region:
        found: Region = get_object_or_404(
            Region.every.visible_to(person_of(request)).select_related("picture__job", "current"),
            pk=pk,
        )
        self.check_object_permissions(request, found)
        return found

    def outlines(self, request: Request, picture: Picture, status: int = 200) -> Response:
        return Response(outlines_of(picture, person_of(request)), status)


class OutlinesView(_Outlined):
    """A picture's regions with their outlines and versions; drawing one more."""

    @extend_schema(responses=shape.Outlines, operation_id="outlines")
    def get(self, request: Request, pk: int) -> Response:
        return self.outlines(request, self.picture(request, pk))

    @extend_schema(
        request=shape.RegionAsked,
        responses={201: shape.Outlines, 400: serializers.Failure},
        operation_id="draw_region",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        asked = shape.RegionAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        area = read_draft(asked.validated_data["mask"], frame_of(picture))
        draw_region(picture, asked.validated_data["name"], area, person_of(request))
        return self.outlines(request, picture, 201)


class OutlineActView(_Outlined):
    """What an outline is after one act of drawing. Nothing is stored."""

    @extend_schema(
        request=shape.ActAsked,
        responses={200: shape.AreaOf, 400: serializers.Failure, 503: serializers.Failure},
        operation_id="draw",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        asked = shape.ActAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        given = dict(asked.validated_data)
        frame = frame_of(picture)
        base, wanted = given.pop("mask"), given.pop("image")
        area = given.pop("area")
        image = picture.original
        if wanted is not None:
            image = Image.objects.filter(picture=picture, pk=wanted).select_related("blob").first()
            if image is None:
                raise ValidationError("This picture has no such image.")
        image.picture = picture
        act = Act(
            **{
                **given,
                "box": tuple(given["box"]) if given["box"] else None,
                "spots": [(int(x), int(y)) for x, y in given["spots"]],
                "area": read_draft(area, frame) if area else None,
            }
        )
        try:
            done = acted(image, read_draft(base, frame) if base else None, act)
        except FileNotFoundError as error:
            raise NotYet from error
        return Response(area_of(done.area, done.words))


class MergeRegionsView(_Outlined):
    """Several regions become one."""

    @extend_schema(
        request=shape.MergeAsked,
        responses={200: shape.Outlines, 400: serializers.Failure},
        operation_id="merge_regions",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        asked = shape.MergeAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        merge_regions(picture, asked.validated_data["regions"], person_of(request))
        return self.outlines(request, picture)


class RegionView(_Outlined):
    """Another name or backdrop for a region; withdrawing it."""

    @extend_schema(
        request=shape.RegionCorrected,
        responses={200: shape.Outlines, 400: serializers.Failure},
        operation_id="correct_region",
    )
    def patch(self, request: Request, pk: int) -> Response:
        region = self.region(request, pk)
        asked = shape.RegionCorrected(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        correct(region, person_of(request), given.get("name"), given.get("backdrop"))
        return self.outlines(request, region.picture)

    @extend_schema(
        responses={200: shape.Outlines, 400: serializers.Failure}, operation_id="withdraw_region"
    )
    def delete(self, request: Request, pk: int) -> Response:
        region = self.region(request, pk)
        withdraw_region(region, person_of(request))
        return self.outlines(request, region.picture)


class RegionAgainView(_Outlined):
    """A withdrawn region stands again."""

    @extend_schema(request=None, responses=shape.Outlines, operation_id="take_region_in_again")
    def post(self, request: Request, pk: int) -> Response:
        region = self.region(request, pk)
        take_in_again(region, person_of(request))
        return self.outlines(request, region.picture)


class RedrawView(_Outlined):
    """Another outline for a region: a new version."""

    @extend_schema(
        request=shape.RedrawAsked,
        responses={200: shape.Outlines, 400: serializers.Failure, 412: serializers.Failure},
        operation_id="redraw_region",
    )
    def post(self, request: Request, pk: int) -> Response:
        region = self.region(request, pk)
        asked = shape.RedrawAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        area = read_draft(asked.validated_data["mask"], frame_of(region.picture))
        redraw(region, area, person_of(request), asked.validated_data["version"])
        return self.outlines(request, region.picture)


class SplitRegionView(_Outlined):
    """Each connected part of a region becomes one."""

    @extend_schema(
        request=None,
        responses={200: shape.Outlines, 400: serializers.Failure},
        operation_id="split_region",
    )
    def post(self, request: Request, pk: int) -> Response:
        region = self.region(request, pk)
        split_region(region, person_of(request))
        return self.outlines(request, region.picture)


class RegionVersionView(_Outlined):
    """The outline of an earlier version, to begin from."""

    @extend_schema(responses=shape.AreaOf, operation_id="region_version")
    def get(self, request: Request, pk: int, version: int) -> Response:
        region = get_object_or_404(Region.objects.visible_to(person_of(request)), pk=pk)
        found = get_object_or_404(region.versions, version=version)
        return Response(area_of(found.core))
