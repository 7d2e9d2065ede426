"""Slips: writing, editing, sending; the package and the result; what came back."""

from __future__ import annotations

from decimal import Decimal

from arrivals.receiving import must_fit, refuse_twice
from django.conf import settings
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from looks.models import saw
from rest_framework.exceptions import NotFound, ValidationError
from rest_framework.permissions import IsAuthenticated
from rest_framework.response import Response
from rest_framework.views import APIView
from slips.models import Slip
from slips.packing import package_of
from slips.sending import edit_slip, send_slip, take_back, take_up, withdraw_slip, write_slip

from attempts.intake import Facts
from attempts.models import Attempt
from images.crops import crop_of
from images.storage import blob_bytes
from people.models import Person
from zweiblick_core.errors import Refused
from zweiblick_core.reading import read

from . import serializers as shape
from .permissions import Rules, Works
from .shapes import slip_of


def _slip(request, pk: int) -> Slip:
    return get_object_or_404(
        Slip.objects.visible_to(request.user).select_related(
            "picture__job", "attempt__image", "worker"
        ),
        pk=pk,
    )


class SlipsView(APIView):
    """What is out, what is back, is it fixed?"""

    @extend_schema(responses=shape.SlipOf(many=True), operation_id="slips")
    def get(self, request):
        rows = (
            Slip.objects.visible_to(request.user)
            .select_related("picture__job", "attempt", "worker", "returned", "written_by")
            .prefetch_related("regions__region", "locks__region")[:200]
        )
        return Response([slip_of(row, request.user) for row in rows])


class WriteSlipView(APIView):
    """Write a slip from an attempt's failed regions."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=None, responses={201: shape.SlipOf, 400: shape.Failure}, operation_id="write_slip"
    )
    def post(self, request, pk: int):
        attempt = get_object_or_404(
            Attempt.objects.visible_to(request.user).select_related("picture__job"), pk=pk
        )
        self.check_object_permissions(request, attempt)
        return Response(slip_of(write_slip(attempt, request.user), request.user), status=201)


class SlipView(APIView):
    """One slip; its words and changes while it was not sent."""

    permission_classes = [IsAuthenticated, Works]

    @extend_schema(responses=shape.SlipOf, operation_id="slip")
    def get(self, request, pk: int):
        return Response(slip_of(_slip(request, pk), request.user))

    @extend_schema(
        request=shape.SlipEdit,
        responses={200: shape.SlipOf, 400: shape.Failure},
        operation_id="edit_slip",
    )
    def patch(self, request, pk: int):
        slip = _slip(request, pk)
        if not Rules().has_object_permission(request, self, slip):
            self.permission_denied(request, Rules.message)
        asked = shape.SlipEdit(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        worker = None
        if given.get("worker") is not None:
            worker = Person.objects.filter(pk=given["worker"]).first()
            if worker is None:
                raise ValidationError("There is no such person.")
        edit_slip(
            slip,
            request.user,
            given.get("note"),
            given.get("regions", []),
            worker,
            "worker" in given,
        )
        return Response(slip_of(_slip(request, pk), request.user))


class _SlipStep(APIView):
    permission_classes = [IsAuthenticated, Rules]

    def step(self, request, pk: int, act) -> Response:
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        act(slip, request.user)
        return Response(slip_of(_slip(request, pk), request.user))


class SendSlipView(_SlipStep):
    """Send it; also again, after it failed."""

    @extend_schema(
        request=None, responses={200: shape.SlipOf, 409: shape.Failure}, operation_id="send_slip"
    )
    def post(self, request, pk: int):
        return self.step(request, pk, send_slip)


class WithdrawSlipView(_SlipStep):
    """Take a slip back before it is answered."""

    @extend_schema(
        request=None,
        responses={200: shape.SlipOf, 409: shape.Failure},
        operation_id="withdraw_slip",
    )
    def post(self, request, pk: int):
        return self.step(request, pk, withdraw_slip)


class TakeUpSlipView(_SlipStep):
    """The retoucher says that they are at it."""

    permission_classes = [IsAuthenticated, Works]

    @extend_schema(
        request=None, responses={200: shape.SlipOf, 409: shape.Failure}, operation_id="take_up_slip"
    )
    def post(self, request, pk: int):
        return self.step(request, pk, take_up)


class SlipPackageView(APIView):
    """Everything a retoucher needs, as one zip: pictures, masks ready to use, evidence, words."""

    permission_classes = [IsAuthenticated, Works]

    @extend_schema(
        responses={(200, "application/zip"): OpenApiTypes.BINARY}, operation_id="slip_package"
    )
    def get(self, request, pk: int):
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        name = f"slip-{slip.picture.number:02d}-{slip.round}.zip"
        return HttpResponse(
            package_of(slip),
            content_type="application/zip",
            headers={
                "Content-Disposition": f'attachment; filename="{name}"',
                "Cache-Control": "private, no-store",
            },
        )


class SlipResultView(APIView):
    """A retoucher's answer: a new result, made from the attempt that was sent."""

    permission_classes = [IsAuthenticated, Works]

    @extend_schema(
        request={"multipart/form-data": shape.SlipResult},
        responses={201: shape.SlipOf, 400: shape.Failure, 409: shape.Failure},
        operation_id="return_slip",
    )
    def post(self, request, pk: int):
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        file = request.FILES.get("file")
        if file is None:
            raise ValidationError("A file is needed.")
        if file.size > settings.MOST_BYTES:
            raise Refused(f"{file.name}: is larger than {settings.MOST_BYTES // 1_000_000} MB")
        data = file.read()
        try:
            decoded = read(data, settings.MOST_PIXELS)
        except Refused as error:
            raise Refused(str(error).replace("the file", file.name, 1)) from error
        refuse_twice(slip.picture.job, decoded.sha256, file.name)
        must_fit(
            read(blob_bytes(slip.picture.original.blob), settings.MOST_PIXELS),
            decoded,
            file.name,
            in_place=True,
        )
        seconds, cost = request.data.get("seconds"), request.data.get("cost")
        try:
            facts = Facts(
                "retouched by hand",
                "by hand",
                request.user.called,
                float(seconds) if seconds else None,
                Decimal(cost) if cost else None,
                {"slip": slip.round},
            )
        except (ValueError, ArithmeticError) as error:
            raise ValidationError("Seconds and cost are numbers.") from error
        take_back(slip, data, file.name, facts, request.user)
        return Response(slip_of(_slip(request, pk), request.user), status=201)


class SlipCropView(APIView):
    """One flaw's place, small: in the attempt that was sent, or (`after`) in the one that came
    back.
    """

    @extend_schema(responses={(200, "image/jpeg"): OpenApiTypes.BINARY}, operation_id="slip_crop")
    def get(self, request, pk: int, region: int, which: str):
        slip = _slip(request, pk)
        part = get_object_or_404(slip.regions.select_related("version"), region_id=region)
        attempt = slip.returned if which == "after" else slip.attempt
        if attempt is None:
            raise NotFound("Nothing came back yet.")
        saw(slip.picture, request.user)
        return HttpResponse(
            crop_of(attempt.image.blob, part.version.bbox),
            content_type="image/jpeg",
            headers={"Cache-Control": "private, max-age=86400"},
        )
