"""Signing off, reopening, releasing; deliveries."""

from __future__ import annotations

import re
from collections.abc import Iterator

from django.http import HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound, ValidationError
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from jobs.models import Job, Membership
from people.models import Person
from people.sessions import person_of
from signing.delivering import ask_delivery, build_again
from signing.formats import Options
from signing.keeping import is_kept, stored_name
from signing.models import Delivery
from signing.names import plain_name
from signing.signing import release, reopen, sign
from store.places import deliveries

from . import signing_serializers as shape
from .asking import validated
from .of_picture import OfPicture, attempt_of
from .serializers import Failure
from .signing_shapes import deliveries_of, signing_of

_CHUNK = 1 << 18


class SignOffView(OfPicture):
    """What would leave and what stands in the way; signing it off."""

    @extend_schema(responses=shape.SigningOf, operation_id="signing")
    def get(self, request: Request, pk: int) -> Response:
        return Response(signing_of(self.picture(request, pk)))

    @extend_schema(
        request=shape.SignAsked,
        responses={201: shape.SigningOf, 400: Failure},
        operation_id="sign_off",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        given = validated(shape.SignAsked, request)
        attempt = attempt_of(picture, given["attempt"])
        sign(picture, attempt, person_of(request))
        return Response(signing_of(picture), 201)


class ReopenView(OfPicture):
    """Take a sign-off back, with a reason."""

    @extend_schema(
        request=shape.ReopenAsked,
        responses={200: shape.SigningOf, 400: Failure, 409: Failure},
        operation_id="reopen",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        given = validated(shape.ReopenAsked, request)
        reopen(picture, given["reason"], person_of(request))
        return Response(signing_of(picture))


class ReleaseView(OfPicture):
    """Show what was signed off to guests of the job."""

    @extend_schema(
        request=shape.ReleaseAsked,
        responses={200: shape.SigningOf, 400: Failure},
        operation_id="release",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        given = validated(shape.ReleaseAsked, request)
        wanted = set(given["people"])
        people = list(Person.objects.filter(pk__in=wanted))
        if len(people) < len(wanted):
            raise ValidationError("There is no such person.")
        release(picture, people, person_of(request))
        return Response(signing_of(picture))


class DeliveriesView(APIView):
    """A job's signed pictures and the zips that were built of them."""

    def job(self, request: Request, pk: int) -> Job:
        return get_object_or_404(
            Job.objects.filter(
                memberships__person=person_of(request),
                memberships__role=Membership.Role.SUPERVISOR,
            ),
            pk=pk,
        )

    @extend_schema(responses=shape.Deliveries, operation_id="deliveries")
    def get(self, request: Request, pk: int) -> Response:
        return Response(deliveries_of(self.job(request, pk)))

    @extend_schema(
        request=shape.DeliveryAsked,
        responses={202: shape.Deliveries, 400: Failure},
        operation_id="ask_delivery",
    )
    def post(self, request: Request, pk: int) -> Response:
        job = self.job(request, pk)
        given = validated(shape.DeliveryAsked, request)
        pictures = given.pop("pictures")
        ask_delivery(job, pictures, Options.from_dict(given), person_of(request))
        return Response(deliveries_of(job), 202)


def _delivery(request: Request, pk: int) -> Delivery:
    rows = Delivery.objects.visible_to(person_of(request)).select_related("job")
    return get_object_or_404(rows, pk=pk)


class DeliveryView(APIView):
    """Build one again that failed or is kept no longer."""

    @extend_schema(
        request=None,
        responses={202: shape.Deliveries, 409: Failure},
        operation_id="build_delivery_again",
    )
    def post(self, request: Request, pk: int) -> Response:
        delivery = _delivery(request, pk)
        build_again(delivery, person_of(request))
        return Response(deliveries_of(delivery.job), 202)


class DeliveryFileView(APIView):
    """The zip; a download that broke off goes on where it was (RFC 9110, ranges)."""

    @extend_schema(
        responses={(200, "application/zip"): OpenApiTypes.BINARY}, operation_id="delivery_file"
    )
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        delivery = _delivery(request, pk)
        name = stored_name(delivery)
        if not is_kept(delivery):
            raise NotFound("This delivery is not kept any more; build it again.")
        start = _start(request, delivery)
        if start is None:
            return HttpResponse(status=416, headers={"Content-Range": f"bytes */{delivery.size}"})
        answer = StreamingHttpResponse(
            _chunks(name, start), status=206 if start else 200, content_type="application/zip"
        )
        answer["Content-Length"] = str(delivery.size - start)
        answer["Accept-Ranges"] = "bytes"
        answer["ETag"] = f'"{delivery.sha256}"'
        answer["Cache-Control"] = "private, no-store"
        plain = plain_name(delivery.job.name, "delivery")
        answer["Content-Disposition"] = f'attachment; filename="{plain}-{delivery.pk}.zip"'
        if start:
            answer["Content-Range"] = f"bytes {start}-{delivery.size - 1}/{delivery.size}"
        return answer


def _start(request: Request, delivery: Delivery) -> int | None:
    """Where the wanted rest begins: 0 for all of it, None where there is no such place. Only an
    open range from a place on is understood; another answers with all of it.
    """
    found = re.fullmatch(r"bytes=(\d{1,15})-", request.headers.get("Range", ""))
    if not found or request.headers.get("If-Range", f'"{delivery.sha256}"') != (
        f'"{delivery.sha256}"'
    ):
        return 0
    start = int(found[1])
    return start if start < delivery.size else None


def _chunks(name: str, start: int) -> Iterator[bytes]:
    with deliveries().opened(name) as file:
        file.seek(start)
        while chunk := file.read(_CHUNK):
            yield chunk
